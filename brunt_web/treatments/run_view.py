"""A run as it is drawn: the strip read from afar, the chart, the cut through the pack, the checks."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from math import asin, log10, pi, sin

from django.utils import timezone

from brunt_core.errors import InputError
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import number, time_words
from brunt_core.specimens.types import SpecimenType
from brunt_core.treatments.soak import Approach, CoreReading, approach
from brunt_core.treatments.suits import objections
from brunt_web.treatments.facts import parts_of
from brunt_web.treatments.models import Inside, LogReading, Run, RunStep
from brunt_web.treatments.run_chart import RunChart, run_chart


@dataclass
class RunStrip:
    """What is read from two metres: the order, the time left, the heat."""

    order: str
    next: str
    left: float | None
    left_words: str
    at: datetime | None
    between: tuple[datetime, datetime | None] | None = None
    core: float | None = None
    core_at: datetime | None = None
    to_go: float | None = None
    over: bool = False


@dataclass
class SpecimenBar:
    """One specimen as it lies: its box in the drawing, its number, its computed temperature."""

    row: Inside
    x: float
    y: float
    path: str
    celsius: float | None


@dataclass
class Pack:
    """The cut through the vessel: bars, lines of equal temperature with their labels."""

    bars: list[SpecimenBar]
    lines: list[tuple[str, str, float, float]]
    probe: tuple[float, float] | None
    outside: int = 0


@dataclass
class StepBar:
    """One step on the bar of steps: where it lies, how far it is done."""

    step: RunStep
    x: float
    wide: float
    state: str
    says: str


@dataclass
class Check:
    """One thing that keeps the specimens comparable: holds, waits, or does not."""

    label: str
    state: str
    says: str


@dataclass
class RunView:
    """Everything the page of a run shows."""

    run: Run
    steps: list[RunStep]
    current: RunStep | None
    following: RunStep | None
    strip: RunStrip
    chart: RunChart | None
    pack: Pack
    bar: list[StepBar]
    checks: list[Check]
    out: list[Inside]
    inside: list[Inside]
    forecast: Approach | None
    problem: str = ""
    energy: float | None = None


def view_of(run: Run, now: datetime) -> RunView:
    """The run as it stands now."""
    steps = list(run.steps.all())
    rows = list(run.inside.select_related("specimen__condition", "specimen__procedure__variant"))
    log = list(run.log.all())
    current = next((s for s in steps if s.started_at and not s.ended_at), None)
    following = next((s for s in steps if not s.started_at), None)
    forecast, problem = _forecast(run, log)
    inside = [r for r in rows if not r.out_at]
    return RunView(
        run=run,
        steps=steps,
        current=current,
        following=following,
        strip=_strip(run, current, following, forecast, log, now),
        chart=run_chart(run, steps, log, forecast, now),
        pack=_pack(run, rows, _last(log, "core")),
        bar=_bar(run, steps, forecast, now),
        checks=_checks(run, rows, log, forecast),
        out=[r for r in rows if r.out_at],
        inside=inside,
        forecast=forecast,
        problem=problem,
        energy=_energy(run, steps, now),
    )


def _last(log: Sequence[LogReading], what: str) -> LogReading | None:
    return next((r for r in reversed(log) if r.what == what and r.value is not None), None)


def _forecast(run: Run, log: Sequence[LogReading]) -> tuple[Approach | None, str]:
    """When the core comes within the gap, of a packed run that has a set point and began."""
    if not run.kind.packed or run.heat is None or run.started_at is None:
        return None, ""
    core = [r for r in log if r.what == "core" and r.value is not None]
    readings = [
        CoreReading((r.at - run.started_at).total_seconds(), float(r.value or 0.0)) for r in core
    ]
    try:
        found = approach(readings, run.heat, run.gap)
    except InputError as error:
        return None, error.sentence
    return found, found.remark


def _moment(run: Run, seconds: float | None) -> datetime | None:
    assert run.started_at is not None
    return None if seconds is None else run.started_at + timedelta(seconds=seconds)


def _strip(
    run: Run,
    current: RunStep | None,
    following: RunStep | None,
    forecast: Approach | None,
    log: Sequence[LogReading],
    now: datetime,
) -> RunStrip:
    if not run.open:
        word = "Done" if run.state == "done" else "Broken off"
        return RunStrip(word, run.note, None, "", run.ended_at, over=True)
    if current is None:
        order = following.order if following else "Begin"
        return RunStrip(order, "not begun", None, "", run.planned_for)
    strip = RunStrip(
        current.order,
        f"then {following.label.lower()}" if following else "then it is done",
        None,
        "",
        None,
    )
    if current.ends == "core":
        _by_core(run, strip, forecast)
    elif current.seconds and current.started_at:
        strip.at = current.started_at + timedelta(seconds=current.seconds)
    if strip.at:
        strip.left = (strip.at - now).total_seconds()
        strip.left_words = _left(strip.left)
    core = _last(log, "core") or _last(log, "oven")
    if core and core.value is not None:
        strip.core, strip.core_at = in_unit(core.value, "temperature", "°C"), core.at
        if core.what == "core" and run.heat is not None:
            strip.to_go = max(run.heat - run.gap - core.value, 0.0)
    return strip


def _by_core(run: Run, strip: RunStrip, forecast: Approach | None) -> None:
    if forecast is None or forecast.at is None:
        return
    strip.at = _moment(run, forecast.at)
    low = _moment(run, forecast.low if forecast.low is not None else forecast.at)
    if low and not forecast.reached:
        strip.between = (low, _moment(run, forecast.high))
    if forecast.reached:
        strip.next = "the core is there: " + strip.next
        strip.over = True


def _left(seconds: float) -> str:
    return f"{time_words(-seconds, 2)} over" if seconds < 0 else time_words(seconds, 2)


def _pack(run: Run, rows: Sequence[Inside], core: LogReading | None) -> Pack:
    """Where each lies: rows of two in a pack, rows of six elsewhere; numbered from the top."""
    shown = [r for r in rows][: 8 if run.kind.packed else 24]
    across = 2 if run.kind.packed else 6
    down = max(-(-len(shown) // across), 1)
    wide, high = (120.0, 26.0) if run.kind.packed else (52.0, 44.0)
    bars = []
    for i, row in enumerate(shown):
        u = (i % across + 0.5) / across
        v = (i // across + 0.5) / max(down, 2 if run.kind.packed else 1)
        x, y = 40 + u * 360 - wide / 2, 62 + v * 176 - high / 2
        bars.append(
            SpecimenBar(
                row,
                round(x, 1),
                round(y, 1),
                path=_lying(row.specimen.geometry, wide, high - 12),
                celsius=_local(run, core, u, v),
            )
        )
    lines = _equal_heat(run, core) if run.kind.packed else []
    probe = (220.0, 150.0) if run.kind.packed else None
    return Pack(bars, lines, probe, outside=max(len(rows) - len(shown), 0))


def _lying(geometry: SpecimenType, wide: float, high: float) -> str:
    """The specimen's own outline, lying, under its number."""
    scale = min(wide / geometry.overall, high / geometry.wide)
    points = (
        f"{along * scale:.1f},{12 + high / 2 + across * scale:.1f}"
        for across, along in geometry.outline
    )
    return "M" + " L".join(points) + " Z"


def _local(run: Run, core: LogReading | None, u: float, v: float) -> float | None:
    """The leading term of conduction into a block: S − (S − core)·sin πu·sin πv, °C."""
    if not run.kind.packed or core is None or core.value is None or run.heat is None:
        return None
    kelvin = run.heat - (run.heat - core.value) * sin(pi * u) * sin(pi * v)
    return in_unit(kelvin, "temperature", "°C")


def _equal_heat(run: Run, core: LogReading | None) -> list[tuple[str, str, float, float]]:
    """Lines of equal temperature: path, label, and where the label stands."""
    if core is None or core.value is None or run.heat is None or run.heat - core.value < 2:
        return []
    found = []
    for share in (0.25, 0.5, 0.75):
        kelvin = run.heat - (run.heat - core.value) * share
        low = asin(share) / pi
        us = [low + (1 - 2 * low) * i / 24 for i in range(25)]
        upper = [(u, asin(min(share / sin(pi * u), 1.0)) / pi) for u in us]
        ring = [*upper, *((u, 1 - v) for u, v in reversed(upper))]
        points = [(40 + u * 360, 62 + v * 176) for u, v in ring]
        path = "M" + " L".join(f"{x:.1f},{y:.1f}" for x, y in points) + " Z"
        label = f"{in_unit(kelvin, 'temperature', '°C'):.0f}"
        found.append((path, label, points[37][0], points[37][1]))
    return found


def _bar(
    run: Run, steps: Sequence[RunStep], forecast: Approach | None, now: datetime
) -> list[StepBar]:
    """The steps along one bar; a short one still has width to be read."""
    lengths = [max(_length(s, run, forecast, now), 1.0) for s in steps]
    shares = [log10(1 + x / 60) + 0.6 for x in lengths]
    total, x, found = sum(shares), 0.0, []
    for step, length, share in zip(steps, lengths, shares, strict=True):
        wide = 100 * share / total
        state = "done" if step.ended_at else "now" if step.started_at else "to come"
        found.append(StepBar(step, round(x, 2), round(wide, 2), state, _says(step, length)))
        x += wide
    return found


def _length(step: RunStep, run: Run, forecast: Approach | None, now: datetime) -> float:
    if step.started_at and step.ended_at:
        return (step.ended_at - step.started_at).total_seconds()
    if step.ends == "core" and step.started_at and forecast and forecast.at and run.started_at:
        return forecast.at - (step.started_at - run.started_at).total_seconds()
    if step.started_at:
        return max(step.seconds, (now - step.started_at).total_seconds())
    return step.seconds


def _says(step: RunStep, length: float) -> str:
    if step.started_at and step.ended_at:
        planned = f", planned {time_words(step.seconds, 2)}" if step.seconds else ""
        return f"{timezone.localtime(step.started_at):%H:%M}, {time_words(length, 2)}{planned}"
    if step.started_at:
        return f"since {timezone.localtime(step.started_at):%H:%M}"
    return f"about {time_words(length, 2)}"


def _checks(
    run: Run, rows: Sequence[Inside], log: Sequence[LogReading], forecast: Approach | None
) -> list[Check]:
    """Whether those inside stay comparable."""
    inside = [r.specimen for r in rows if not r.out_at]
    said = objections(run.kind, run.values, parts_of(inside)) if inside else []
    checks = [Check("It suits the parts", "no", o.sentence) for o in said[:2]] or [
        Check("It suits the parts", "yes", "nothing speaks against it")
    ]
    if run.kind.packed:
        there = bool(forecast and forecast.reached)
        words = "it is there" if there else f"within {run.gap:.0f} K of the set point, not yet"
        checks.append(Check("Core", "yes" if there else "waits", words))
    oven = [r.value for r in log if r.what == "oven" and r.value is not None]
    if oven and run.heat is not None:
        over = max(oven) - run.heat
        state = "no" if over > 15 else "yes"
        checks.append(
            Check(
                "Not overheated", state, f"oven at most {number(over, '+.0f')} K from its set point"
            )
        )
    conditions = {r.specimen.condition_id for r in rows if not r.out_at}
    if len(inside) > 1:
        together = "one condition" if len(conditions) == 1 else f"{len(conditions)} conditions"
        checks.append(Check("Treated alike", "yes", f"{together}, one run"))
    return checks


def _energy(run: Run, steps: Sequence[RunStep], now: datetime) -> float | None:
    """Energy at most, J: the vessel's full power over its heated steps."""
    if not run.vessel or not run.vessel.watts:
        return None
    seconds = sum(
        ((s.ended_at or now) - s.started_at).total_seconds()
        for s in steps
        if s.heat is not None and s.started_at
    )
    return run.vessel.watts * seconds if seconds else None
