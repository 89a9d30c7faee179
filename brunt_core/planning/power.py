"""What n replicates can tell of two conditions: power as the ranking will judge them; spares."""

from collections.abc import Callable
from functools import lru_cache
from math import ceil, sqrt
from typing import Any

import numpy as np
import scipy

from brunt_core.errors import InputError

MOST = 500
_SHARES, _TOTALS = 12, 400


def power(effect: float, n: int, alpha: float = 0.05) -> float:
    """Power of Welch's two-sided t-test with n in each group, as the ranking compares two later.

    Given the share w of the first variance in the sum of both, which is Beta((n−1)/2, (n−1)/2), the
    test has (n−1)/(w² + (1−w)²) degrees of freedom, and the statistic is noncentral t with 2n − 2
    and noncentrality d·√(n/2). Averaged over w, and over the sum of the variances.

    Parameters: ``effect`` d, difference over the common standard deviation; ``n`` ≥ 2; ``alpha``
    between 0 and 1. Returns a probability, good to about 0.002. Limits: normal distribution, equal standard deviation in both.
    Source: independence of the share and the sum of two χ² variables (any textbook); checked by
    simulation, and for many specimens against the pooled test of statsmodels.

    >>> round(power(2.0, 3), 2), round(power(2.0, 20), 3)
    (0.37, 1.0)
    """
    if n < 2:
        raise InputError("One replicate has no standard deviation: use at least two.", "replicates")
    if not 0 < alpha < 1:
        raise InputError("The confidence must lie between 0 and 1.", "confidence")
    freedom, shares, totals, weights = _nodes(n)
    edge = scipy.special.stdtrit(freedom, 1 - alpha / 2)[:, None]
    shift = abs(effect) * sqrt(n / 2)
    beyond = scipy.special.ndtr(shift - edge * totals) + scipy.special.ndtr(-shift - edge * totals)
    return float(shares @ beyond @ weights)


@lru_cache(maxsize=512)
def _nodes(n: int) -> tuple[Any, Any, Any, Any]:
    """Gauss–Legendre nodes in probability: degrees of freedom and their weights, standard deviation and its."""
    u, weights = np.polynomial.legendre.leggauss(_SHARES)
    w = scipy.special.betaincinv((n - 1) / 2, (n - 1) / 2, (u + 1) / 4)  # w and 1 − w are alike
    v, totals = np.polynomial.legendre.leggauss(_TOTALS)
    root = np.sqrt(scipy.special.chdtri(2 * n - 2, (1 - v) / 2) / (2 * n - 2))
    return (n - 1) / (w**2 + (1 - w) ** 2), weights / 2, root[None, :], totals / 2


def smallest(seen: Callable[[float], bool]) -> float:
    """The smallest effect that is seen, by bisection; ``seen`` is false below it and true above.

    >>> round(smallest(lambda d: d >= 2.5), 4)
    2.5
    """
    low, high = 0.0, 1.0
    while not seen(high) and high < 1e6:
        low, high = high, high * 2
    while high - low > 1e-5 * high:
        middle = (low + high) / 2
        low, high = (low, middle) if seen(middle) else (middle, high)
    return high


def fewest(seen: Callable[[int], bool]) -> int | None:
    """The fewest in each group that see it; ``None`` when more than :data:`MOST`.

    >>> fewest(lambda n: n >= 17), fewest(lambda n: False)
    (17, None)
    """
    low, high = 1, 2
    while not seen(high):
        if high >= MOST:
            return None
        low, high = high, min(high * 2, MOST)
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if seen(middle) else (middle, high)
    return high


def spares(n: int, loss: float) -> int:
    """How many more of each to print so that n are left after the expected loss.

    The smallest k with (n + k)·(1 − loss) ≥ n: expectation, not a guarantee. Common practice.

    >>> spares(5, 0.1), spares(5, 0.0), spares(20, 0.15)
    (1, 0, 4)
    """
    if not 0 <= loss < 0.9:
        raise InputError("The expected loss lies between 0 and 90 %.", "loss")
    return ceil(n / (1 - loss) - 1e-9) - n
