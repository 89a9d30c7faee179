"""Over time and over travel: timed series with their means, and load curves laid over one another."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from math import log10

import numpy as np

from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import count_of, figures, time_words
from brunt_core.statistics.summaries import t_quantile
from brunt_web.campaigns.addresses import specimen_address
from brunt_web.campaigns.models import Condition
from brunt_web.comparison.strips import Strip
from brunt_web.interface.scale import scale_for
from brunt_web.results.models import COUNTED
from brunt_web.testing.curve_queries import used
from brunt_web.testing.models import Curve, TimedReading

WIDE, HIGH, LEFT, FOOT = 760.0, 360.0, 58.0, 40.0
_DASHES = ("", "8 4", "2 4", "12 4 2 4", "5 2 1 2")
_POINTS = 121


@dataclass
class Trace:
    """One specimen's line."""

    code: str
    href: str
    path: str
    points: list[tuple[float, float, str]]
    running: bool = False


@dataclass
class CourseOf:
    """One condition: its lines, their mean with its band, what it says."""

    name: str
    dash: str
    traces: list[Trace]
    mean: str = ""
    band: str = ""
    end: tuple[float, float] | None = None
    words: str = ""


@dataclass
class SeriesView:
    """The whole drawing."""

    courses: list[CourseOf] = field(default_factory=list)
    x_ticks: list[tuple[float, str]] = field(default_factory=list)
    y_ticks: list[tuple[float, str]] = field(default_factory=list)
    y_title: str = ""
    x_title: str = ""
    why_not: str = ""


def over_time(strip: Strip, conditions: Sequence[Condition]) -> SeriesView:
    """Every timed series of a procedure over the logarithm of time."""
    rows = (
        TimedReading.objects.filter(
            turn__procedure=strip.procedure, turn__condition__in=list(conditions)
        )
        .order_by("turn_id", "elapsed")
        .values_list("turn__condition_id", "turn__specimen__code", "key", "elapsed", "value", "turn__state", "turn__excluded")
    )  # fmt: skip
    found: dict[int, dict[str, list[tuple[float, float]]]] = {}
    states: dict[str, str] = {}
    keys: dict[str, str] = {}
    for condition, code, key, elapsed, value, state, excluded in rows:
        if excluded or elapsed <= 0:
            continue
        keys.setdefault(key, key)
        if key != next(iter(keys)):
            continue
        found.setdefault(condition, {}).setdefault(code, []).append((elapsed, value))
        states[code] = state
    if not found:
        return SeriesView(why_not=f"{strip.title} has no timed readings.")
    reading = next(
        (i for i in strip.procedure.method.inputs if i.key == next(iter(keys))),
        strip.procedure.method.inputs[0],
    )

    def shown(value: float) -> float:
        return in_unit(value, reading.dimension, reading.unit)

    every = [p for own in found.values() for line in own.values() for p in line]
    return _drawn(
        [(strip.names.get(c.pk, str(c)), found[c.pk], states) for c in conditions if c.pk in found],
        [log10(t) for t, _ in every],
        [shown(v) for _, v in every],
        across=log10,
        up=shown,
        y_title=f"{reading.label}, {reading.unit}",
    )


def _drawn(
    rows: Sequence[tuple[str, dict[str, list[tuple[float, float]]], dict[str, str]]],
    places: Sequence[float],
    values: Sequence[float],
    across: Callable[[float], float],
    up: Callable[[float], float],
    y_title: str,
) -> SeriesView:
    scale_x = scale_for(list(places), WIDE - LEFT, 20, 8)
    scale_y = scale_for(list(values), HIGH - FOOT, 20, 5)

    def x(seconds: float) -> float:
        return round(LEFT + scale_x.x(across(seconds)), 1)

    def y(value: float) -> float:
        return round(HIGH - FOOT - scale_y.x(up(value)), 1)

    view = SeriesView(
        x_ticks=_time_ticks(min(places), max(places), x),
        y_ticks=[(round(HIGH - FOOT - t, 1), label) for t, label in scale_y.ticks],
        y_title=y_title,
        x_title="time under load, logarithmic",
    )
    for i, (name, own, states) in enumerate(rows):
        course = CourseOf(name, _DASHES[i % len(_DASHES)], [])
        for code, line in own.items():
            points = [(x(t), y(v), f"{code}, {time_words(t)}: {figures(up(v))}") for t, v in line]
            path = "M" + " L".join(f"{a},{b}" for a, b, _ in points) if len(points) > 1 else ""
            course.traces.append(
                Trace(code, specimen_address(code), path, points, states.get(code) == "running")
            )
        _mean_of(course, own, x, y)
        course.words = _levelling(own, across, up)
        view.courses.append(course)
    return view


def _time_ticks(low: float, high: float, x: Callable[[float], float]) -> list[tuple[float, str]]:
    usual = (1, 10, 60, 600, 3600, 6 * 3600, 86400, 7 * 86400, 30 * 86400, 365 * 86400)
    return [(x(t), time_words(t)) for t in usual if low - 0.05 <= log10(t) <= high + 0.05]


def _mean_of(
    course: CourseOf,
    own: dict[str, list[tuple[float, float]]],
    x: Callable[[float], float],
    y: Callable[[float], float],
) -> None:
    """The mean at the times at which all but one of them at least were read, with its t band."""
    by_time: dict[float, list[float]] = {}
    for line in own.values():
        for t, v in line:
            by_time.setdefault(_near(t, by_time), []).append(v)
    most = max((len(v) for v in by_time.values()), default=0)
    told = sorted((t, vs) for t, vs in by_time.items() if len(vs) >= max(most - 1, 1))
    if not told:
        return
    means = [(x(t), y(sum(vs) / len(vs))) for t, vs in told]
    if len(means) > 1:
        course.mean = "M" + " L".join(f"{a},{b}" for a, b in means)
    course.end = means[-1]
    if len(told) > 1 and all(len(vs) > 1 for _, vs in told):
        ends = []
        for t, vs in told:
            reach = t_quantile(0.975, len(vs) - 1) * float(np.std(vs, ddof=1)) / len(vs) ** 0.5
            middle = sum(vs) / len(vs)
            ends.append((x(t), y(middle + reach), y(middle - reach)))
        upper = [f"{a},{b}" for a, b, _ in ends]
        lower = [f"{a},{c}" for a, _, c in reversed(ends)]
        course.band = "M" + " L".join([*upper, *lower]) + " Z"


def _near(t: float, known: dict[float, list[float]]) -> float:
    """Readings within a twentieth of one another are of one time."""
    return next((k for k in known if abs(k - t) <= 0.05 * k), t)


def _levelling(
    own: dict[str, list[tuple[float, float]]],
    across: Callable[[float], float],
    up: Callable[[float], float],
) -> str:
    """Whether it levels off or goes faster: the last step on the logarithm against the one before."""
    slopes = []
    for line in own.values():
        if len(line) < 3:
            continue
        (a, u), (b, v), (c, w) = line[-3:]
        spans = (across(b) - across(a), across(c) - across(b))
        if min(spans) > 0:
            slopes.append(((up(v) - up(u)) / spans[0], (up(w) - up(v)) / spans[1]))
    if not slopes:
        return f"{len(own)} series, too short to say whether {'it levels' if len(own) == 1 else 'they level'} off."
    before = sum(abs(s) for s, _ in slopes) / len(slopes)
    after = sum(abs(s) for _, s in slopes) / len(slopes)
    if after > 1.5 * before:
        word = "accelerates on the logarithm of time: watch it"
    elif after < before / 1.5:
        word = "levels off"
    else:
        word = "continues at a constant rate on the logarithm of time"
    return f"{len(own)} series; it {word}."


def over_travel(strip: Strip, conditions: Sequence[Condition]) -> SeriesView:
    """Every load curve of a procedure over travel, the mean of each condition with its band."""
    rows = (
        Curve.objects.filter(
            COUNTED, turn__procedure=strip.procedure, turn__condition__in=list(conditions)
        )
        .select_related("turn__specimen")
        .order_by("turn_id")[:400]
    )
    found: dict[int, dict[str, list[tuple[float, float]]]] = {}
    for row in rows:
        curve = used(row)
        order = np.argsort(curve.displacement, kind="stable")
        travel, force = curve.displacement[order] * 1e3, curve.force[order]
        step = max(len(travel) // 300, 1)
        points = list(zip(travel[::step].tolist(), force[::step].tolist(), strict=True))
        found.setdefault(row.turn.condition_id, {})[row.turn.specimen.code] = points
    if not found:
        return SeriesView(why_not=f"No load curve was imported for {strip.title}.")
    every = [p for own in found.values() for line in own.values() for p in line]
    scale_x = scale_for([0.0, *(p[0] for p in every)], WIDE - LEFT, 16, 8)
    scale_y = scale_for([0.0, *(p[1] for p in every)], HIGH - FOOT, 16, 5)

    def x(value: float) -> float:
        return round(LEFT + scale_x.x(value), 1)

    def y(value: float) -> float:
        return round(HIGH - FOOT - scale_y.x(value), 1)

    view = SeriesView(
        x_ticks=[(round(LEFT + t, 1), label) for t, label in scale_x.ticks],
        y_ticks=[(round(HIGH - FOOT - t, 1), label) for t, label in scale_y.ticks],
        y_title="load, N",
        x_title="travel, mm",
    )
    for i, c in enumerate(c for c in conditions if c.pk in found):
        course = CourseOf(strip.names.get(c.pk, str(c)), _DASHES[i % len(_DASHES)], [])
        for code, line in found[c.pk].items():
            path = "M" + " L".join(f"{x(a)},{y(b)}" for a, b in line)
            course.traces.append(Trace(code, specimen_address(code), path, []))
        _mean_curve(course, list(found[c.pk].values()), x, y)
        view.courses.append(course)
    return view


def _mean_curve(
    course: CourseOf,
    lines: Sequence[list[tuple[float, float]]],
    x: Callable[[float], float],
    y: Callable[[float], float],
) -> None:
    """The mean load at each travel that every specimen reached, with its t band."""
    reach = min(line[-1][0] for line in lines)
    start = max(line[0][0] for line in lines)
    course.words = f"{count_of(len(lines), 'curve')}; the mean as far as the first of them goes, {figures(reach)} mm."
    if reach <= start:
        return
    grid = np.linspace(start, reach, _POINTS)
    table = np.array(
        [np.interp(grid, [p[0] for p in line], [p[1] for p in line]) for line in lines]
    )
    means = table.mean(axis=0)
    course.mean = "M" + " L".join(
        f"{x(float(a))},{y(float(b))}" for a, b in zip(grid, means, strict=True)
    )
    course.end = (x(float(grid[-1])), y(float(means[-1])))
    if len(lines) > 1:
        spread = t_quantile(0.975, len(lines) - 1) * table.std(axis=0, ddof=1) / len(lines) ** 0.5
        upper = [f"{x(float(a))},{y(float(b))}" for a, b in zip(grid, means + spread, strict=True)]
        lower = [f"{x(float(a))},{y(float(b))}" for a, b in zip(grid, means - spread, strict=True)]
        course.band = "M" + " L".join([*upper, *reversed(lower)]) + " Z"
