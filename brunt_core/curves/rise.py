"""The straight part of a rise: slope and compensated zero, from all points of toe, line and bend.

A window chosen because its points look steep, or straight, is chosen by its noise: the steepest of
many windows is too steep. Here the whole rise is fitted at once by segmented regression: a parabola
(the toe) that runs smoothly into a straight line, that runs smoothly into a second parabola (the
bend towards yield). With its two joints known the model is linear; the joints are searched on a
grid and the fits are averaged by how well each explains the points (weights exp(-BIC/2)), so no
single choice carries its noise into the slope.

Source: bent-cable regression, Chiu, Lockhart & Routledge, J. Am. Stat. Assoc. 101 (2006) 542;
averaging by BIC weights, Raftery, Sociol. Methodol. 25 (1995) 111 (both from memory).
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import product

import numpy as np
import scipy

from brunt_core.curves.spikes import noise_of
from brunt_core.errors import InputError

_KNOTS = 13
_MOST = 400
_SECANT = 0.75
_HIGHEST = 0.85
_LEAST_LINE = 0.12
_FLOOR = 1e-6
_FINER = 6.0
_SURE = 6.0
_Joint = float | None


@dataclass(frozen=True)
class Rise:
    """A rise in SI: ``slope`` in N/m, ``toe`` where the line meets zero load, in m.

    ``low`` and ``high`` are the displacements between which the best fit is straight; ``error`` is
    the standard error of the slope, ``noise`` the standard deviation of the readings about the fit.
    """

    slope: float
    toe: float
    low: float
    high: float
    error: float
    noise: float


@dataclass(frozen=True)
class Law:
    """A rise that the Ramberg–Osgood law explains up to its peak.

    Displacement from the compensated zero is F/m + s (F/F_s)ⁿ, before it a parabolic toe: ``rise``
    has slope, toe and the ends of what is straight within 1 %; ``scale`` is F_s in N, ``exponent`` n
    and ``reference`` s in m.
    """

    rise: Rise
    scale: float
    exponent: float
    reference: float

    def offset_load(self, shift: float) -> float:
        """The load at which the permanent part is ``shift`` (m): yield by offset, in N.

        >>> Law(Rise(1e6, 0, 0, 0, 0, 0), 900.0, 10.0, 1e-4).offset_load(1e-4)
        900.0
        """
        return float(self.scale * (shift / self.reference) ** (1 / self.exponent))


@dataclass(frozen=True)
class _Fit:
    weight: float
    start: float
    slope: float
    error: float
    toe_end: _Joint
    bend: _Joint


def smoothed(force: np.ndarray, width: int) -> np.ndarray:
    """Running mean over ``width`` readings (odd), fewer at the ends.

    >>> smoothed(np.array([0.0, 3.0, 6.0, 3.0]), 3).tolist()
    [1.5, 3.0, 4.0, 4.5]
    """
    if width <= 1:
        return force
    sums = np.concatenate([[0.0], np.cumsum(force)])
    at = np.arange(len(force))
    first = np.maximum(at - width // 2, 0)
    after = np.minimum(at + width // 2 + 1, len(force))
    return np.asarray((sums[after] - sums[first]) / (after - first))


def window_of(points: int) -> int:
    """How many readings the running mean takes: a sixtieth of all, one at least, odd.

    >>> window_of(60), window_of(3000)
    (1, 51)
    """
    return max(1, 2 * (points // 120) + 1)


def straight_part(x: np.ndarray, force: np.ndarray) -> Rise:
    """Fit toe, line and bend of a rise.

    Parameters: displacement in m and force in N up to the peak, in the order read, at least three
    points. The fit ends where the load has left the line by a quarter (secant below 0.75 of the
    slope), at the latest at 85 % of the peak; it begins after the last reading under 2 % of the
    peak. Raises :class:`InputError` where the force does not rise.

    >>> x = np.linspace(0, 1e-3, 101)
    >>> rise = straight_part(x, 2e6 * np.maximum(x - 1e-4, 0))
    >>> round(rise.slope / 2e6, 4), round(rise.toe * 1e3, 3)
    (1.0, 0.1)
    """
    even = smoothed(force, window_of(len(force)))
    peak = int(np.argmax(even))
    found = _better(x, force, even, peak)
    if found is None or found.slope <= 0:
        raise InputError("The force does not rise between the two points of the slope.", "low")
    return found


def _better(x: np.ndarray, force: np.ndarray, even: np.ndarray, peak: int) -> Rise | None:
    """From half the peak; from a fifth where that is surely steeper (an early knee, a long flow)."""
    half = _settled(x, force, even, peak, 0.5)
    early = _settled(x, force, even, peak, 0.2)
    if half is None or early is None:
        return half or early
    apart = early.slope - half.slope
    surely = apart > _SURE * np.hypot(early.error, half.error) and apart > 0.3 * half.slope
    return early if surely else half


def _settled(
    x: np.ndarray, force: np.ndarray, even: np.ndarray, peak: int, level: float
) -> Rise | None:
    """Fit up to a share of the peak, extend to where the line is left, fit again."""
    least = 0.8 * level
    found = None
    for _ in range(3):
        found = _fitted(x, force, even, peak, level)
        if found is None:
            return None
        left = (even[: peak + 1] < _SECANT * found.slope * (x[: peak + 1] - found.toe)) & (
            even[: peak + 1] > least * even[peak]
        )
        end = int(np.argmax(left)) if left.any() else peak
        reached = float(even[: end + 1].max() / even[peak]) * 0.999
        further = min(_HIGHEST, max(least, reached))
        if abs(further - level) < 0.02:
            break
        level = further
    return found


def _fitted(
    x: np.ndarray, force: np.ndarray, even: np.ndarray, peak: int, level: float
) -> Rise | None:
    top = float(even[peak])
    first = int(np.argmax(even[: peak + 1] >= 0.2 * top))
    end = int(np.argmax(even[: peak + 1] >= level * top)) + 1
    end = max(end, min(peak + 1, 6))
    idle = np.nonzero(even[: first + 1] <= 0.02 * top)[0]
    start = int(idle[-1]) if len(idle) else 0
    start = max(0, min(start, end - 3))
    a, f = _thinned(x[start:end], force[start:end])
    span = float(a[-1] - a[0])
    if len(a) < 2 or span <= 0:
        return None
    fits = _fits((a - a[0]) / span, f, _FLOOR * top)
    weights = np.array([fit.weight for fit in fits])
    slopes = np.array([fit.slope for fit in fits])
    mean = float(np.average(slopes, weights=weights))
    errors = np.array([fit.error for fit in fits])
    error = float(np.sqrt(np.average(errors**2 + (slopes - mean) ** 2, weights=weights))) / span
    slope = mean / span
    if not slope > 0:
        return None
    crossing = float(np.average([fit.start for fit in fits], weights=weights))
    best = max(fits, key=lambda fit: fit.weight)
    low = a[0] + span * (best.toe_end or 0.0)
    high = a[0] + span * (1.0 if best.bend is None else best.bend)
    toe = float(a[0] - crossing / slope)
    return Rise(slope, toe, float(low), float(high), error, noise_of(force[start:end]))


def _thinned(x: np.ndarray, force: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Means of neighbouring readings, at most :data:`_MOST` of them."""
    if len(x) <= _MOST:
        return x, force
    starts = np.linspace(0, len(x), _MOST, endpoint=False).astype(int)
    counts = np.diff(np.append(starts, len(x)))
    return np.add.reduceat(x, starts) / counts, np.add.reduceat(force, starts) / counts


def _fits(u: np.ndarray, f: np.ndarray, floor: float) -> list[_Fit]:
    """Every pair of joints on the grid; where the points are so quiet that the grid is too coarse
    for them, finer about the best. Weights are relative to the best."""
    grid: list[_Joint] = [None, *np.linspace(0, 1, _KNOTS)[1:-1].tolist()]
    kept = _scored(u, f, floor, [(a, b) for a, b in product(grid, grid) if _possible(a, b)])
    coarse = min(score for score, _ in kept)
    step = 0.5 / (_KNOTS - 1)
    finer: list[tuple[float, _Fit]] = []
    for _ in range(14):
        if step < 0.01 and min(score for score, _ in finer) > coarse - _FINER:
            break
        best = min(kept + finer, key=lambda s: s[0])[1]
        near = product(_about(best.toe_end, step), _about(best.bend, step))
        finer += _scored(u, f, floor, [(a, b) for a, b in near if _possible(a, b)])
        step /= 2
    if min(score for score, _ in finer) < coarse - _FINER:
        kept += finer
    least = min(score for score, _ in kept)
    return [
        replace(fit, weight=float(np.exp(-0.5 * (score - least))))
        for score, fit in kept
        if score - least < 30
    ]


def _about(joint: _Joint, step: float) -> list[_Joint]:
    return [None] if joint is None else [joint - step, joint, joint + step]


def _possible(toe_end: _Joint, bend: _Joint) -> bool:
    a, b = toe_end or 0.0, 1.0 if bend is None else bend
    return 0 <= a and b <= 1 and b - a >= _LEAST_LINE


def _scored(
    u: np.ndarray, f: np.ndarray, floor: float, joints: list[tuple[_Joint, _Joint]]
) -> list[tuple[float, _Fit]]:
    """BIC and fit of each pair of joints, solved all at once from one table of inner products."""
    found = []
    ends = sorted({a for a, _ in joints if a is not None})
    bends = sorted({b for _, b in joints if b is not None})
    columns = [np.ones_like(u), u]
    columns += [np.minimum(u - a, 0) ** 2 for a in ends]
    columns += [np.maximum(u - b, 0) ** 2 for b in bends]
    table = np.stack(columns)
    gram, loads, total = table @ table.T, table @ f, float(f @ f)
    for shape in ((False, False), (True, False), (False, True), (True, True)):
        chosen = [(a, b) for a, b in joints if (a is not None, b is not None) == shape]
        count = 2 + 2 * sum(shape)
        if not chosen or (any(shape) and len(u) < count + 2):
            continue
        where = [
            [0, 1]
            + ([2 + ends.index(a)] if a is not None else [])
            + ([2 + len(ends) + bends.index(b)] if b is not None else [])
            for a, b in chosen
        ]
        for pair, fit, squares in _solved(gram, loads, total, where, chosen):
            if pair[0] is not None and fit[2] <= 0 or pair[1] is not None and fit[-2] >= 0:
                continue
            score = len(u) * np.log(max(squares / len(u), floor**2)) + count * np.log(len(u))
            error = float(np.sqrt(max(fit[-1], 0) * squares / max(len(u) - count, 1)))
            found.append((float(score), _Fit(0.0, float(fit[0]), float(fit[1]), error, *pair)))
    return found


def _solved(
    gram: np.ndarray,
    loads: np.ndarray,
    total: float,
    where: list[list[int]],
    chosen: list[tuple[_Joint, _Joint]],
) -> Iterator[tuple[tuple[_Joint, _Joint], np.ndarray, float]]:
    """Each system's coefficients, then the slope's variance factor; and its sum of squares."""
    at = np.array(where)
    part, right = gram[at[:, :, None], at[:, None, :]], loads[at]
    try:
        inverse = np.linalg.inv(part)
    except np.linalg.LinAlgError:
        able = np.linalg.cond(part) < 1e13
        part, right = part[able], right[able]
        chosen = [pair for pair, good in zip(chosen, able, strict=True) if good]
        inverse = np.linalg.inv(part)
    solved = np.einsum("kij,kj->ki", inverse, right)
    squares = np.maximum(total - np.einsum("ki,ki->k", solved, right), 0.0)
    told = np.column_stack([solved, inverse[:, 1, 1]])
    yield from zip(chosen, told, squares.tolist(), strict=True)


def law_of(x: np.ndarray, force: np.ndarray, first: Rise) -> Law | None:
    """The Ramberg–Osgood law with a toe, fitted to all readings up to the peak, or None.

    It uses the bend as well, so it scatters less than the straight part alone; but it is taken
    only where its residuals are no larger than the noise of the readings (mean square within 4.5
    standard errors of the noise's, or root mean square under 0.2 % of the peak), and where the
    bend lies within the readings. The exponent leans weakly on 10 (a factor of 1.5 either way
    costs as much as one standard deviation of one reading). Parameters as in :func:`straight_part`, whose result it begins
    from. Source: Ramberg & Osgood, NACA Technical Note 902 (1943), from memory.

    >>> F = np.linspace(0, 1000, 300); x = F / 1e6 + 1e-4 * (F / 900) ** 10
    >>> law = law_of(x, F, straight_part(x, F))
    >>> round(law.rise.slope / 1e6, 3), round(law.offset_load(1e-4))
    (1.0, 900)
    """
    even = smoothed(force, window_of(len(force)))
    peak = int(np.argmax(even))
    a, f = _thinned(x[: peak + 1], force[: peak + 1])
    top = float(even[peak])
    if len(a) < 12 or a[-1] - first.toe < 1.05 * top / first.slope:
        return None
    reference = 0.1 * top / first.slope
    loads = np.linspace(0, 1.3 * top, 500)

    def model(p: np.ndarray) -> np.ndarray:
        slope, scale, power = first.slope * np.exp(p[0]), top * np.exp(p[1]), np.exp(p[2])
        toe, reach = first.toe + p[3] * reference, abs(p[4]) * reference
        travel = loads / slope + reference * (loads / scale) ** power
        after = np.interp(a - toe, travel, loads)
        if reach == 0:
            return np.asarray(after)
        parabola = slope * np.maximum(a - toe + reach, 0) ** 2 / (4 * reach)
        return np.where(a < toe + reach, parabola, after)

    noise = max(noise_of(force[: peak + 1]) / np.sqrt((peak + 1) / len(a)), 1e-9 * top)
    lead = max(first.low - first.toe, 0.0) / reference
    best = None
    for power, reach in ((2.0, lead), (2.7, lead), (2.3, 0.02)):
        tried = scipy.optimize.least_squares(
            lambda p: np.append((model(p) - f) / noise, (p[2] - 2.3) / 0.42),
            [0.0, -0.1, power, 0.0, max(reach, 0.02)],
            bounds=([-0.7, -2, 0.7, -5, 0], [0.7, 2, 4.5, 5, 5]),
            x_scale=[0.05, 0.05, 0.2, 0.2, 0.2],
            max_nfev=60,
        )
        if best is None or tried.cost < best.cost:
            best = tried
    assert best is not None
    squares, free = float(((best.fun[:-1]) ** 2).sum()), len(a) - 5
    explained = squares < free + 4.5 * np.sqrt(2 * free)
    if not explained and noise * np.sqrt(squares / len(a)) > 0.002 * top:
        return None
    return _law(best.x, best.jac, squares / free, first=first, top=top, reference=reference)


def _law(
    p: np.ndarray, jacobian: np.ndarray, chi: float, *, first: Rise, top: float, reference: float
) -> Law:
    slope, scale, power = first.slope * np.exp(p[0]), top * np.exp(p[1]), float(np.exp(p[2]))
    toe, reach = first.toe + p[3] * reference, abs(p[4]) * reference
    spread = np.linalg.pinv(jacobian.T @ jacobian)
    error = float(slope * np.sqrt(max(spread[0, 0], 0) * max(chi, 1.0)))
    straight = scale * (0.01 * scale / (slope * reference)) ** (1 / (power - 1))
    rise = Rise(
        float(slope),
        float(toe),
        float(toe + reach),
        float(toe + straight / slope),
        error,
        first.noise,
    )
    return Law(rise, float(scale), power, reference)
