"""The straight part of a rise: slope and compensated zero, from all points of toe, line and bend.

A window chosen because its points look steep, or straight, is chosen by its noise: the steepest of
many windows is too steep. Here the whole rise is fitted at once by segmented regression: a parabola
(the toe) that runs smoothly into a straight line, that runs smoothly into a second parabola (the
bend towards yield). With its two joints known the model is linear; the joints are searched on a
grid, and about the best, as far as it is known, where the grid is too coarse; the fits are averaged
by how well each explains the points (weights exp(-BIC/2)), so no single choice carries its noise
into the slope.

Source: bent-cable regression, Chiu, Lockhart & Routledge, J. Am. Stat. Assoc. 101 (2006) 542;
averaging by BIC weights, Raftery, Sociol. Methodol. 25 (1995) 111 (both from memory).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np

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
class _Fits:
    """Fits of pairs of joints, an entry each; a joint that is none is nan."""

    score: np.ndarray
    start: np.ndarray
    slope: np.ndarray
    error: np.ndarray
    toe_end: np.ndarray
    bend: np.ndarray

    @property
    def least(self) -> float:
        """The score of the best."""
        return float(self.score.min(initial=np.inf))

    @property
    def _all(self) -> tuple[np.ndarray, ...]:
        return self.score, self.start, self.slope, self.error, self.toe_end, self.bend

    def where(self, chosen: np.ndarray) -> "_Fits":
        """Some of them."""
        return _Fits(*(x[chosen] for x in self._all))

    def and_(self, others: "_Fits") -> "_Fits":
        """With others after them."""
        return _Fits.of([self, others])

    @classmethod
    def of(cls, parts: Sequence["_Fits"]) -> "_Fits":
        """All parts as one; none of none."""
        empty = np.empty(0)
        rows = zip(*(p._all for p in parts), strict=True) if parts else [(empty,)] * 6
        return cls(*(np.concatenate(r) for r in rows))


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
    a, f = thinned(x[start:end], force[start:end])
    span = float(a[-1] - a[0])
    if len(a) < 2 or span <= 0:
        return None
    fits = _fits((a - a[0]) / span, f, _FLOOR * top)
    weights = np.exp(-0.5 * (fits.score - fits.least))
    weights /= weights.sum()
    mean = float(weights @ fits.slope)
    error = float(np.sqrt(weights @ (fits.error**2 + (fits.slope - mean) ** 2))) / span
    slope = mean / span
    if not slope > 0:
        return None
    crossing = float(weights @ fits.start)
    best = int(np.argmin(fits.score))
    low, high = a[0], a[0] + span
    if not np.isnan(fits.toe_end[best]):
        low = a[0] + span * fits.toe_end[best]
    if not np.isnan(fits.bend[best]):
        high = a[0] + span * fits.bend[best]
    toe = float(a[0] - crossing / slope)
    return Rise(slope, toe, float(low), float(high), error, noise_of(force[start:end]))


def thinned(x: np.ndarray, force: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Means of neighbouring readings, at most :data:`_MOST` of them."""
    if len(x) <= _MOST:
        return x, force
    starts = np.linspace(0, len(x), _MOST, endpoint=False).astype(int)
    counts = np.diff(np.append(starts, len(x)))
    return np.add.reduceat(x, starts) / counts, np.add.reduceat(force, starts) / counts


def _fits(u: np.ndarray, f: np.ndarray, floor: float) -> _Fits:
    """All pairs of joints on the grid; where the points are so quiet that the grid is too coarse
    for them, those about the best that lies between. What explains next to nothing beside the best is excluded."""
    kept = _scored(u, f, floor, *_GRID)
    best = int(np.argmin(kept.score))
    pairs = _between(u, f, floor, kept.toe_end[best], kept.bend[best])
    if pairs is not None:
        finer = _scored(u, f, floor, *pairs)
        if finer.least < kept.least - _FINER:
            kept = kept.and_(finer)
    return kept.where(kept.score - kept.least < 30)


@dataclass(frozen=True)
class _Bent:
    """The fit with joints in given places, and what is left of the loads."""

    joints: np.ndarray
    columns: np.ndarray
    fit: np.ndarray
    rest: np.ndarray
    squares: float


def _bent(u: np.ndarray, f: np.ndarray, joints: np.ndarray, has: tuple[bool, bool]) -> _Bent:
    toe_end, bend = _both(joints, has)
    columns = [np.ones_like(u), u]
    columns += [np.minimum(u - toe_end, 0) ** 2] if has[0] else []
    columns += [np.maximum(u - bend, 0) ** 2] if has[1] else []
    table = np.stack(columns)
    fit = np.linalg.solve(table @ table.T, table @ f)
    rest = f - fit @ table
    return _Bent(joints, table, fit, rest, float(rest @ rest))


def _both(joints: np.ndarray, has: tuple[bool, bool]) -> tuple[float, float]:
    return (float(joints[0]) if has[0] else 0.0), (float(joints[-1]) if has[1] else 1.0)


def _between(
    u: np.ndarray, f: np.ndarray, floor: float, toe_end: float, bend: float
) -> tuple[np.ndarray, np.ndarray] | None:
    """Pairs of joints about the best, which is found from one of the grid by Gauss's and Newton's
    steps: as far about it as they are known, in both their directions. None without joints."""
    has = (not np.isnan(toe_end), not np.isnan(bend))
    start = np.array([x for x in (toe_end, bend) if not np.isnan(x)])
    if not len(start):
        return None
    try:
        best, spread = _stepped(u, f, floor, start, has)
    except np.linalg.LinAlgError:
        return None
    size, turned = np.linalg.eigh(spread)
    each = (turned * np.sqrt(np.maximum(size, 0))).T
    at = best + _CLOUD[len(start)] @ each
    none = np.full(len(at), np.nan)
    return _possible(at[:, 0] if has[0] else none, at[:, -1] if has[1] else none)


# How many of their standard errors the joints are moved, together.
_CLOUD = {n: np.array(list(product(np.linspace(-2, 2, 5), repeat=n))) for n in (1, 2)}


def _stepped(
    u: np.ndarray, f: np.ndarray, floor: float, start: np.ndarray, has: tuple[bool, bool]
) -> tuple[np.ndarray, np.ndarray]:
    """The joints that leave least, and their covariance."""
    now = _bent(u, f, start, has)
    while True:
        toe_end, bend = _both(now.joints, has)
        moved = [-2 * now.fit[2] * np.minimum(u - toe_end, 0)] if has[0] else []
        moved += [-2 * now.fit[-1] * np.maximum(u - bend, 0)] if has[1] else []
        table = np.concatenate([now.columns, moved])
        inverse = np.linalg.inv(table @ table.T)
        step = (inverse @ (table @ now.rest))[-len(start) :]
        variance = max(now.squares / max(len(u) - len(table), 1), floor**2)
        spread = inverse[-len(start) :, -len(start) :] * variance
        following = _shorter(u, f, now, step, has)
        if following is None:
            return now.joints, spread
        gained = len(u) * np.log(now.squares / max(following.squares, len(u) * floor**2))
        now = following
        if gained < 0.01:
            return now.joints, spread


def _shorter(
    u: np.ndarray, f: np.ndarray, now: _Bent, step: np.ndarray, has: tuple[bool, bool]
) -> _Bent | None:
    """A step, or the longest part of it that gains; none where none does."""
    for share in (1.0, 0.5, 0.25, 0.1, 0.03):
        joints = now.joints + share * step
        toe_end, bend = _both(joints, has)
        if toe_end < 0 or bend > 1 or bend - toe_end < _LEAST_LINE:
            continue
        tried = _bent(u, f, joints, has)
        if tried.squares < now.squares:
            return tried
    return None


def _possible(toe_end: np.ndarray, bend: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Those pairs that leave a line between them."""
    ends, bends = toe_end.ravel(), bend.ravel()
    a, b = np.where(np.isnan(ends), 0.0, ends), np.where(np.isnan(bends), 1.0, bends)
    able = (a >= 0) & (b <= 1) & (b - a >= _LEAST_LINE)
    return ends[able], bends[able]


_KNOWN = np.array([np.nan, *np.linspace(0, 1, _KNOTS)[1:-1]])
_GRID = _possible(*np.meshgrid(_KNOWN, _KNOWN, indexing="ij"))


def _scored(
    u: np.ndarray, f: np.ndarray, floor: float, toe_end: np.ndarray, bend: np.ndarray
) -> _Fits:
    """BIC and fit of each pair of joints, solved all at once from one table of inner products."""
    has_end, has_bend = ~np.isnan(toe_end), ~np.isnan(bend)
    ends, end_at = np.unique(toe_end[has_end], return_inverse=True)
    bends, bend_at = np.unique(bend[has_bend], return_inverse=True)
    table = np.empty((2 + len(ends) + len(bends), len(u)))
    table[0], table[1] = 1.0, u
    table[2 : 2 + len(ends)] = np.minimum(u - ends[:, None], 0) ** 2
    table[2 + len(ends) :] = np.maximum(u - bends[:, None], 0) ** 2
    gram, loads, total = table @ table.T, table @ f, float(f @ f)
    column = np.zeros((2, len(toe_end)), int)
    column[0, has_end], column[1, has_bend] = 2 + end_at, 2 + len(ends) + bend_at
    found = []
    for end, bent in product((False, True), repeat=2):
        chosen = np.nonzero((has_end == end) & (has_bend == bent))[0]
        count = 2 + 2 * (end + bent)
        if not len(chosen) or (count > 2 and len(u) < count + 2):
            continue
        where = np.empty((len(chosen), 2 + end + bent), int)
        where[:, 0], where[:, 1] = 0, 1
        where[:, 2:] = column[[i for i, has in enumerate((end, bent)) if has]].T[chosen]
        able, fit, spread = _solved(gram, loads, where)
        squares = np.maximum(total - (fit * loads[where[able]]).sum(axis=1), 0.0)
        # The toe is hollow, the bend falls away.
        right = np.ones(len(fit), bool)
        if end:
            right &= fit[:, 2] > 0
        if bent:
            right &= fit[:, -1] < 0
        score = len(u) * np.log(np.maximum(squares / len(u), floor**2)) + count * np.log(len(u))
        error = np.sqrt(np.maximum(spread, 0) * squares / max(len(u) - count, 1))
        of = chosen[able]
        told = _Fits(score, fit[:, 0], fit[:, 1], error, toe_end[of], bend[of])
        found.append(told.where(right))
    return _Fits.of(found)


def _solved(
    gram: np.ndarray, loads: np.ndarray, where: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Which systems can be solved, their coefficients and the variance factor of the slope."""
    part = gram[where[:, :, None], where[:, None, :]]
    able = np.arange(len(where))
    try:
        inverse = np.linalg.inv(part)
    except np.linalg.LinAlgError:
        able = np.nonzero(np.linalg.cond(part) < 1e13)[0]
        inverse = np.linalg.inv(part[able])
    fit = (inverse @ loads[where[able]][:, :, None])[:, :, 0]
    return able, fit, inverse[:, 1, 1]
