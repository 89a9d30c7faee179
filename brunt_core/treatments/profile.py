"""The set of one parameter whose least sum of squares stays below a level."""

from collections.abc import Callable, Sequence
from math import exp, log
from typing import Any

import numpy as np
import scipy


def best_of(squares: Callable[[float], float], grid: Sequence[float]) -> float:
    """The parameter, above zero, with the least sum of squares: grid, then polished between neighbours.

    >>> round(best_of(lambda k: (k - 3.0) ** 2, [1.0, 2.0, 4.0, 8.0]), 6)
    3.0
    """
    found = [squares(g) for g in grid]
    i = int(np.argmin(found))
    inner = scipy.optimize.minimize_scalar(
        lambda x: squares(exp(x)),
        bounds=(log(grid[max(i - 1, 0)]), log(grid[min(i + 1, len(grid) - 1)])),
        method="bounded",
        options={"xatol": 1e-10},
    )
    return exp(float(inner.x))


def inside(
    squares: Callable[[float], float], best: float, level: float, ends: tuple[float, float]
) -> tuple[Any, bool, bool]:
    """The stretch round ``best`` where the sum of squares stays below ``level``.

    Returns 81 points of it, evenly on the logarithm, and whether it is open below and above: where
    it reaches the ends of what is looked at. The sum is taken to rise on both sides.

    >>> points, below, above = inside(lambda k: log(k) ** 2, 1.0, 1.0, (0.01, 100.0))
    >>> [round(float(p), 3) for p in (points[0], points[-1])], below, above
    ([0.368, 2.718], False, False)
    """

    def over(x: float) -> float:
        return squares(exp(x)) - level

    edges = []
    for end in ends:
        shut = over(log(end)) > 0 and over(log(best)) <= 0
        edges.append(
            exp(float(scipy.optimize.brentq(over, log(best), log(end), xtol=1e-12)))
            if shut
            else None
        )
    low, high = edges[0] or ends[0], edges[1] or ends[1]
    if over(log(best)) > 0:
        low = high = best
        edges = [best, best]
    return np.geomspace(low, high, 81), edges[0] is None, edges[1] is None
