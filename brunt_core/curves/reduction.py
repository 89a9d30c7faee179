"""Reducing a load–displacement curve: toe, slope, yield by offset, peak, break, energy."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from brunt_core.curves.reading import Curve
from brunt_core.errors import InputError

PICKS = ("low", "high", "yield", "peak", "break")
OFFSET = 0.002
_BREAK_DROP = 0.4
_WINDOW = 0.2
_PLATEAU = 0.95


@dataclass(frozen=True)
class Reduction:
    """What a curve comes to, in SI; displacements are counted from the compensated zero.

    ``picks`` are the displacements as read at which each point was taken; ``toe`` the shift of the
    zero; ``yield_load`` is ``None`` where the offset line is not met or no length sets the offset.
    """

    picks: Mapping[str, float]
    toe: float
    slope: float
    yield_load: float | None
    peak_load: float
    at_peak: float
    break_load: float
    at_break: float
    energy: float
    notes: tuple[str, ...] = field(default=())


def reduce_curve(
    curve: Curve,
    gauge_length: float | None = None,
    picks: Mapping[str, float] | None = None,
    offset: float = OFFSET,
) -> Reduction:
    """Reduce a curve to slope, yield, peak, break and energy.

    The slope m is a straight line by least squares between two points on the rise (the steepest
    fifth of the load range unless picked); where it meets zero load is the compensated zero (toe
    compensation, ASTM D638 annex A1). Yield is where the curve meets a line of the same slope
    moved by ``offset`` · ``gauge_length`` (ASTM D638 annex A2), up to the peak or on a plateau within
    5 % of it. Peak is the largest force; break
    the last point before the force falls below 40 % of it (common practice, no source). Energy is
    the area to the break, by trapezia.

    Parameters: the curve in SI; ``gauge_length`` in m; ``picks`` displacements in m, as read, that
    replace the automatic ones; ``offset`` as a strain. Raises :class:`InputError` for a curve that
    never rises or picks that leave no two points.

    >>> x = np.linspace(0, 1e-3, 101)
    >>> r = reduce_curve(Curve(x, 2e6 * x))
    >>> round(r.slope), round(r.peak_load), round(r.energy, 6)
    (2000000, 2000, 1.0)
    """
    x, force = curve.displacement, curve.force
    wanted = dict(picks or {})
    peak = _nearest(x, wanted["peak"]) if "peak" in wanted else int(np.argmax(force))
    if force[peak] <= 0 or peak < 2:
        raise InputError("The force never rises above zero; is a column or a sign wrong?", "curve")
    low, high = wanted.get("low"), wanted.get("high")
    if low is None or high is None:
        found_low, found_high = _steepest(x[: peak + 1], force[: peak + 1])
        low, high = (found_low if low is None else low), (found_high if high is None else high)
    low, high = min(low, high), max(low, high)
    slope, toe = _line(x[: peak + 1], force[: peak + 1], low, high)
    end = _nearest(x, wanted["break"]) if "break" in wanted else _break(force, peak)
    at_yield = _yield(
        x,
        force,
        peak,
        high=high,
        slope=slope,
        toe=toe,
        gauge_length=gauge_length,
        offset=offset,
        picked=wanted.get("yield"),
    )
    notes = () if gauge_length else ("no gauge length: yield by offset is not taken",)
    chosen = {"low": low, "high": high, "peak": float(x[peak]), "break": float(x[end])}
    if at_yield is not None:
        chosen["yield"] = at_yield[0]
    return Reduction(
        chosen,
        toe,
        slope,
        yield_load=None if at_yield is None else at_yield[1],
        peak_load=float(force[peak]),
        at_peak=float(x[peak] - toe),
        break_load=float(force[end]),
        at_break=float(x[end] - toe),
        energy=_energy(x[: end + 1], force[: end + 1], toe),
        notes=notes,
    )


def _nearest(x: np.ndarray, at: float) -> int:
    return int(np.argmin(np.abs(x - at)))


def _steepest(x: np.ndarray, force: np.ndarray) -> tuple[float, float]:
    """Ends of the steepest window that spans a fifth of the load, between 5 % and 75 % of peak."""
    x, force = _thinned(x, force)
    top = float(force.max())
    best, ends = -np.inf, (float(x[0]), float(x[-1]))
    for start in np.arange(0.05, 0.76 - _WINDOW, 0.05):
        inside = (force >= start * top) & (force <= (start + _WINDOW) * top)
        if inside.sum() < 3:
            continue
        a, b = x[inside], force[inside]
        spread = float(((a - a.mean()) ** 2).sum())
        slope = float(((a - a.mean()) * (b - b.mean())).sum()) / spread if spread else -np.inf
        if slope > best * (1 + 1e-9):
            best, ends = slope, (float(a.min()), float(a.max()))
    return ends


def _thinned(x: np.ndarray, force: np.ndarray, most: int = 600) -> tuple[np.ndarray, np.ndarray]:
    """Means of neighbouring points, so that noise does not look steep."""
    if len(x) <= most:
        return x, force
    starts = np.linspace(0, len(x), most, endpoint=False).astype(int)
    counts = np.diff(np.append(starts, len(x)))
    return np.add.reduceat(x, starts) / counts, np.add.reduceat(force, starts) / counts


def _line(x: np.ndarray, force: np.ndarray, low: float, high: float) -> tuple[float, float]:
    """Least-squares slope between two displacements, and where it meets zero load."""
    inside = (x >= low) & (x <= high)
    if inside.sum() < 2 or np.ptp(x[inside]) == 0:
        raise InputError("The two points of the slope lie too close together.", "low")
    a, b = x[inside], force[inside]
    slope = float(((a - a.mean()) * (b - b.mean())).sum() / ((a - a.mean()) ** 2).sum())
    if slope <= 0:
        raise InputError("The force does not rise between the two points of the slope.", "low")
    return slope, float(a.mean() - b.mean() / slope)


def _break(force: np.ndarray, peak: int) -> int:
    fallen = np.nonzero(force[peak:] < _BREAK_DROP * force[peak])[0]
    return peak + int(fallen[0]) - 1 if len(fallen) else len(force) - 1


def _yield(
    x: np.ndarray,
    force: np.ndarray,
    peak: int,
    high: float,
    slope: float,
    toe: float,
    gauge_length: float | None,
    offset: float,
    picked: float | None,
) -> tuple[float, float] | None:
    """Displacement and load at yield: as picked, or where the offset line is met."""
    if picked is not None:
        i = _nearest(x, picked)
        return float(x[i]), float(force[i])
    if not gauge_length:
        return None
    above = force - slope * (x - toe - offset * gauge_length)
    held = (np.arange(len(x)) <= peak) | (force >= _PLATEAU * force[peak])
    below = np.nonzero((above <= 0) & (x > high) & held)[0]
    if not len(below) or below[0] == 0:
        return None
    i = int(below[0])
    share = above[i - 1] / (above[i - 1] - above[i]) if above[i - 1] > 0 else 0.0
    return (
        float(x[i - 1] + share * (x[i] - x[i - 1])),
        float(force[i - 1] + share * (force[i] - force[i - 1])),
    )


def _energy(x: np.ndarray, force: np.ndarray, toe: float) -> float:
    """Area under the curve, the toe replaced by the line's zero."""
    keep = x >= toe
    return float(np.trapezoid(force[keep], x[keep])) if keep.sum() > 1 else 0.0


def thinned_for_drawing(curve: Curve, buckets: int = 700) -> list[tuple[float, float]]:
    """The points to draw: first, lowest, highest of each bucket, so that no peak is lost.

    >>> len(thinned_for_drawing(Curve(np.arange(10.0), np.arange(10.0))))
    10
    """
    x, force = curve.displacement, curve.force
    if len(x) <= 3 * buckets:
        return [(float(a), float(b)) for a, b in zip(x, force, strict=True)]
    edges = np.linspace(0, len(x), buckets + 1).astype(int)
    kept: set[int] = {len(x) - 1}
    for start, end in zip(edges, edges[1:], strict=False):
        part = force[start:end]
        kept |= {int(start), int(start + part.argmin()), int(start + part.argmax())}
    return [(float(x[i]), float(force[i])) for i in sorted(kept)]
