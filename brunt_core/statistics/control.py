"""Individuals and moving-range charts of a check standard: limits, rules, and where the level shifted."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, isfinite
from statistics import fmean

import scipy

from brunt_core.errors import InputError

# Constants of moving ranges of two: d2 and D4 (Montgomery, Introduction to Statistical Quality Control,
# appendix of factors; NIST/SEMATECH e-Handbook 6.3.2). Three sigma is 3 / d2 = 2.660 mean ranges.
D2, D4 = 1.128, 3.267
# Below this many points the limits are rough (common practice, no source: 20 to 25 are asked for).
ENOUGH = 20
LEAST = 4
_CHANGED = 0.05

RULES = {
    "limit": "beyond three sigma",
    "two": "two of three beyond two sigma on one side",
    "four": "four of five beyond one sigma on one side",
    "eight": "eight in a row on one side",
    "six": "six in a row rising or falling",
}


@dataclass(frozen=True)
class Signal:
    """A rule broken at a point: its index from 0, the rule's key, and the side, 1 above or −1 below."""

    at: int
    rule: str
    side: int

    @property
    def words(self) -> str:
        """The rule in words."""
        return RULES[self.rule]


@dataclass(frozen=True)
class Shift:
    """A lasting change of level: the first point of it, and how far its mean lies from the centre."""

    start: int
    told_at: int
    by: float
    mean: float


@dataclass(frozen=True)
class ControlChart:
    """A chart: ``centre`` and ``sigma`` from the first ``base`` points; limits; what broke a rule."""

    values: tuple[float, ...]
    centre: float
    sigma: float
    base: int
    ranges: tuple[float, ...]
    range_mean: float
    signals: tuple[Signal, ...]
    shift: Shift | None

    @property
    def lower(self) -> float:
        """The lower limit, three sigma below the centre."""
        return self.centre - 3 * self.sigma

    @property
    def upper(self) -> float:
        """The upper limit, three sigma above the centre."""
        return self.centre + 3 * self.sigma

    @property
    def range_limit(self) -> float:
        """The upper limit of the moving range, D4 times its mean."""
        return D4 * self.range_mean

    @property
    def ranges_out(self) -> tuple[int, ...]:
        """The points whose moving range is beyond its limit."""
        return tuple(i + 1 for i, r in enumerate(self.ranges) if r > self.range_limit > 0)

    @property
    def rough(self) -> bool:
        """Whether the limits rest on few points."""
        return self.base < ENOUGH


def control_chart(values: Sequence[float], base: int | None = None) -> ControlChart:
    """The chart of values in order of time.

    Parameters: ``values`` in any one unit, at least 4, finite; ``base`` how many of the first make the
    limits, all where not given (and then what is judged also made the limits). Where the level changed
    within the base (Pettitt's test at 5 %), only those before the change make them. Sigma is the mean
    moving range of the base divided by 1.128, so a slow change within the base widens it little.
    With known limits and no change, rule ``limit`` alone speaks falsely once in about 370 points and the
    first four together once in about 92 (Champ & Woodall 1987); six in a row adds some. Limits from few
    points speak falsely more often.
    Raises :class:`InputError` for fewer than 4 values, for what is not finite, and for a base below 4.
    Source: NIST/SEMATECH e-Handbook of Statistical Methods 6.3.2.2 (individuals chart) and 6.3.2 (rules).

    >>> flow = [49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1]
    >>> c = control_chart(flow)
    >>> round(c.centre, 2), round(c.upper, 4), round(c.lower, 4), c.signals
    (50.81, 55.8041, 45.8159, ())
    """
    if len(values) < LEAST:
        raise InputError(f"A control chart needs {LEAST} points; there are {len(values)}.", "values")  # fmt: skip
    if not all(map(isfinite, values)):
        raise InputError("A control chart takes numbers only.", "values")
    n = len(values) if base is None else min(base, len(values))
    if n < LEAST:
        raise InputError(f"The limits need {LEAST} points.", "base")
    turn, p = pettitt(values[:n])
    if p < _CHANGED and turn >= LEAST:
        n = turn
    ranges = tuple(abs(b - a) for a, b in zip(values, values[1:], strict=False))
    mean = fmean(ranges[: n - 1])
    centre, sigma = fmean(values[:n]), mean / D2
    signals = _signals(values, centre, sigma)
    return ControlChart(
        tuple(values), centre, sigma, n, ranges=ranges, range_mean=mean, signals=signals,
        shift=_shift(values, centre, sigma, signals),
    )  # fmt: skip


def pettitt(values: Sequence[float]) -> tuple[int, float]:
    """Where a level most likely changed, and how likely that much is without a change.

    Parameters: ``values`` in order, any unit, any distribution. Returns how many stand before the
    change and the approximate p, 2 exp(−6 K² / (n³ + n²)), at most 1; (0, 1) for fewer than two.
    U at t is the sum of sign(later − earlier) over all pairs across t, K its greatest size.
    Source: Pettitt, A non-parametric approach to the change-point problem, Applied Statistics 28 (1979) 126.

    >>> pettitt([1, 2, 1, 2, 1, 9, 8, 9, 8, 9])[0]
    5
    """
    n = len(values)
    if n < 2:
        return 0, 1.0
    # With mid-ranks the sum of the signs up to t is t (n + 1) − 2 Σ ranks.
    ranks = scipy.stats.rankdata(values)
    sums = [t * (n + 1) - 2 * float(r) for t, r in enumerate(ranks.cumsum(), 1)]
    k = max(abs(u) for u in sums)
    turn = next(i for i, u in enumerate(sums, 1) if abs(u) == k)
    return turn, min(1.0, 2 * exp(-6 * k**2 / (n**3 + n**2)))


def _signals(values: Sequence[float], centre: float, sigma: float) -> tuple[Signal, ...]:
    """Every rule that is broken, at the point that breaks it; nothing where there is no variation at all."""
    if sigma <= 0:
        return tuple(Signal(i, "limit", 1 if v > centre else -1) for i, v in enumerate(values) if v != centre)  # fmt: skip
    z = [(v - centre) / sigma for v in values]
    found = []
    for i, own in enumerate(z):
        for side in (1, -1):
            s = [side * x for x in z[max(0, i - 7) : i + 1]]
            if side * own > 3:
                found.append(Signal(i, "limit", side))
            if side * own > 2 and sum(x > 2 for x in s[-3:]) >= 2:
                found.append(Signal(i, "two", side))
            if side * own > 1 and sum(x > 1 for x in s[-5:]) >= 4:
                found.append(Signal(i, "four", side))
            if len(s) == 8 and all(x > 0 for x in s):
                found.append(Signal(i, "eight", side))
            run = values[max(0, i - 5) : i + 1]
            if len(run) == 6 and all(side * (b - a) > 0 for a, b in zip(run, run[1:], strict=False)):  # fmt: skip
                found.append(Signal(i, "six", side))
    return tuple(found)


def _shift(
    values: Sequence[float], centre: float, sigma: float, signals: Sequence[Signal]
) -> Shift | None:
    """The first lasting change: when a rule spoke of it, and the likeliest point it began at.

    A single point beyond three sigma, with the next back within one, is a point out and no shift. The
    start is the one that maximises (T − t)(mean of those after t − centre)², for a step in a normal
    series (Samuel, Pignatiello & Calvin, Quality Engineering 10, 1998).
    """
    for one in signals:
        if one.rule == "limit" and not _lasts(values, centre, sigma, one):
            continue
        best, start = -1.0, one.at
        for t in range(one.at + 1):
            after = values[t : one.at + 1]
            gain = len(after) * (fmean(after) - centre) ** 2
            if gain > best:
                best, start = gain, t
        if start == 0:
            continue
        mean = fmean(values[start:])
        return Shift(start, one.at, mean - centre, mean)
    return None


def _lasts(values: Sequence[float], centre: float, sigma: float, one: Signal) -> bool:
    """Whether the point after one beyond the limit lies off the centre on its side as well."""
    after = values[one.at + 1 : one.at + 2]
    return bool(after) and one.side * (after[0] - centre) > sigma
