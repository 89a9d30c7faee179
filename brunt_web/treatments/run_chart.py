"""The chart of a run: set point, oven and core over time, what is foreseen, the gap on a logarithm."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from math import log10

from django.utils import timezone

from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import number
from brunt_core.treatments.soak import Approach
from brunt_web.interface.scale import Scale, scale_for
from brunt_web.treatments.models import RUNNING, LogReading, Run, RunStep

CHART = (700.0, 280.0)


@dataclass
class TemperatureTrace:
    """One line of the chart: its path, its points with words, where its name stands."""

    key: str
    path: str
    points: list[tuple[float, float, str, int]]
    name_at: tuple[float, float] | None = None
    name_side: str = ""


@dataclass
class RunChart:
    """Temperatures over time, K to °C, with what is foreseen."""

    x: Scale
    y: Scale
    times: list[tuple[float, str]]
    traces: list[TemperatureTrace]
    target: float | None = None
    near: float | None = None
    now: float | None = None
    forecast: str = ""
    ready: float | None = None
    ready_low: float | None = None
    ready_high: float | None = None
    doors: list[float] = field(default_factory=list)
    gaps: list[tuple[float, float]] = field(default_factory=list)
    gap_line: str = ""
    gap_level: float | None = None
    set_right: bool = False
    beyond: str = ""


def run_chart(
    run: Run,
    steps: Sequence[RunStep],
    log: Sequence[LogReading],
    forecast: Approach | None,
    now: datetime,
) -> RunChart | None:
    """The chart; ``None`` before the run began, or without any heat."""
    heats = [r for r in log if r.what in ("core", "oven") and r.value is not None]
    if run.started_at is None or (run.heat is None and not heats):
        return None
    start = run.started_at
    until = max((run.ended_at or now) - start, timedelta(minutes=30)).total_seconds()
    if forecast and forecast.at and run.state == RUNNING:
        until = max(until, (forecast.high or forecast.at) * 1.08)
    elif run.state == RUNNING:
        until = max(until, sum(s.seconds for s in steps))
    until, beyond = _cut(run, heats, until)
    span = Scale(0.0, until, CHART[0], 36.0)
    celsius = [in_unit(float(r.value or 0.0), "temperature", "°C") for r in heats]
    target = None if run.heat is None else in_unit(run.heat, "temperature", "°C")
    values = [*celsius, *([target] if target is not None else []), 20.0]
    upward = scale_for(values, CHART[1], 18.0, 5)

    def y(value: float) -> float:
        return round(CHART[1] - upward.x(value), 1)

    def x(moment: datetime) -> float:
        return span.x((moment - start).total_seconds())

    chart = RunChart(
        x=span,
        y=upward,
        times=_times(start, until, span),
        traces=[_trace(k, log, x, y) for k in ("oven", "core")],
        target=None if target is None else y(target),
        now=x(now) if run.state == RUNNING else None,
        doors=[x(r.at) for r in log if r.what == "door"],
        beyond=beyond,
    )
    _name(chart.traces)
    chart.set_right = any(t.points and t.points[-1][0] < CHART[0] / 2 for t in chart.traces)
    if target is not None and run.kind.packed:
        chart.near = y(target - run.gap)
    if forecast and forecast.at is not None and run.heat is not None:
        _foreseen(chart, run, forecast, until, y)
        _gaps(chart, run, heats, forecast)
    return chart


def _cut(run: Run, heats: Sequence[LogReading], until: float) -> tuple[float, str]:
    """Where the axis ends: soon after the last reading once a run is over, with what lies beyond in words."""
    if run.ended_at is None or run.started_at is None or not heats:
        return until, ""
    read = max((heats[-1].at - run.started_at).total_seconds() * 1.25, 1800.0)
    if read >= until / 2:
        return until, ""
    return (
        read,
        f"no reading after this; it went on until {timezone.localtime(run.ended_at):%a %H:%M}",
    )


def _times(start: datetime, until: float, span: Scale) -> list[tuple[float, str]]:
    """Round clock times along the bottom."""
    local = timezone.localtime(start)
    steps = (300, 600, 1800, 3600, 7200, 14400, 43200, 86400, 7 * 86400)
    step = next((s for s in steps if until / s <= 9), 28 * 86400)
    midnight = local.replace(hour=0, minute=0, second=0, microsecond=0)
    first = -(-(local - midnight).total_seconds() // step) * step
    found, at = [], midnight + timedelta(seconds=first)
    while (at - local).total_seconds() <= until:
        label = f"{at:%H:%M}" if step < 86400 else f"{at.day} {at:%b}"
        found.append((span.x((at - local).total_seconds()), label))
        at += timedelta(seconds=step)
    return found


def _trace(
    what: str,
    log: Sequence[LogReading],
    x: Callable[[datetime], float],
    y: Callable[[float], float],
) -> TemperatureTrace:
    points = [
        (
            x(r.at),
            y(in_unit(r.value, "temperature", "°C")),
            f"{timezone.localtime(r.at):%H:%M}, {number(in_unit(r.value, 'temperature', '°C'), '.1f')} °C",
            r.pk,
        )
        for r in log
        if r.what == what and r.value is not None
    ]
    path = "M" + " L".join(f"{p[0]},{p[1]}" for p in points) if len(points) > 1 else ""
    return TemperatureTrace(what, path, points)


def _name(traces: Sequence[TemperatureTrace]) -> None:
    """Names stand at the last point, over the upper line and under the lower, clear of what is foreseen."""
    known = sorted((t for t in traces if t.points), key=lambda t: t.points[-1][1])
    for place, t in enumerate(known):
        x, y = t.points[-1][:2]
        late = x > 90.0
        t.name_at = (x - 4 if late else x + 7, round(y - 9 if place == 0 else y + 18, 1))
        t.name_side = "end" if late else ""


def _foreseen(
    chart: RunChart, run: Run, forecast: Approach, until: float, y: Callable[[float], float]
) -> None:
    assert run.heat is not None and forecast.at is not None
    chart.ready = chart.x.x(forecast.at)
    chart.ready_low = chart.x.x(forecast.low) if forecast.low is not None else None
    chart.ready_high = chart.x.x(forecast.high) if forecast.high is not None else chart.x.x(until)
    if forecast.time_constant is None or forecast.lag is None or forecast.amplitude is None:
        return
    begin = forecast.lag
    points = []
    for i in range(61):
        t = begin + (until - begin) * i / 60
        kelvin = forecast.core(t, run.heat)
        if kelvin is not None:
            points.append(f"{chart.x.x(t)},{y(in_unit(kelvin, 'temperature', '°C'))}")
    chart.forecast = "M" + " L".join(points)


def _gaps(chart: RunChart, run: Run, heats: Sequence[LogReading], forecast: Approach) -> None:
    """The distance of the core to the set point on a logarithm: straight where the law holds."""
    assert run.heat is not None and run.started_at is not None and forecast.at is not None
    core = [r for r in heats if r.what == "core" and run.heat > (r.value or 0.0)]
    if len(core) < 2:
        return
    first = (core[0].at - run.started_at).total_seconds()
    span = max(forecast.at - first, 1.0)

    def place(seconds: float, gap: float) -> tuple[float, float]:
        share = (log10(gap) - log10(3.0)) / (log10(300.0) - log10(3.0))
        return round(110 * (seconds - first) / span, 1), round(80 - 80 * share, 1)

    chart.gaps = [
        place((r.at - run.started_at).total_seconds(), max(run.heat - (r.value or 0.0), 3.0))
        for r in core
    ]
    chart.gap_level = place(first, run.gap)[1]
    if forecast.amplitude and forecast.time_constant:
        ends = [(t, run.heat - (forecast.core(t, run.heat) or 0.0)) for t in (first, forecast.at)]
        ends = [(t, min(max(g, 3.0), 300.0)) for t, g in ends]
        chart.gap_line = "M" + " L".join(f"{a},{b}" for a, b in (place(t, g) for t, g in ends))
