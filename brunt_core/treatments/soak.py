"""Heat reaching the middle of a pack: first-order approach with a lag, and when it is close enough."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import exp, log, sqrt

import numpy as np

from brunt_core.errors import InputError
from brunt_core.statistics.summaries import t_quantile
from brunt_core.treatments.profile import best_of, inside
from brunt_core.treatments.steps import power_of_ten_step

LEAST = 3
_PAST = 0.15


@dataclass(frozen=True)
class CoreReading:
    """A temperature in K at a time in s."""

    time: float
    kelvin: float


@dataclass(frozen=True)
class Approach:
    """The core's approach to the set point.

    ``reached`` when a reading is within the gap already; ``at``, ``low`` and ``high`` in s, the
    times between which it gets there, ``None`` where the readings do not tell (``high`` alone: they
    leave open how long it takes). ``time_constant`` and ``lag`` in s; ``remark`` one sentence.
    """

    reached: bool
    at: float | None = None
    low: float | None = None
    high: float | None = None
    time_constant: float | None = None
    lag: float | None = None
    amplitude: float | None = None
    remark: str = ""

    def core(self, time: float, target: float) -> float | None:
        """The temperature of the fit at a time in s, K; of the part that follows the law."""
        if self.time_constant is None or self.amplitude is None:
            return None
        return target - self.amplitude * exp(-time / self.time_constant)


def approach(
    readings: Sequence[CoreReading], target: float, gap: float, confidence: float = 0.95
) -> Approach:
    """When the core comes within ``gap`` of the set point, from the readings so far.

    Parameters: readings in order of time; ``target`` the set point in K; ``gap`` in K, above zero.
    The law is T(t) = S − A·exp(−t/τ): what is left of heat conduction in a pack once the quicker
    terms have died (the lag is where the law meets the first temperature). It is fitted by least
    squares to the readings past 15 % of the first gap; for a given τ it is linear in A, so τ is
    searched on a grid of its logarithm. The crossing is t* = τ·ln(A/gap), its bounds those of the
    profile with n − 2 degrees of freedom, the standard deviation never below the step of the thermometer over
    √12. With fewer than three such readings nothing is predicted and the remark says so.

    Raises :class:`InputError` for a gap that is not positive, readings out of order, or a core that
    does not approach.
    Source: J. Crank, The Mathematics of Diffusion, 4.3.3, leading term (recalled); lumped approach
    in any text of heat transfer. Checked against ``scipy.optimize.curve_fit``.

    >>> rows = [CoreReading(t * 60, 463.15 - 170 * exp(-(t - 20) / 40)) for t in (30, 45, 60, 75)]
    >>> a = approach(rows, 463.15, 10.0)
    >>> round(a.at / 60, 2), round(a.time_constant / 60, 2)
    (133.33, 40.0)
    """
    if gap <= 0:
        raise InputError("The gap must be more than zero.", "within")
    if any(b.time <= a.time for a, b in zip(readings, readings[1:], strict=False)):
        raise InputError("The readings are not in order of time.", "time")
    crossed = next((i for i, r in enumerate(readings) if r.kelvin >= target - gap), None)
    if crossed is not None:
        return _crossed(readings, crossed, target, gap)
    if len(readings) < LEAST:
        return Approach(False, remark=_few(len(readings)))
    first = target - readings[0].kelvin
    kept = [r for r in readings if target - r.kelvin <= (1 - _PAST) * first]
    if len(kept) < LEAST:
        if readings[-1].kelvin < readings[0].kelvin - 2:
            raise InputError("The core cools; it does not approach the set point.", "core")
        return Approach(False, remark=_few(len(kept)))
    return _fit(kept, readings[0], target, gap, confidence)


def _few(n: int) -> str:
    return (
        f"Too few readings to predict: {n} since the core began to follow, at least {LEAST} needed."
    )


def _crossed(readings: Sequence[CoreReading], i: int, target: float, gap: float) -> Approach:
    here = readings[i]
    if i == 0:
        return Approach(
            True, here.time, None, here.time, remark="Reached before the first reading."
        )
    before = readings[i - 1]
    share = (target - gap - before.kelvin) / (here.kelvin - before.kelvin)
    at = before.time + share * (here.time - before.time)
    earlier = [r for r in readings[: i + 1] if target - r.kelvin > 0]
    start = target - readings[0].kelvin
    kept = [r for r in earlier if target - r.kelvin <= (1 - _PAST) * start]
    constant = None
    if len(kept) >= LEAST:
        constant = _fit(kept, readings[0], target, gap, 0.95).time_constant
    return Approach(True, at, before.time, here.time, constant)


def _fit(
    kept: Sequence[CoreReading], first: CoreReading, target: float, gap: float, confidence: float
) -> Approach:
    times = np.array([r.time for r in kept])
    left = np.array([target - r.kelvin for r in kept])
    origin, span = times[0], times[-1] - times[0]

    def squares(constant: float) -> tuple[float, float, float]:
        """Sum of squares, A at the first of them, and its variance factor."""
        fall = np.exp(-(times - origin) / constant)
        weight = float(fall @ fall)
        a = float(fall @ left) / weight
        return float(np.sum((left - a * fall) ** 2)), a, 1 / weight

    ends = (float(span) / 50, float(span) * 200)
    constant = best_of(lambda c: squares(c)[0], [float(g) for g in np.geomspace(*ends, 80)])
    if constant > 0.95 * ends[1]:
        raise InputError("The core does not approach the set point in these readings.", "core")
    best, a, _ = squares(constant)
    free = len(kept) - 2
    step = power_of_ten_step([round(r.kelvin - 273.15, 6) for r in kept])
    variance = max(best / free, step**2 / 12)
    level = best + t_quantile((1 + confidence) / 2, free) ** 2 * variance
    points, _, endless = inside(lambda c: squares(c)[0], constant, level, ends)
    early, late = _bounds([float(c) for c in points], squares, level, gap)
    low, high = early, None if endless else late
    at = float(origin) + constant * log(a / gap)
    amplitude = a * exp(float(origin) / constant)
    lag = constant * log(amplitude / (target - first.kelvin))
    return Approach(
        False,
        at,
        min(float(origin) + low, at),
        None if high is None else max(float(origin) + high, at),
        time_constant=constant,
        lag=max(lag, first.time),
        amplitude=amplitude,
    )


def _bounds(
    points: Sequence[float],
    squares: Callable[[float], tuple[float, float, float]],
    level: float,
    gap: float,
) -> tuple[float, float]:
    """The earliest and latest crossing after the first reading kept, over all that fits."""
    early, late = float("inf"), 0.0
    for constant in points:
        found, a, factor = squares(constant)
        half = sqrt(max(level - found, 0.0) * factor)
        early = min(early, constant * log(max((a - half) / gap, 1.0)))
        late = max(late, constant * log(max((a + half) / gap, 1.0)))
    return early, late
