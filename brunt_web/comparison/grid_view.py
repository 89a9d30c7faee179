"""The grid: two factors on one ruler, cells with every specimen, the edges, and what is not additive."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import figures, number, p_value
from brunt_core.statistics.effects import Effects, Term, effects
from brunt_core.statistics.summaries import Summary
from brunt_web.campaigns.models import Campaign, Condition, Factor
from brunt_web.comparison.strips import Mark, Strip, strip_marks
from brunt_web.interface.scale import scale_for

HIGH, TOP, FOOT, LEFT = 400.0, 34.0, 46.0, 54.0
ROOM, NARROW, BROAD = 1190.0, 58.0, 130.0
_DASHES = ("", "7 4", "2 4", "12 4 2 4", "5 2 1 2")


@dataclass
class GridCell:
    """One combination: its marks, its mean and interval, what it would be if effects only added up."""

    x: float
    marks: list[Mark]
    mean: float | None
    value: str
    bar: tuple[float, float] | None
    added: float | None
    more: str
    leads: bool
    real: bool
    note: str = ""
    top: float = 0.0

    @property
    def frame(self) -> float:
        """How high a frame round all of it is, its value above it."""
        low = max([m.y for m in self.marks] + [b[0] + b[1] for b in (self.bar,) if b] + [self.top])
        return round(low - self.top + 34, 1)


@dataclass
class LineOf:
    """The cells of one level of the second factor, through the levels of the first."""

    label: str
    dash: str
    path: str
    added: str
    at: tuple[float, float] | None = None


@dataclass
class Panel:
    """One level of the first factor: where its column stands."""

    label: str
    x: float
    wide: float


@dataclass
class EdgeOf:
    """One factor's own effect: its levels' marginal means, and p."""

    title: str
    verdict: str
    points: list[tuple[float, float, tuple[float, float] | None, str, str]]
    path: str
    x: float


@dataclass
class GridView:
    """The whole drawing."""

    panels: list[Panel] = field(default_factory=list)
    cells: list[GridCell] = field(default_factory=list)
    lines: list[LineOf] = field(default_factory=list)
    edges: list[EdgeOf] = field(default_factory=list)
    y_ticks: list[tuple[float, str]] = field(default_factory=list)
    columns: list[tuple[float, str]] = field(default_factory=list)
    wide: float = 800.0
    headline: str = ""
    rest: list[str] = field(default_factory=list)
    table: list[tuple[str, str, str, str]] = field(default_factory=list)
    why_not: str = ""


def grid_of(
    campaign: Campaign,
    strip: Strip,
    conditions: Sequence[Condition],
    factors: Sequence[Factor],
    first: int | None,
    second: int | None,
    with_sum: bool,
) -> GridView:
    """The drawing of two factors, or why there is none."""
    chosen = _chosen(factors, first, second)
    if chosen is None:
        return GridView(
            why_not="A grid needs two factors with two levels each or more; this campaign has "
            + (f"only {factors[0].name.lower()}." if factors else "none.")
        )
    along, across = chosen
    words = {c.pk: {lv.factor_id: lv.label for lv in c.levels.all()} for c in conditions}
    rows = [
        ({"first": words[c.pk][along.pk], "second": words[c.pk][across.pk]}, o.anchor)
        for c in conditions
        if along.pk in words[c.pk] and across.pk in words[c.pk] and c.pk in strip.groups
        for o in strip.groups[c.pk].values
    ]
    try:
        found = effects(rows, ["first", "second"], strip.confidence)
    except InputError as error:
        said = error.sentence.replace("second", across.name).replace("first", along.name)
        return GridView(why_not=said)
    return _drawn(
        strip, conditions, words, along=along, across=across, found=found, with_sum=with_sum
    )


def _chosen(
    factors: Sequence[Factor], first: int | None, second: int | None
) -> tuple[Factor, Factor] | None:
    if len(factors) < 2:
        return None
    known = {f.pk: f for f in factors}
    one = known.get(first or 0) or factors[0]
    other = known.get(second or 0)
    if other is None or other == one:
        other = next(f for f in factors if f != one)
    return one, other


def _drawn(
    strip: Strip,
    conditions: Sequence[Condition],
    words: dict[int, dict[int, str]],
    along: Factor,
    across: Factor,
    found: Effects,
    with_sum: bool,
) -> GridView:
    ones = [lv.label for lv in along.levels.all()]
    others = [lv.label for lv in across.levels.all()]
    values = [o.anchor for g in strip.groups.values() for o in g.values]
    up = scale_for([*values, *found.added.values()], HIGH - TOP - FOOT, 24, 6)

    def y(value: float) -> float:
        return round(HIGH - FOOT - up.x(value), 1)

    view = GridView(y_ticks=[(round(HIGH - FOOT - at, 1), label) for at, label in up.ticks])
    step = {along.pk: _step(ones), across.pk: _step(others)}
    edges = step[along.pk] * len(ones) + step[across.pk] * len(others) + 100
    each = min(max((ROOM - LEFT - edges) / (len(ones) * len(others)) - 6, NARROW), BROAD)
    each = max(each, 7.2 * max(len(o[:10]) for o in others) + 6)
    column = each * len(others) + 18
    both = found.term("first", "second")
    real = bool(both and both.p is not None and both.p < 1 - strip.confidence)
    best = max(found.cells, key=lambda k: -found.cells[k][0] if strip.lower else found.cells[k][0])
    grid: dict[tuple[str, str], GridCell] = {}
    for i, one in enumerate(ones):
        label = f"{along.name} {one}" if one[:1].isdecimal() else one
        view.panels.append(Panel(label, LEFT + i * column, column - 12))
        for j, other in enumerate(others):
            x = LEFT + i * column + 8 + each * (j + 0.5)
            own = [c for c in conditions if words[c.pk].get(along.pk) == one and words[c.pk].get(across.pk) == other]  # fmt: skip
            cell = _cell(strip, own, x, y=y, found=found, key=(one, other), best=best, real=real)
            grid[one, other] = cell
            view.cells.append(cell)
            view.columns.append((cell.x, other))
    for j, other in enumerate(others):
        view.lines.append(_line(j, other, [grid[one, other] for one in ones], with_sum))
    x = LEFT + len(ones) * column + 24
    for factor, key, levels in ((along, "first", ones), (across, "second", others)):
        term = found.term(key)
        if term is not None:
            wide = step[factor.pk]
            view.edges.append(_edge(strip, factor, term, levels=levels, x=x, wide=wide, y=y))
            x += max(wide * len(levels), 8.2 * len(view.edges[-1].verdict)) + 36
    view.wide = x + 8
    _say(view, strip, along, across=across, found=found, best=best, both=both, real=real)
    return view


def _step(levels: Sequence[str]) -> float:
    """How far levels stand apart on an edge, so that their names do not touch."""
    return max(54.0, 7.4 * max(len(v[:9]) for v in levels) + 8)


def _cell(
    strip: Strip,
    own: Sequence[Condition],
    x: float,
    y: Callable[[float], float],
    found: Effects,
    key: tuple[str, str],
    best: tuple[str, ...],
    real: bool,
) -> GridCell:
    marks: list[Mark] = []
    waiting = 0
    for c in own:
        group = strip.groups.get(c.pk) or strip.aside[c.pk]
        waiting += group.waiting
        marks += [
            Mark(round(x + (0, 8, -8, 16)[min(m.lane, 3)], 1), m.lane, m.kind, m.title, m.href, m.x)
            for m in strip_marks(group, y, near=9.0, lanes=4)
        ]
    mean = found.cells.get(key)
    summary = strip.summary(own[0].pk) if len(own) == 1 else None
    bar = None
    if summary and summary.low is not None and summary.high is not None:
        bar = (y(summary.high), round(y(summary.low) - y(summary.high), 1))
    added = found.added.get(key)
    off = mean[0] - added if mean and added is not None else 0.0
    sign = "+" if off > 0 else "−"
    return GridCell(
        round(x, 1),
        marks,
        y(mean[0]) if mean else None,
        value=figures(mean[0]) if mean else "",
        bar=bar,
        added=y(added) if added is not None else None,
        more=f"{sign}{figures(abs(off))}" if mean and added is not None else "",
        leads=key == tuple(best),
        real=real and bool(mean) and bool(bar) and _beyond(off, summary),
        note="" if mean else f"{waiting} waiting" if waiting else "not tested",
        top=min([m.y for m in marks] + [b[0] for b in (bar,) if b] + [y(mean[0]) if mean else 0.0]),
    )


def _beyond(off: float, summary: Summary | None) -> bool:
    """Whether a cell lies off the sum by more than its own mean is known to."""
    if summary is None or summary.low is None or summary.high is None:
        return False
    return abs(off) > (summary.high - summary.low) / 2


def _line(place: int, label: str, cells: Sequence[GridCell], with_sum: bool) -> LineOf:
    told = [c for c in cells if c.mean is not None]
    summed = [c for c in cells if c.added is not None]
    return LineOf(
        label,
        _DASHES[place % len(_DASHES)],
        "M" + " L".join(f"{c.x},{c.mean}" for c in told) if len(told) > 1 else "",
        "M" + " L".join(f"{c.x},{c.added}" for c in summed) if with_sum and len(summed) > 1 else "",
        (told[-1].x, told[-1].mean or 0.0) if told else None,
    )


def _edge(
    strip: Strip,
    factor: Factor,
    term: Term,
    levels: Sequence[str],
    x: float,
    wide: float,
    y: Callable[[float], float],
) -> EdgeOf:
    points = []
    for i, level in enumerate(levels):
        m = next((v for v in term.levels if v.level == level), None)
        if m is None or m.mean is None:
            continue
        bar = None
        if m.low is not None and m.high is not None:
            bar = (y(m.high), round(max(y(m.low) - y(m.high), 1.0), 1))
        points.append((round(x + wide * (i + 0.5), 1), y(m.mean), bar, figures(m.mean), level))
    path = "M" + " L".join(f"{p[0]},{p[1]}" for p in points) if len(points) > 1 else ""
    if term.p is None:
        verdict = "cannot be judged"
    elif term.p < 1 - strip.confidence:
        verdict = f"makes a difference, {_p(term.p)}"
    else:
        verdict = f"no significant difference, {_p(term.p)}"
    return EdgeOf(factor.name, verdict, points, path, x)


def _p(p: float) -> str:
    return p_value(p)


def _say(
    view: GridView,
    strip: Strip,
    along: Factor,
    across: Factor,
    found: Effects,
    best: tuple[str, ...],
    both: Term | None,
    real: bool,
) -> None:
    value, n = found.cells[best]  # type: ignore[index]
    unit = strip.prop.unit
    view.headline = (
        f"{best[0]} with {best[1]} is first: {figures(value)} {unit}, the mean of {n}.".replace(
            "  ", " "
        )
    )
    names = f"{along.name} × {across.name.lower()}"
    if both is None:
        view.rest.append(f"{names}: {found.method}.")
    elif real:
        view.rest.append(
            f"{names} is not additive ({_p(both.p or 0.0)}), so neither factor alone predicts a cell."
        )
    else:
        view.rest.append(
            f"No interaction is detectable for {names} ({_p(both.p or 0.0)}): the main effects suffice."
        )
    view.rest += [
        s.replace("second", across.name).replace("first", along.name) for s in found.aliases
    ]
    held = sum(not o.is_exact for g in strip.groups.values() for o in g.values)
    if held:
        view.rest.append(f"{held} are bounds and are used at their bound here.")
    labels = {"first": along.name, "second": across.name}
    for t in found.terms:
        name = " × ".join(labels[f] for f in t.factors)
        f = "–" if t.f is None else figures(t.f)
        view.table.append((name, str(t.df), f, "–" if t.p is None else number(t.p, ".4f")))
    sd = "–" if found.residual_sd is None else figures(found.residual_sd)
    view.table.append((f"SD within cells {sd}", str(found.residual_df), "", ""))
