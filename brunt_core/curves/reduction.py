"""Reducing a load–displacement curve: toe, slope, yield by offset, peak, break, energy."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
import scipy

from brunt_core.curves.law import Law, law_of
from brunt_core.curves.reading import LoadCurve
from brunt_core.curves.rise import Rise, smoothed, straight_part, window_of
from brunt_core.curves.spikes import spikes_of
from brunt_core.errors import InputError
from brunt_core.quantities.rendering import number

PICKS = ("low", "high", "yield", "peak", "break")
OFFSET = 0.002
_BREAK_DROP = 0.4
_PLATEAU = 0.95


@dataclass(frozen=True)
class Reduction:
    """What a curve comes to, in SI; displacements are counted from the compensated zero.

    ``picks`` are the displacements as read at which each point was taken; ``toe`` the shift of the
    zero; ``yield_load`` is ``None`` where the offset line is not met or no length sets the offset.
    ``slope_error`` is the slope's standard error, ``noise`` the variation of the readings in N,
    ``spikes`` the places of readings that stand alone.
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
    slope_error: float = 0.0
    noise: float = 0.0
    spikes: tuple[int, ...] = ()
    notes: tuple[str, ...] = field(default=())


def reduce_curve(
    curve: LoadCurve,
    gauge_length: float | None = None,
    picks: Mapping[str, float] | None = None,
    offset: float = OFFSET,
) -> Reduction:
    """Reduce a curve to slope, yield, peak, break and energy.

    The slope m is that of the straight part between toe and bend, all three fitted at once
    (:func:`brunt_core.curves.rise.straight_part`), or, where an end is picked, a straight line by
    least squares between the ends; where it meets zero load is the compensated zero (toe
    compensation, ASTM D638 annex A1). Yield is where the curve meets a line of the same slope
    moved by ``offset`` · ``gauge_length`` (ASTM D638 annex A2), up to the peak or on a plateau
    within 5 % of it; so that noise does not meet the line early, the distance to the line is first
    made to fall steadily (isotonic regression). Peak is the largest force; break the last point
    before the force falls below 40 % of it (common practice, no source). Energy is the area to the
    break, by trapezia.

    Parameters: the curve in SI; ``gauge_length`` in m; ``picks`` displacements in m, as read, that
    replace the automatic ones; ``offset`` as a strain. Raises :class:`InputError` for a curve that
    never rises or picks that leave no two points.

    >>> x = np.linspace(0, 1e-3, 101)
    >>> r = reduce_curve(LoadCurve(x, 2e6 * x))
    >>> round(r.slope), round(r.peak_load), round(r.energy, 6)
    (2000000, 2000, 1.0)
    """
    x, force = curve.displacement, curve.force
    wanted = dict(picks or {})
    peak = _nearest(x, wanted["peak"]) if "peak" in wanted else int(np.argmax(force))
    if force[peak] <= 0 or peak < 2:
        raise InputError("The force never rises above zero; is a column or a sign wrong?", "curve")
    by_hand = {k: at for k, at in wanted.items() if k in ("low", "high")}
    line, law = _line_of(x[: peak + 1], force[: peak + 1], by_hand)
    end = _nearest(x, wanted["break"]) if "break" in wanted else _break(force, peak)
    if "yield" in wanted:
        i = _nearest(x, wanted["yield"])
        at_yield: tuple[float, float] | None = (float(x[i]), float(force[i]))
    else:
        at_yield = _yield(curve, peak, line, law, (gauge_length or 0.0) * offset)
    chosen = {"low": line.low, "high": line.high, "peak": float(x[peak]), "break": float(x[end])}
    if at_yield is not None:
        chosen["yield"] = at_yield[0]
    spikes = tuple(spikes_of(force).tolist())
    return Reduction(
        chosen,
        line.toe,
        line.slope,
        yield_load=None if at_yield is None else at_yield[1],
        peak_load=float(force[peak]),
        at_peak=float(x[peak] - line.toe),
        break_load=float(force[end]),
        at_break=float(x[end] - line.toe),
        energy=_energy(x[: end + 1], force[: end + 1], line.toe),
        slope_error=line.error,
        noise=line.noise,
        spikes=spikes,
        notes=_notes(curve, peak, end, spikes, line, gauge_length),
    )


def _notes(
    curve: LoadCurve,
    peak: int,
    end: int,
    spikes: tuple[int, ...],
    line: Rise,
    gauge_length: float | None,
) -> tuple[str, ...]:
    force, noise = curve.force, line.noise
    top, said = float(force[peak]), []
    if line.error > 0.05 * line.slope:
        said.append(
            f"few readings on the rise for their noise: the slope is known to ±{line.error / line.slope * 200:.0f} %"
        )
    if not gauge_length:
        said.append("no gauge length: yield by offset is not taken")
    if peak in spikes:
        said.append("the highest reading is isolated: a spike rather than the peak?")
    elif noise > 0.005 * top:
        even = float(smoothed(force, max(5, window_of(len(force)))).max())
        said.append(
            f"noise {number(noise / top * 100, '.1f')} % of the peak; the peak is the largest "
            f"single reading, {number((top / even - 1) * 100, '.1f')} % above the smoothed curve"
        )
    if end == len(force) - 1 and force[end] > 0.9 * top:
        said.append("the file ends before the load falls: its end is taken as the break")
    return tuple(said)


def _nearest(x: np.ndarray, at: float) -> int:
    return int(np.argmin(np.abs(x - at)))


def _line_of(
    x: np.ndarray, force: np.ndarray, picked: Mapping[str, float]
) -> tuple[Rise, Law | None]:
    """The line of the rise: found by itself, or by least squares between ends that were picked."""
    found = straight_part(x, force)
    law = None if picked else law_of(x, force, found)
    if not picked:
        return (law.rise if law else found), law
    ends = sorted((picked.get("low", found.low), picked.get("high", found.high)))
    low, high = ends
    inside = (x >= low) & (x <= high)
    if inside.sum() < 2 or np.ptp(x[inside]) == 0:
        raise InputError("The two points of the slope lie too close together.", "low")
    a, b = x[inside], force[inside]
    spread = float(((a - a.mean()) ** 2).sum())
    slope = float(((a - a.mean()) * (b - b.mean())).sum() / spread)
    if slope <= 0:
        raise InputError("The force does not rise between the two points of the slope.", "low")
    toe = float(a.mean() - b.mean() / slope)
    rest = b - slope * (a - toe)
    error = float(np.sqrt((rest**2).sum() / max(len(a) - 2, 1) / spread))
    return Rise(slope, toe, low, high, error, found.noise), None


def residuals(curve: LoadCurve, found: Reduction) -> tuple[np.ndarray, np.ndarray]:
    """Displacement in m and force less the line in N, of the readings between the line's ends.

    >>> x = np.linspace(0, 1e-3, 101)
    >>> straight = LoadCurve(x, 2e6 * x)
    >>> bool(np.abs(residuals(straight, reduce_curve(straight))[1]).max() < 1e-6)
    True
    """
    x, force = curve.displacement, curve.force
    peak = _nearest(x, found.picks["peak"])
    at = np.arange(len(x))
    inside = (at <= peak) & (x >= found.picks["low"]) & (x <= found.picks["high"])
    return x[inside], force[inside] - found.slope * (x[inside] - found.toe)


def _break(force: np.ndarray, peak: int) -> int:
    fallen = np.nonzero(force[peak:] < _BREAK_DROP * force[peak])[0]
    return peak + int(fallen[0]) - 1 if len(fallen) else len(force) - 1


def _yield(
    curve: LoadCurve, peak: int, line: Rise, law: Law | None, shift: float
) -> tuple[float, float] | None:
    """Displacement and load where the line moved by ``shift`` (m) is met, or None."""
    if shift <= 0:
        return None
    if law is not None:
        load = law.offset_load(shift)
        met = law.rise.toe + shift + load / law.rise.slope
        return (met, load) if met <= curve.displacement[peak] else None
    x, force = curve.displacement, curve.force
    even = smoothed(force, max(5, window_of(len(force))))
    held = (np.arange(len(x)) <= peak) | (even >= _PLATEAU * even.max())
    at = np.nonzero((x >= line.toe + shift / 2) & held)[0]
    if len(at) < 3:
        return None
    part = slice(int(at[0]), int(at[-1]) + 1)
    above = force[part] - line.slope * (x[part] - line.toe - shift)
    falling = scipy.optimize.isotonic_regression(above, increasing=False)
    edges = falling.blocks
    level = falling.x[edges[:-1]]
    place = np.add.reduceat(x[part], edges[:-1]) / np.diff(edges)
    below = np.nonzero(level <= 0)[0]
    if not len(below) or below[0] == 0:
        return None
    i = int(below[0])
    share = level[i - 1] / (level[i - 1] - level[i])
    crossing = float(place[i - 1] + share * (place[i] - place[i - 1]))
    return crossing, line.slope * (crossing - line.toe - shift)


def _energy(x: np.ndarray, force: np.ndarray, toe: float) -> float:
    """Area under the curve, the toe replaced by the line's zero."""
    keep = x >= toe
    return float(np.trapezoid(force[keep], x[keep])) if keep.sum() > 1 else 0.0


def thinned_for_drawing(curve: LoadCurve, buckets: int = 700) -> list[tuple[float, float]]:
    """The points to draw: first, lowest, highest of each bucket, so that no peak is lost.

    >>> len(thinned_for_drawing(LoadCurve(np.arange(10.0), np.arange(10.0))))
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
