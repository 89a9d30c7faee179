"""Bringing a recipe up on a new feedstock: what is tried, how it is judged, and what to set then.

What is looked at and the usual steps are common practice, no source.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from brunt_core.errors import InputError


@dataclass(frozen=True)
class Trial:
    """A short print that steps one setting: what it varies, by how much, and what one looks at.

    ``settings`` are the recipe fields it can step, the usual one first; ``steps`` offsets from what is
    set, in the field's unit, or plain values where ``plain``. ``measured`` is empty where each step is
    graded from 1 to 5, else what is measured in ``unit``; ``better`` says which way.
    """

    key: str
    name: str
    settings: tuple[str, ...]
    steps: tuple[float, ...]
    look: str
    plain: bool = False
    measured: str = ""
    unit: str = ""
    dimension: str = ""
    better: str = "higher"
    care: str = ""


_HOT = "The nozzle is hot enough to burn, and some plastics give off fumes: air the room."
TRIALS: dict[str, Trial] = {
    t.key: t
    for t in (
        Trial(
            "temperature",
            "Temperature tower",
            ("nozzle_temperature",),
            (15, 10, 5, 0, -5, -10, -15),
            "Snap it by hand at each step as well: layers that part easily were too cold. Look for hairs, "
            "gloss, drooping edges.",
            care=_HOT,
        ),
        Trial(
            "pressure_advance",
            "Pressure-compensation tower",
            ("pressure_advance",),
            (0.08, 0.07, 0.06, 0.05, 0.04, 0.03, 0.02, 0.01, 0.0),
            "Check corners and speed changes: neither bulge nor gap.",
            plain=True,
        ),
        Trial(
            "flow",
            "Flow by a single wall",
            ("flow",),
            (0,),
            "Measure the wall at several places, away from the seam and the first layer.",
            measured="Wall",
            unit="mm",
            dimension="length",
            better="set",
        ),
        Trial(
            "overhang",
            "Overhang",
            ("cooling", "speed", "nozzle_temperature"),
            (40, 20, 0, -20),
            "The steepest angle from upright whose underside is still clean.",
            measured="Clean to",
            unit="°",
            dimension="angle",
        ),
        Trial(
            "bridge",
            "Bridge",
            ("cooling", "speed", "flow"),
            (40, 20, 0, -20),
            "How far the middle of the bridge hangs below its ends.",
            measured="Sag",
            unit="mm",
            dimension="length",
            better="lower",
        ),
        Trial(
            "fit",
            "Fit of a peg in a hole",
            ("clearance",),
            (0.4, 0.35, 0.3, 0.25, 0.2, 0.15, 0.1),
            "Grade 1: does not go in; 3: goes in by hand; 5: falls through. The least gap of grade 3 is taken.",
            plain=True,
            better="fit",
        ),
    )
}


@dataclass(frozen=True)
class Judged:
    """What a trial says to set, in the field's unit, with its reason and what to mind."""

    value: float
    reason: str
    remarks: tuple[str, ...] = ()


def suggested_steps(trial: Trial, current: float | None, setting: str) -> list[float]:
    """The steps to try, in the field's unit, the highest first, as a tower prints upwards.

    >>> suggested_steps(TRIALS["temperature"], 230.0, "nozzle_temperature")
    [245.0, 240.0, 235.0, 230.0, 225.0, 220.0, 215.0]
    >>> suggested_steps(TRIALS["overhang"], 90.0, "cooling")
    [100.0, 90.0, 70.0]
    """
    if trial.plain:
        return [float(s) for s in trial.steps]
    if current is None:
        return []
    steps = trial.steps if setting != "nozzle_temperature" else TRIALS["temperature"].steps
    found = {max(current + s, 0.0) for s in steps}
    if setting == "cooling":
        found = {min(v, 100.0) for v in found}
    return sorted(found, reverse=True)


def judge_trial(trial: Trial, rows: Sequence[tuple[float, float]], unit: str = "") -> Judged:
    """What to set after a trial.

    Parameters: ``rows`` of (setting, grade or measurement), in the units shown; ``unit`` of the setting
    for the words. Of several alike at the best the middle of the longest run is taken. Raises
    :class:`InputError` for fewer than two steps, a step tried twice, and where nothing tells them apart.

    >>> judge_trial(TRIALS["temperature"], [(240, 3), (235, 5), (230, 5), (225, 5), (220, 2)], "°C").value
    230
    >>> judge_trial(TRIALS["bridge"], [(100, 0.4), (60, 0.9)], "%").remarks
    ('The best is at the end of the range: test further in that direction.',)
    """
    if trial.better == "fit":
        return _fit(rows, unit)
    _check(rows)
    order = sorted(rows)
    scores = [s for _, s in order]
    if len(set(scores)) == 1:
        raise InputError("All steps are alike: no reason to change the setting.", "rows")
    best = min(scores) if trial.better == "lower" else max(scores)
    runs: list[list[float]] = [[]]
    for value, score in order:
        if score == best:
            runs[-1].append(value)
        elif runs[-1]:
            runs.append([])
    longest = max(runs, key=len)
    value = longest[(len(longest) - 1) // 2]
    return Judged(value, _reason(trial, order, value, best, unit), _minded(order, longest, runs))


def _check(rows: Sequence[tuple[float, float]]) -> None:
    if len(rows) < 2:
        raise InputError("Two steps at least tell something: grade or measure them.", "rows")
    if len({v for v, _ in rows}) < len(rows):
        raise InputError("One step is listed twice.", "rows")


def _reason(
    trial: Trial, order: Sequence[tuple[float, float]], value: float, best: float, unit: str
) -> str:
    shown = f"{value:g} {unit}".strip()
    span = f"{order[0][0]:g} to {order[-1][0]:g}"
    if trial.measured:
        what = f"{trial.measured.lower()} {best:g} {trial.unit}".replace(" °", "°")
    else:
        what = f"grade {best:g} of 5"
    return f"{trial.name}: {shown} is the best of {len(order)} from {span} ({what})."


def _minded(
    order: Sequence[tuple[float, float]], run: list[float], runs: list[list[float]]
) -> tuple[str, ...]:
    found = []
    if run[0] == order[0][0] or run[-1] == order[-1][0]:
        found.append("The best is at the end of the range: test further in that direction.")
    if sum(1 for r in runs if r) > 1:
        found.append("Two separate steps came out best: print the ones between again.")
    return tuple(found)


def _fit(rows: Sequence[tuple[float, float]], unit: str) -> Judged:
    """The least gap at which the peg goes in by hand."""
    _check(rows)
    going = sorted(v for v, s in rows if s >= 3)
    if not going:
        raise InputError("None of these gaps lets the peg in: try wider ones.", "rows")
    value = going[0]
    shown = f"{value:g} {unit}".strip()
    remarks = []
    if value == min(v for v, _ in rows):
        remarks.append("The narrowest gap tried goes in already: try narrower ones.")
    if any(s < 3 for v, s in rows if v > value):
        remarks.append("A wider gap did not go in: look at that peg again.")
    reason = f"Fit: {shown} is the least gap of {len(rows)} that goes in by hand."
    return Judged(value, reason, tuple(remarks))


def flow_after(flow: float, asked: float, walls: Sequence[float]) -> Judged:
    """Flow to set from a single wall: k = k₀·w₀/w̄, all lengths in mm, flow in %.

    Raises :class:`InputError` for no wall, or one that is not more than zero. Source: volume of a bead
    of constant height; common practice.

    >>> flow_after(100.0, 0.45, [0.42, 0.43, 0.41]).value
    107.1
    """
    if not walls or min(walls) <= 0 or asked <= 0 or flow <= 0:
        raise InputError("Type the wall as measured, in mm, at one place at least.", "walls")
    mean = sum(walls) / len(walls)
    value = round(flow * asked / mean, 1)
    remarks = []
    if abs(mean / asked - 1) > 0.25:
        remarks.append(
            "The wall is far from what was asked: look for a clog, slip or a second bead first."
        )
    if len(walls) > 1 and max(walls) - min(walls) > 0.1 * mean:
        remarks.append("The wall is uneven by more than a tenth: fix that before the flow.")
    reason = (
        f"Single wall: {mean:.3f} mm for {asked:g} mm asked at {flow:g} % (mean of {len(walls)})."
    )
    return Judged(value, reason, tuple(remarks))
