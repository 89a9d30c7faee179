"""The rows of the ranking: one condition's mean, interval, dots and words."""

from dataclasses import dataclass, replace
from statistics import fmean

from brunt_core.observations import Observation
from brunt_core.quantities.rendering import figures, number
from brunt_core.statistics.ranking import Row
from brunt_core.statistics.ratios import Ratio
from brunt_core.statistics.summaries import Summary, summarise
from brunt_web.campaigns.addresses import specimen_address
from brunt_web.comparison import ranking_chart
from brunt_web.comparison.queries import ComparedGroup
from brunt_web.interface.scale import Scale


@dataclass
class Line:
    """One row of the ranking."""

    place: int
    row: Row
    group: ComparedGroup
    value: str
    interval: str
    cv: str
    count: str
    percent: str
    percent_interval: str
    dots: list[ranking_chart.Dot]
    excluded: list[ranking_chart.Dot]
    bar: ranking_chart.IntervalBar | None
    mean_x: float | None
    brackets: list[str]
    with_all: str = ""
    working_url: str = ""
    held: str = ""
    beside: str = ""
    worst: Observation | None = None
    worst_value: str = ""
    chosen: bool = False
    alike: bool = False
    choose_url: str = ""


def interval_of(row: Row, factor: float, percent: str | None) -> tuple[float, float] | None:
    """The interval drawn: of the mean, or of the ratio when percentages are shown."""
    if percent:
        ratio: Ratio | None = getattr(row, percent)
        if ratio is None or ratio.low is None or ratio.high is None or ratio.low == ratio.high:
            return None
        return ratio.low * 100, ratio.high * 100
    low, high = row.summary.low, row.summary.high
    return None if low is None or high is None else (low * factor, high * factor)


def line_for(
    i: int,
    row: Row,
    group: ComparedGroup,
    scale: Scale,
    factor: float,
    interval: tuple[float, float] | None,
    marks: list[str],
    with_all: str | None,
) -> Line:
    """One row of the ranking; ``with_all`` what it would be with everything back in, if it is known."""
    titles = [
        (f"{code}: {_spoken(o)}", specimen_address(code))
        for code, o in zip(group.codes, row.observations, strict=True)
    ]
    s = row.summary
    out = _out(group, scale, factor) if s.sd is not None else []
    ratio = row.of_reference or row.of_best
    worst = (max if group.lower_is_better else min)(
        row.observations, key=lambda o: o.anchor, default=None
    )
    everything = (
        summarise(group.with_all)
        if group.excluded and with_all is None and s.sd is not None
        else None
    )
    return Line(
        i + 1,
        row,
        group,
        value=spoken_mean(s, factor),
        interval=_range_text(interval),
        cv="–" if s.cv is None else f"{number(s.cv * 100, '.1f')} %",
        count=_count(row, group),
        percent="–" if ratio is None else f"{ratio.sign} {ratio.value * 100:.0f} %".strip(),
        percent_interval=_range_text(
            (ratio.low * 100, ratio.high * 100)
            if ratio and ratio.low and ratio.high and ratio.low != ratio.high
            else None
        ),
        dots=ranking_chart.dots_for(row, scale, factor, titles),
        excluded=out,
        bar=ranking_chart.bar_for(interval, scale),
        mean_x=scale.x(s.mean * factor) if s.mean == s.mean else None,
        brackets=marks,
        with_all=with_all or (spoken_mean(everything, factor) if everything else ""),
        held=_held_words(row, group, factor) if s.sign else "",
        beside="; ".join(filter(None, (_beside(row, group, factor), _harder(row)))),
        worst=worst,
        worst_value=_spoken(worst.scaled(factor)) if worst else "",
    )


def by_the_worst(lines: list[Line], better: str) -> list[Line]:
    """The rows in order of their worst specimen: what to design on where not one may fail.

    One that held counts at its load. Brackets belong to the order of the means and are excluded.
    """

    def anchor(line: Line) -> float:
        return line.worst.anchor if line.worst else float("nan")

    told = [line for line in lines if line.worst]
    told.sort(key=anchor, reverse=better != "lower")
    ordered = [*told, *(line for line in lines if not line.worst)]
    return [
        replace(line, place=i + 1, brackets=["" for _ in line.brackets])
        for i, line in enumerate(ordered)
    ]


def _beside(row: Row, group: ComparedGroup, factor: float) -> str:
    """Where one is a suspected outlier: the mean without it, and the smallest (or greatest) to design on."""
    outlier = group.outlier
    if not outlier or outlier not in group.codes:
        return ""
    anchors = dict(zip(group.codes, (o.anchor * factor for o in row.observations), strict=True))
    rest = [v for code, v in anchors.items() if code != outlier]
    worse = max if group.lower_is_better else min
    word = "greatest" if group.lower_is_better else "smallest"
    return f"without it {figures(fmean(rest))}, {word} {figures(worse(anchors.values()))}"


def _harder(row: Row) -> str:
    """Why a mean's interval is wider than those of the rows beside it."""
    if not row.harder or row.summary.low is None:
        return ""
    return f"few, and all failed where others did not: at {number(row.harder * 100, 'g')} %"


def _out(group: ComparedGroup, scale: Scale, factor: float) -> list[ranking_chart.Dot]:
    """Excluded, where it lies."""
    return [
        ranking_chart.Dot(
            scale.x(o.anchor * factor),
            ranking_chart.HEIGHT / 2 - 4,
            "excluded",
            f"{code}: {_spoken(o)}, excluded: {why}",
            specimen_address(code),
        )
        for code, o, why in [*group.excluded, *group.unlike]
    ]


def spoken_mean(summary: Summary, factor: float) -> str:
    """The mean with its sign, in the unit shown; a dash where there is none."""
    if summary.mean != summary.mean:
        return "–"
    return f"{summary.sign} {figures(summary.mean * factor)}".strip()


def _range_text(pair: tuple[float, float] | None) -> str:
    return f"{figures(pair[0])} – {figures(pair[1])}" if pair else ""


def _spoken(observation: Observation) -> str:
    sign = {"at_least": "≥ ", "at_most": "≤ ", "between": "between, about "}.get(
        observation.kind, ""
    )
    return sign + figures(observation.anchor)


def _held_words(row: Row, group: ComparedGroup, factor: float) -> str:
    """What bare bounds say: how many failed, or how many held and at what."""
    if group.failed:
        return f"{group.failed} of {row.summary.n} failed"
    kind, word = (
        ("at_least", "did not fail at") if row.summary.sign == "≥" else ("at_most", "under")
    )
    bounds = [o.anchor * factor for o in row.observations if o.kind == kind]
    if not bounds:
        return ""
    low, high = figures(min(bounds)), figures(max(bounds))
    return f"{len(bounds)} of {row.summary.n} {word} {low if low == high else f'{low} to {high}'}"


def _count(row: Row, group: ComparedGroup) -> str:
    parts = [str(row.summary.n)]
    held = sum(o.kind == "at_least" for o in row.observations) - group.failed
    if held > 0:
        parts.append(f"{held} ≥")
    if group.failed:
        parts.append(f"{group.failed} failed")
    return " · ".join(parts)
