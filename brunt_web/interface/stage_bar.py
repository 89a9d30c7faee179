"""The stage bar: six stages on two supports, bending where you are by the core's own formula."""

from dataclasses import dataclass

from brunt_core.mechanics.beams import beam_curve, simply_supported_deflection

WIDTH, LEVEL, SAG, INSET = 936, 54, 10, 14


@dataclass(frozen=True)
class Stage:
    """One stage: its label, the count that hangs below, and where it leads."""

    key: str
    label: str
    count: str = ""
    url: str = ""


@dataclass(frozen=True)
class StageBar:
    """The drawing: the curve's points, a tick for each stage, and the load's place."""

    stages: tuple[Stage, ...]
    current: str
    path: str
    ticks: tuple[tuple[float, float], ...]
    load: tuple[float, float] | None


def draw_stage_bar(stages: tuple[Stage, ...], current: str) -> StageBar:
    """The stage bar for these stages, loaded at the current one or not at all."""
    places = [(i + 0.5) / len(stages) for i in range(len(stages))]
    at = next((p for p, s in zip(places, stages, strict=True) if s.key == current), None)
    curve = beam_curve(at, SAG) if at is not None else [(0.0, 0.0), (1.0, 0.0)]
    points = [(_x(x), LEVEL + w) for x, w in curve]
    path = "M" + " L".join(f"{x:.1f},{y:.2f}" for x, y in points)
    ticks = tuple((_x(p), round(LEVEL + _sag(p, at), 2)) for p in places)
    load = (_x(at), round(LEVEL + _sag(at, at) - 5, 2)) if at is not None else None
    return StageBar(stages, current, path, ticks, load)


def _x(part: float) -> float:
    return round(INSET + part * (WIDTH - 2 * INSET), 1)


def _sag(part: float, load_at: float | None) -> float:
    if load_at is None:
        return 0.0
    middle = simply_supported_deflection(0.5, 0.5)
    return SAG * simply_supported_deflection(part, load_at) / middle
