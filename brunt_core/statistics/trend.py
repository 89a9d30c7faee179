"""A property over age: how much it changes a week, and whether one early break is a flaw of one print."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import number
from brunt_core.statistics.summaries import t_quantile

WEEK = 7 * 86400.0


@dataclass(frozen=True)
class Aged:
    """One specimen: its age in s, its value in any unit, its ID."""

    age: float
    value: float
    code: str


@dataclass(frozen=True)
class Trend:
    """A straight line over age: value at the start, change a week as a share of it with its interval.

    ``odd`` names a specimen that lies off the line by more than its fellows explain, where there is
    one; ``alone`` says that the others of its age lie on the line: a flaw of one print, not ageing.
    """

    start: float
    weekly: float
    low: float
    high: float
    cv: float
    odd: str = ""
    alone: bool = False

    @property
    def told(self) -> bool:
        """Whether the change is significant."""
        return not self.low <= 0 <= self.high

    def at(self, age: float) -> float:
        """The line at an age in s."""
        return self.start * (1 + self.weekly * age / WEEK)


def trend(points: Sequence[Aged], confidence: float = 0.95) -> Trend | None:
    """Fit value = a + b·age by least squares; b/a a week, with its t-interval, n − 2 degrees of freedom.

    ``None`` for fewer than four points, fewer than two ages, or a line that starts at nothing. The
    interval is of the slope over the estimated start. A specimen is odd when its externally
    studentised residual passes t at 1 − 0.05/(2n), n − 3 degrees of freedom (Bonferroni).
    Source: N. R. Draper & H. Smith, Applied Regression Analysis, 1.4 and 8.1 (recalled); checked
    against ``scipy.stats.linregress`` and ``statsmodels``' outlier test.

    Raises :class:`InputError` for an age below zero.

    >>> rows = [Aged(w * WEEK, 50.0 - w + d, f"{w}{d}") for w in (0, 4, 8) for d in (-0.4, 0.1, 0.3)]
    >>> t = trend(rows)
    >>> round(t.weekly, 4), t.told, t.odd
    (-0.02, True, '')
    """
    if any(p.age < 0 for p in points):
        raise InputError("An age cannot be less than zero.", "age")
    if len(points) < 4 or len({p.age for p in points}) < 2:
        return None
    x = np.array([p.age / WEEK for p in points])
    y = np.array([p.value for p in points])
    n, mean = len(x), float(x.mean())
    spread = float(np.sum((x - mean) ** 2))
    slope = float(np.sum((x - mean) * y) / spread)
    start = float(y.mean() - slope * mean)
    if start <= 0:
        return None
    left = y - (start + slope * x)
    squares = float(left @ left)
    sigma = sqrt(squares / (n - 2))
    reach = t_quantile((1 + confidence) / 2, n - 2) * sigma / sqrt(spread)
    odd = _odd(points, x, left, squares, spread)
    return Trend(
        start,
        slope / start,
        (slope - reach) / start,
        (slope + reach) / start,
        cv=sigma / start,
        odd=odd.code if odd else "",
        alone=bool(odd) and _alone(points, odd, left, sigma),
    )


def _odd(
    points: Sequence[Aged], x: np.ndarray, left: np.ndarray, squares: float, spread: float
) -> Aged | None:
    n = len(points)
    if n < 5 or squares <= 0:
        return None
    lever = 1 / n + (x - x.mean()) ** 2 / spread
    free = n - 3
    without = (squares - left**2 / (1 - lever)) / free
    with np.errstate(divide="ignore", invalid="ignore"):
        outer = np.abs(left) / np.sqrt(np.maximum(without, 1e-300) * (1 - lever))
    i = int(np.argmax(outer))
    return points[i] if outer[i] > t_quantile(1 - 0.05 / (2 * n), free) else None


def _alone(points: Sequence[Aged], odd: Aged | None, left: np.ndarray, sigma: float) -> bool:
    """Whether the others of its age lie on the other side or near the line."""
    if odd is None:
        return False
    fellows = [
        float(r) for p, r in zip(points, left, strict=True) if p.age == odd.age and p is not odd
    ]
    own = next(float(r) for p, r in zip(points, left, strict=True) if p is odd)
    return bool(fellows) and all(abs(r) < abs(own) / 2 for r in fellows)


def trend_in_words(found: Trend) -> str:
    """The trend in a sentence.

    >>> trend_in_words(Trend(50.0, -0.02, -0.025, -0.015, 0.01))
    'It loses 2.0 % a week (1.5 to 2.5 %).'
    """
    low, high = sorted((abs(found.low) * 100, abs(found.high) * 100))
    if not found.told:
        ends = (found.low * 100, found.high * 100)
        said = f"No significant change with age: {number(ends[0], '+.1f')} to {number(ends[1], '+.1f')} % a week."
        said = said.replace("-", "−")
    else:
        verb = "loses" if found.weekly < 0 else "gains"
        said = f"It {verb} {number(abs(found.weekly) * 100, '.1f')} % a week ({number(low, '.1f')} to {number(high, '.1f')} %)."
    if found.odd and found.alone:
        said += f" {found.odd} is off the line while the others of that age are not: probably a flaw of one print, not ageing."
    elif found.odd:
        said += f" {found.odd} is off the line."
    return said
