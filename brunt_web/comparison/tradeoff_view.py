"""The trade-off: two properties against one another, the best-possible edge; scores over all of them."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import figures
from brunt_core.statistics.scores import Score, scores
from brunt_web.campaigns.models import Condition
from brunt_web.comparison.strips import Strip
from brunt_web.interface.scale import scale_for

WIDE, HIGH, LEFT, FOOT = 640.0, 470.0, 56.0, 40.0


@dataclass
class Spot:
    """One condition: where it lies, its intervals, whether nothing beats it in both."""

    number: int
    condition: Condition
    name: str
    x: float
    y: float
    bar_x: tuple[float, float] | None
    bar_y: tuple[float, float] | None
    on_edge: bool
    texts: tuple[str, str]
    bound: bool


@dataclass
class TradeOff:
    """The whole drawing."""

    spots: list[Spot] = field(default_factory=list)
    edge: str = ""
    x_ticks: list[tuple[float, str]] = field(default_factory=list)
    y_ticks: list[tuple[float, str]] = field(default_factory=list)
    titles: tuple[str, str] = ("", "")
    headline: str = ""
    why_not: str = ""


def tradeoff_of(
    across: Strip | None, up: Strip | None, conditions: Sequence[Condition]
) -> TradeOff:
    """The drawing of two properties, or why there is none."""
    if across is None or up is None or across.key == up.key:
        return TradeOff(why_not="A trade-off needs two properties; this campaign tests one.")
    told = [c for c in conditions if _known(across, c) and _known(up, c)]
    if len(told) < 2:
        return TradeOff(why_not="Two conditions tested in both are needed.")
    values = {c.pk: [_of(s, c) for s in (across, up)] for c in told}
    ends = [_shown([row[i] for row in values.values()]) for i in (0, 1)]
    scale_x = scale_for(ends[0], WIDE - LEFT, 22, 6)
    scale_y = scale_for(ends[1], HIGH - FOOT, 22, 6)

    def x(value: float) -> float:
        at = scale_x.x(value)
        return round(LEFT + (scale_x.width - at if across.lower else at), 1)

    def y(value: float) -> float:
        at = scale_y.x(value)
        return round(at if up.lower else HIGH - FOOT - at, 1)

    edge = _edge(told, values, across.lower, up.lower)
    spots = _spots(across, up, told, values=values, edge=edge, x=x, y=y)
    on = sorted((s for s in spots if s.on_edge), key=lambda s: s.x)
    return TradeOff(
        spots,
        "M" + " L".join(f"{s.x},{s.y}" for s in on) if len(on) > 1 else "",
        [
            (round(LEFT + (scale_x.width - t if across.lower else t), 1), n)
            for t, n in scale_x.ticks
        ],
        [(round(t if up.lower else HIGH - FOOT - t, 1), n) for t, n in scale_y.ticks],
        titles=(_title(across), _title(up)),
        headline=_said(on, across, up),
    )


def _spots(
    across: Strip,
    up: Strip,
    told: Sequence[Condition],
    values: Mapping[int, list],
    edge: Sequence[Condition],
    x: Callable[[float], float],
    y: Callable[[float], float],
) -> list[Spot]:
    """Each condition where it lies, numbered from the top."""
    spots = []
    for i, c in enumerate(sorted(told, key=lambda c: y(values[c.pk][1][0] or 0.0)), 1):
        (mx, lx, hx), (my, ly, hy) = values[c.pk]
        assert mx is not None and my is not None
        spots.append(
            Spot(
                i,
                c,
                across.names.get(c.pk, str(c)),
                x=x(mx),
                y=y(my),
                bar_x=(x(lx), x(hx)) if lx is not None and hx is not None else None,
                bar_y=(y(ly), y(hy)) if ly is not None and hy is not None else None,
                on_edge=c in edge,
                texts=(figures(mx), figures(my)),
                bound=bool(_sign(across, c) or _sign(up, c)),
            )
        )
    return spots


def _shown(rows: Sequence[tuple[float | None, float | None, float | None]]) -> list[float]:
    """What the scale must hold: every mean, and the ends of intervals that are not far out."""
    means = [m for m, _, _ in rows if m is not None]
    span = (max(means) - min(means)) or abs(max(means)) or 1.0
    low, high = min(means) - span / 2, max(means) + span / 2
    ends = [e for _, a, b in rows for e in (a, b) if e is not None]
    return means + [min(max(e, low), high) for e in ends]


def _known(strip: Strip, condition: Condition) -> bool:
    s = strip.summary(condition.pk)
    return s is not None and s.mean == s.mean


def _sign(strip: Strip, condition: Condition) -> str:
    s = strip.summary(condition.pk)
    return s.sign if s else ""


def _of(strip: Strip, condition: Condition) -> tuple[float | None, float | None, float | None]:
    s = strip.summary(condition.pk)
    assert s is not None
    return s.mean, s.low, s.high


def _title(strip: Strip) -> str:
    return f"{strip.title}, {strip.prop.unit}"


def _edge(
    conditions: Sequence[Condition],
    values: Mapping[int, list],
    less_x: bool,
    less_y: bool,
) -> list[Condition]:
    """Those that no other beats in both."""

    def point(c: Condition) -> tuple[float, float]:
        (x, *_), (y, *_) = values[c.pk]
        return (-x if less_x else x, -y if less_y else y)

    return [
        c
        for c in conditions
        if not any(
            o != c
            and all(a >= b for a, b in zip(point(o), point(c), strict=True))
            and point(o) != point(c)
            for o in conditions
        )
    ]


def _said(on: Sequence[Spot], across: Strip, up: Strip) -> str:
    if len(on) == 1:
        return f"{on[0].name} is best in both: there is no trade-off."
    names = ", ".join(s.name for s in on[:5]) + (f" and {len(on) - 5} more" if len(on) > 5 else "")
    close = [s for s in on if s.bound]
    said = f"{names} are on the Pareto front: no other has better means in both."
    if close:
        said += f" Of {', '.join(s.name for s in close[:3])} only bounds are known."
    return said


@dataclass
class ScoreRow:
    """One condition's score with its name and place."""

    place: int
    name: str
    score: Score


@dataclass
class Scored:
    """The scores, their weights, and what is excluded of them."""

    rows: list[ScoreRow]
    weights: list[tuple[str, str, str]]
    excluded: list[str]
    says: str
    why_not: str = ""


def scored(
    strips: Sequence[Strip], conditions: Sequence[Condition], asked: Mapping[str, str]
) -> Scored:
    """Scores over the properties of all procedures, with weights as the address gives them."""
    usable = [s for s in strips if len(s.places) > 1]
    weights = {s.key: _weight(asked.get(f"w{s.procedure.pk}", "")) for s in usable}
    shown = [(f"w{s.procedure.pk}", s.title, figures(weights[s.key])) for s in usable]
    names = strips[0].names if strips else {}
    means = {
        c.pk: {
            s.key: m.mean for s in usable if (m := s.summary(c.pk)) is not None and m.mean == m.mean
        }
        for c in conditions
    }
    lacking = [names.get(pk, "") for pk, own in means.items() if own and len(own) < len(usable)]
    try:
        found = scores(
            {str(pk): own for pk, own in means.items()},
            {s.key: s.prop.better for s in usable},
            weights,
        )
    except InputError as error:
        return Scored([], shown, lacking, "", error.sentence)
    rows = [ScoreRow(i, names.get(int(s.name), ""), s) for i, s in enumerate(found, 1)]
    top = max(rows, key=lambda r: r.score.leads)
    said = (
        f"{rows[0].name} has the best score with these weights. Over all weightings {top.name} "
        f"leads in {top.score.leads * 100:.0f} %."
    )
    if rows[0].name != top.name or top.score.leads < 0.8:
        said += " The order depends on the weights."
    return Scored(rows, shown, lacking, said)


def _weight(text: str) -> float:
    try:
        return min(max(float(text.replace(",", ".")), 0.0), 1000.0) if text else 1.0
    except ValueError:
        return 1.0
