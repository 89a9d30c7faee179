"""A check standard's control chart, drawn: days along, the level and its limits, moving ranges below."""

from collections.abc import Callable
from dataclasses import dataclass, field

from brunt_core.quantities.rendering import count_of, figures, number
from brunt_core.statistics.control import RULES, ControlChart
from brunt_web.checks.queries import ChartPoint, Stretch, WatchedCheck
from brunt_web.interface.scale import Scale, scale_for

WIDE, HIGH, LOW = 1100.0, 300.0, 96.0
LEFT, RIGHT = 62.0, 20.0
Place = Callable[[float], float]


@dataclass(frozen=True)
class DrawnControlChart:
    """One day: its place, its bars' places, what it says, whether it breaks a rule."""

    x: float
    y: float
    bars: list[float]
    title: str
    anchor: str
    hot: bool
    rules: str


@dataclass(frozen=True)
class Field:
    """The limits over one phase."""

    x: float
    width: float
    centre: float
    edges: tuple[float, float]
    zones: tuple[float, ...]
    words: str


@dataclass
class Chart:
    """The whole drawing and its table."""

    days: list[DrawnControlChart] = field(default_factory=list)
    fields: list[Field] = field(default_factory=list)
    starts: list[tuple[float, str]] = field(default_factory=list)
    line: list[str] = field(default_factory=list)
    ticks: list[tuple[float, str]] = field(default_factory=list)
    dates: list[tuple[float, str]] = field(default_factory=list)
    ranges: list[tuple[float, float, bool]] = field(default_factory=list)
    range_limits: list[tuple[float, float, float]] = field(default_factory=list)
    range_ticks: list[tuple[float, str]] = field(default_factory=list)
    rows: list[dict] = field(default_factory=list)
    shifts: list[float] = field(default_factory=list)


def chart_of(found: WatchedCheck) -> Chart:
    """The drawing of everything there is."""
    points = found.points
    chart = Chart()
    if not points:
        return chart
    step = (WIDE - LEFT - RIGHT) / max(len(points), 2)
    up = _scale(found)

    def x(i: float) -> float:
        return round(LEFT + step * (i + 0.5), 1)

    first = 0
    for stretch in found.stretches:
        _phase(chart, stretch, first, up, x=x)
        first += len(stretch.points)
    chart.ticks = [(round(HIGH - at, 1), label) for at, label in up.ticks]
    every = max(1, round(96 / step))
    chart.dates = [(x(i), f"{p.day:%-d %b %Y}") for i, p in enumerate(points) if i % every == 0]
    _ranges(chart, found, x=x)
    return chart


def _scale(found: WatchedCheck) -> Scale:
    values = [b.value for p in found.points for b in p.bars]
    for s in found.stretches:
        if s.chart:
            values += [s.chart.lower, s.chart.upper]
    return scale_for(values, HIGH, 16, 5)


def _phase(chart: Chart, stretch: Stretch, first: int, up: Scale, x: Place) -> None:
    own, told = stretch.chart, _told(stretch.chart)

    def y(value: float) -> float:
        return round(HIGH - up.x(value), 1)

    for i, p in enumerate(stretch.points):
        rules = told.get(i, [])
        words = "; ".join(RULES[r] for r in rules)
        place = x(first + i)
        bars = [y(b.value) for b in p.bars] if len(p.bars) > 1 else []
        title = f"{p.day:%-d %b %Y}: {figures(p.value)}, {count_of(len(p.bars), 'bar')}. {words}".strip()
        chart.days.append(
            DrawnControlChart(
                place, y(p.value), bars, title, f"d{p.day:%Y%m%d}", hot=bool(rules), rules=words
            )
        )
        chart.rows.append(_row(p, own, i, words))
    if stretch.points:
        chart.line.append("M" + " L".join(f"{d.x},{d.y}" for d in chart.days[first:]))
    if stretch.because and stretch.points:
        chart.starts.append((x(first - 0.5), stretch.because))
    if own:
        left = x(first - 0.5)
        width = x(first + len(stretch.points) - 0.5) - left
        zones = tuple(y(own.centre + k * own.sigma) for k in (-2, -1, 1, 2))
        words = f"{figures(own.centre)}, limits {figures(own.lower)} to {figures(own.upper)}"
        chart.fields.append(Field(left, width, y(own.centre), (y(own.upper), y(own.lower)), zones=zones, words=words))  # fmt: skip
        if own.shift:
            chart.shifts.append(x(first + own.shift.start - 0.5))


def _told(chart: ControlChart | None) -> dict[int, list[str]]:
    found: dict[int, list[str]] = {}
    for s in chart.signals if chart else ():
        found.setdefault(s.at, []).append(s.rule)
    return found


def _row(point: ChartPoint, chart: ControlChart | None, i: int, words: str) -> dict:
    off = (point.value - chart.centre) / chart.sigma if chart and chart.sigma else None
    return {
        "day": point.day,
        "anchor": f"d{point.day:%Y%m%d}",
        "value": figures(point.value, 4),
        "off": "–" if off is None else f"{number(off, '+.1f')} σ",
        "range": figures(chart.ranges[i - 1]) if chart and i else "–",
        "rules": words,
        "bars": point.bars,
        "lots": point.lots,
        "rigs": ", ".join(sorted({b.rig for b in point.bars if b.rig})),
        "campaigns": sorted({b.campaign for b in point.bars}),
    }


def _ranges(chart: Chart, found: WatchedCheck, x: Place) -> None:
    """Moving ranges under the chart, each phase its own."""
    told = [s for s in found.stretches if s.chart]
    tops = [v for s in told if s.chart for v in (*s.chart.ranges, s.chart.range_limit)]
    if not tops or not max(tops):
        return
    up = scale_for([0.0, *tops], LOW, 6, 2)
    first = 0
    for s in found.stretches:
        if s.chart:
            out = set(s.chart.ranges_out)
            for i, r in enumerate(s.chart.ranges, 1):
                chart.ranges.append((x(first + i), round(LOW - up.x(r), 1), i in out))
            left, right = x(first - 0.5), x(first + len(s.points) - 0.5)
            chart.range_limits.append((left, right, round(LOW - up.x(s.chart.range_limit), 1)))
        first += len(s.points)
    chart.range_ticks = [(round(LOW - at, 1), label) for at, label in up.ticks if float(LOW - at) >= 0]  # fmt: skip


def verdict_of(found: WatchedCheck) -> tuple[str, str, bool]:
    """(what is so, what it rests on, whether something is wrong), in words."""
    points, unit = found.points, found.check.procedure.ranked_property.unit
    if not points:
        return "Nothing tested yet", "Every test of this material with this procedure, in any campaign, is a point here.", False  # fmt: skip
    last = found.stretches[-1]
    if last.chart is None:
        since = " since the last phase began" if last.because else ""
        return "Too few days for limits", f"{len(last.points)} of the 4 days that limits need{since}.", False  # fmt: skip
    own = last.chart
    rests = f"Level {figures(own.centre)} {unit}, limits {figures(own.lower)} to {figures(own.upper)} from {count_of(own.base, 'day')}"
    if own.rough:
        rests += ", which is few: the limits are rough"
    if own.shift:
        start = last.points[own.shift.start].day
        way = "down" if own.shift.by < 0 else "up"
        rule = next(s.words for s in own.signals if s.at == own.shift.told_at)
        share = f" by {number(abs(own.shift.by / own.centre) * 100, '.2g')} %" if own.centre else ""
        return f"Shifted {way}{share} about {start:%-d %B %Y}", f"{rule[0].upper()}{rule[1:]}. {rests}.", True  # fmt: skip
    here = {s.at for s in own.signals}
    if len(last.points) - 1 in here:
        rule = next(s.words for s in own.signals if s.at == len(last.points) - 1)
        advice = f"{rule[0].upper()}{rule[1:]}: test the check standard again before anything else."
        return f"Out on {last.points[-1].day:%-d %B %Y}", f"{advice} {rests}.", True
    single = f" {len(here)} single day{'s' if len(here) > 1 else ''} out." if here else ""
    return f"Steady over {count_of(len(last.points), 'day')}", f"{rests}.{single}", False
