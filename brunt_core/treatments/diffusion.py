"""Water in a plate: uptake by diffusion, its fit to weighings, when it settles, when two meet."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import exp, log, pi, sqrt
from typing import Any

import numpy as np
import scipy

from brunt_core.errors import InputError
from brunt_core.statistics.summaries import t_quantile
from brunt_core.treatments.profile import best_of, inside
from brunt_core.treatments.steps import power_of_ten_step

HALF = 0.04918268
DAY = 86400.0
RATE, OVER = 1e-4 / DAY, DAY
LEAST = 4


def uptake(number: Any) -> Any:
    """Share of the final change that a plate has made, M/M∞, both faces at equilibrium from t = 0.

    Parameters: F = D·t/h², dimensionless, zero or more, one or an array. Series
    1 − (8/π²)·Σ exp(−(2n+1)²π²F)/(2n+1)² for F ≥ 0.02, and below it
    4√(F/π)·(1 + 2√π·Σ(−1)ⁿ ierfc(n/(2√F))), of which n = 1 is already below 1e-13.
    Source: J. Crank, The Mathematics of Diffusion, 4.18 and 4.20 (recalled); checked against finite
    differences and tabulated values in tests/reference/test_diffusion.py.

    >>> round(float(uptake(0.1)), 8), round(float(uptake(0.01)), 8)
    (0.69788191, 0.22567583)
    """
    f = np.asarray(number, dtype=float)
    if np.any(f < 0):
        raise InputError("A time before the start has no uptake.")
    odd = 2 * np.arange(12) + 1
    long = 1 - 8 / pi**2 * np.sum(np.exp(-np.multiply.outer(f, (odd * pi) ** 2)) / odd**2, axis=-1)
    root = np.sqrt(np.maximum(f, 1e-300))
    u = 0.5 / root
    ierfc = np.exp(-u * u) / sqrt(pi) - u * scipy.special.erfc(u)
    short = 4 * root / sqrt(pi) * (1 - 2 * sqrt(pi) * ierfc)
    return np.where(f < 0.02, np.where(f == 0, 0.0, short), long)


def rate_of_uptake(number: float) -> float:
    """How fast the share grows, d(M/M∞)/dF, at F > 0; from the same series.

    >>> round(rate_of_uptake(0.1), 4)
    2.9828
    """
    if number < 0.02:
        return 2 / sqrt(pi * number)
    odd = 2 * np.arange(12) + 1
    return float(8 * np.sum(np.exp(-((odd * pi) ** 2) * number)))


@dataclass(frozen=True)
class Weighing:
    """A mass in kg at a time in s since the first weighing."""

    time: float
    mass: float


@dataclass(frozen=True)
class Uptake:
    """A fit: masses at start and at the end in kg, and k = D/h² in 1/s with their bounds.

    A bound is ``None`` where the weighings leave that side open: the curve has not bent yet.
    """

    start: float
    end: float
    end_low: float | None
    end_high: float | None
    per_second: float
    per_second_low: float | None
    per_second_high: float | None
    sd: float

    def mass(self, time: float) -> float:
        """The fitted mass at a time in s."""
        return self.start + (self.end - self.start) * float(uptake(self.per_second * time))

    @property
    def half_time(self) -> float:
        """Time to half of the change, s: F = 0.04918."""
        return HALF / self.per_second

    def diffusivity(self, thickness: float) -> float:
        """D = k·h² in m²/s for a plate of that thickness in m, wet from both faces."""
        return self.per_second * thickness**2


def fit_uptake(weighings: Sequence[Weighing], confidence: float = 0.95) -> Uptake | None:
    """Fit m(t) = m₀ + (m∞ − m₀)·uptake(k·t) by least squares.

    Parameters: weighings in order of time, the first at the start. Returns ``None`` with fewer than
    four, or where the mass does not change beyond its own standard deviation.

    For a given k the model is linear in m₀ and m∞, so k is searched on a grid of its logarithm and
    polished, and the bounds are those of the profile: every k, and every m∞ under some k, whose sum
    of squares stays below SS_min + t²·s², with n − 3 degrees of freedom. s is never below what the
    step of the scale gives, step/√12 (JCGM 100 F.2.2.1); the step is that of the digits typed.
    Source: variable projection, G. H. Golub & V. Pereyra, SIAM J. Numer. Anal. 10 (1973); profile
    bounds, D. M. Bates & D. G. Watts, Nonlinear Regression Analysis, ch. 6 (both recalled).

    >>> h = 3600.0
    >>> rows = [Weighing(t * h, 0.010 + 4e-5 * float(uptake(1e-6 * t * h))) for t in (0, 2, 6, 12, 24, 48)]
    >>> f = fit_uptake(rows)
    >>> round(f.end * 1e3, 5), round(f.per_second * 1e6, 3)
    (10.04, 1.0)
    """
    if len(weighings) < LEAST:
        return None
    times = np.array([w.time for w in weighings])
    masses = np.array([w.mass for w in weighings])
    span = times[-1] - times[0]
    if span <= 0 or np.ptp(masses) <= 0:
        return None
    fine = power_of_ten_step([float(m) for m in masses]) / sqrt(12)
    ends = (1e-4 / float(span), 300 / float(span))

    def squares(per_second: float) -> float:
        return _linear(per_second, times, masses)[0]

    k = best_of(squares, [float(g) for g in np.geomspace(*ends, 80)])
    best, start, end, _ = _linear(k, times, masses)
    free = len(masses) - 3
    variance = max(best / free, fine**2)
    level = best + t_quantile((1 + confidence) / 2, free) ** 2 * variance
    if float(np.sum((masses - masses.mean()) ** 2)) <= level:
        return None
    points, open_below, open_above = inside(squares, k, level, ends)
    rows = [_linear(float(p), times, masses) for p in points]
    reach = [(e, sqrt(max(level - s, 0.0) * v)) for s, _, e, v in rows]
    low, high = min(e - r for e, r in reach), max(e + r for e, r in reach)
    rising = end > start
    return Uptake(
        start,
        end,
        None if open_below and not rising else low,
        None if open_below and rising else high,
        per_second=k,
        per_second_low=None if open_below else float(points[0]),
        per_second_high=None if open_above else float(points[-1]),
        sd=sqrt(variance),
    )


def _linear(k: float, times: Any, masses: Any) -> tuple[float, float, float, float]:
    """For one k: the sum of squares, m₀, m∞, and the variance of m∞ over that of a weighing."""
    share = uptake(k * (times - times[0]))
    design = np.column_stack([1 - share, share])
    normal = design.T @ design
    if np.linalg.cond(normal) > 1e15:
        return float("inf"), 0.0, 0.0, 0.0
    inverse = np.linalg.inv(normal)
    start, end = inverse @ design.T @ masses
    left = masses - design @ np.array([start, end])
    return float(left @ left), float(start), float(end), float(inverse[1, 1])


@dataclass(frozen=True)
class Settled:
    """Whether the mass is steady, since which time in s, and the change in the last window, per s."""

    settled: bool
    at: float | None
    rate: float | None
    coarse: bool = False


def settled(
    weighings: Sequence[Weighing],
    rate: float = RATE,
    over: float = OVER,
    reference: float = 0.0,
    sd: float = 0.0,
) -> Settled:
    """Whether the mass changes by less than ``rate`` over at least ``over``, from when on.

    Parameters: weighings in order; ``rate`` as a share of the reference mass per second (0.01 % a
    day unless said); ``over`` the least time in s it is judged over; ``reference`` in kg, the first
    mass where it is zero; ``sd`` the standard deviation of one weighing in kg, where it is
    known. The change in a window is the slope of a straight line through its weighings. It is
    settled from the end of the first window after which every window is steady. Where the scale's
    step, or 2√2 of the standard deviation, is more than the rate allows in the window, such a change passes,
    and ``coarse`` says that the scale could not show less.
    Source: constant mass as in ISO 62 and ISO 1110 (recalled), their limits left to the user.

    >>> day = 86400.0
    >>> rows = [Weighing(t * day, m) for t, m in ((0, 0.01), (1, 0.0101), (2, 0.010101), (3, 0.010101))]
    >>> s = settled(rows)
    >>> s.settled, s.at / day
    (True, 2.0)
    """
    masses = np.array([w.mass for w in weighings])
    base = reference or (float(masses[0]) if len(masses) else 1.0)
    step = power_of_ten_step([float(m) for m in masses]) if len(masses) else 0.0
    shown = max(step * 1.000001, 2 * sqrt(2) * sd)
    allowed = max(rate * over * base, shown)
    coarse = shown > rate * over * base
    steady_since: float | None = None
    last: float | None = None
    for j, weighing in enumerate(weighings):
        first = _window(weighings, j, over)
        if first is None:
            continue
        window = weighings[first : j + 1]
        span = window[-1].time - window[0].time
        last = _slope(window) / base
        if abs(last) * base * min(span, over) <= allowed:
            steady_since = weighing.time if steady_since is None else steady_since
        else:
            steady_since = None
    return Settled(steady_since is not None, steady_since, last, coarse)


def _window(weighings: Sequence[Weighing], j: int, over: float) -> int | None:
    """The latest weighing that lies the whole time before the j-th; ``None`` where there is none."""
    end = weighings[j].time
    before = [i for i in range(j) if end - weighings[i].time >= over * (1 - 1e-9)]
    return before[-1] if before else None


def _slope(window: Sequence[Weighing]) -> float:
    times = np.array([w.time for w in window])
    masses = np.array([w.mass for w in window])
    centred = times - times.mean()
    return float(centred @ (masses - masses.mean()) / (centred @ centred))


def settles_at(fit: Uptake, rate: float = RATE, reference: float = 0.0) -> float:
    """When the fitted curve becomes slower than ``rate`` (share of the reference per s), in s.

    Solves |m∞ − m₀|·k·uptake′(k·t) = rate·m_ref; zero where it is slower from the start.

    >>> f = Uptake(0.01, 0.01004, None, None, 1e-6, None, None, 0.0)
    >>> round(settles_at(f) / 3600, 1)
    93.4
    """
    base = reference or fit.start
    change = abs(fit.end - fit.start) * fit.per_second

    def over(x: float) -> float:
        return change * rate_of_uptake(exp(x)) - rate * base

    low, high = log(1e-9), log(60.0)
    if over(low) <= 0:
        return 0.0
    return exp(float(scipy.optimize.brentq(over, low, high))) / fit.per_second


def met_at(
    first: Sequence[Weighing], second: Sequence[Weighing], bases: tuple[float, float], gap: float
) -> float | None:
    """When two that come from both sides are within ``gap`` of one another and stay so, in s.

    Parameters: weighings of the treated and of the control on one clock; the mass of each that its
    share is taken of, in kg; ``gap`` as a difference of shares. Between weighings the mass runs
    straight. Returns ``None`` where they have not met in the time both were weighed.

    >>> wet = [Weighing(0, 0.0102), Weighing(100, 0.0101)]
    >>> dry = [Weighing(0, 0.0100), Weighing(100, 0.01009)]
    >>> round(met_at(wet, dry, (0.01, 0.01), 0.005), 1)
    78.9
    """
    if not first or not second:
        return None
    start = max(first[0].time, second[0].time)
    end = min(first[-1].time, second[-1].time)
    times = sorted({w.time for w in (*first, *second) if start <= w.time <= end})
    if not times:
        return None
    apart = _apart(first, second, bases)
    gaps = [apart(t) for t in times]
    if gaps[-1] > gap:
        return None
    for i in range(len(times) - 1, 0, -1):
        if gaps[i - 1] > gap:
            share = (gaps[i - 1] - gap) / (gaps[i - 1] - gaps[i])
            return times[i - 1] + share * (times[i] - times[i - 1])
    return times[0]


def _apart(
    first: Sequence[Weighing], second: Sequence[Weighing], bases: tuple[float, float]
) -> Callable[[float], float]:
    def share(rows: Sequence[Weighing], base: float, time: float) -> float:
        return float(np.interp(time, [w.time for w in rows], [w.mass / base for w in rows]))

    return lambda t: abs(share(first, bases[0], t) - share(second, bases[1], t))
