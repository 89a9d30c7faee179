"""How much error each look may spend, so that one may stop at any of them and keep the stated level."""

from functools import lru_cache
from math import sqrt

import numpy as np
import scipy

from brunt_core.errors import InputError

SPENT, RESERVE = 0.75, 0.15
_POWER = 2.0
FIRST = 2


@lru_cache(maxsize=512)
def levels_of_looks(planned: int, alpha: float) -> tuple[float, ...]:
    """The nominal two-sided level of the look after 2, 3 … ``planned`` specimens of each of two groups.

    Parameters: ``planned`` the number of each that the plan has, 2 or more; ``alpha`` the error of
    the comparison over all looks. Three quarters of it are spent by the plan's end, in the measure of
    (n/planned)²; 15 % are kept for going on beyond it (:func:`level_at`), and a tenth covers that
    Welch's p is a little small with few specimens of unlike variation. The levels come from the
    joint normal law of the looks, whose increments are independent.
    Raises :class:`InputError`.
    Source: K. K. G. Lan & D. L. DeMets, Biometrika 70 (1983) 659–663; K. Kim & DeMets, Biometrika 74
    (1987) 149–154; recursion of Armitage, McPherson & Rowe, J. R. Stat. Soc. A 132 (1969) 235; checked
    against the multivariate normal law of scipy.

    >>> [round(p, 5) for p in levels_of_looks(5, 0.05)]
    [0.006, 0.01016, 0.01679, 0.02539]
    """
    if planned < FIRST or not 0 < alpha < 1:
        raise InputError("Looks need two specimens or more, and an error between 0 and 1.", "n")
    return _levels(tuple(range(FIRST, planned + 1)), alpha * SPENT)


@lru_cache(maxsize=4096)
def level_at(n: int, planned: int, alpha: float) -> float:
    """The nominal level after ``n`` of each; beyond the plan its share of what was kept back.

    The reserve is used up by 1/k − 1/(k + 1) at the k-th look beyond, whatever the looks have in common
    (Bonferroni), so that it lasts for as long as one goes on.

    >>> round(level_at(6, 5, 0.05), 5), round(level_at(7, 5, 0.05), 5), level_at(1, 5, 0.05)
    (0.00375, 0.00125, 0.0)
    """
    if n < FIRST:
        return 0.0
    planned = max(planned, FIRST)
    if n <= planned:
        return levels_of_looks(planned, alpha)[n - FIRST]
    k = n - planned
    return alpha * RESERVE * (1 / k - 1 / (k + 1))


def _levels(counts: tuple[int, ...], alpha: float) -> tuple[float, ...]:
    last = counts[-1]
    spent = [alpha * (n / last) ** _POWER for n in counts]
    each = np.diff([0.0, *spent])
    # The density is smooth between the bounds: as many points as the narrowest step asks for.
    points, sizes = np.polynomial.legendre.leggauss(48 + int(24 * sqrt(last)))
    top = float(-scipy.special.ndtri(min(each) / 8)) + 1.5
    found: list[float] = []
    grid = weights = density = None
    for i, n in enumerate(counts):
        if density is None or grid is None or weights is None:
            bound = float(-scipy.special.ndtri(each[0] / 2))
        else:
            step = sqrt(n - counts[i - 1])
            before = grid * sqrt(counts[i - 1])
            bound = _bound(before, weights * density, step, sqrt(n), float(each[i]), top)
        found.append(float(2 * scipy.special.ndtr(-bound)))
        nodes, shares = bound * points, bound * sizes
        if density is None:
            new = np.exp(-(nodes**2) / 2) / sqrt(2 * np.pi)
        else:
            assert grid is not None and weights is not None
            step = sqrt(n - counts[i - 1])
            shift = (nodes[:, None] * sqrt(n) - grid[None, :] * sqrt(counts[i - 1])) / step
            kernel = np.exp(-(shift**2) / 2) / sqrt(2 * np.pi) * sqrt(n) / step
            new = kernel @ (weights * density)
        grid, density, weights = nodes, new, shares
    return tuple(found)


def _bound(before: np.ndarray, mass: np.ndarray, step: float, root: float, wanted: float, top: float) -> float:  # fmt: skip
    """The |Z| that is passed with the wanted probability by those who passed none before."""

    def beyond(z: float) -> float:
        upper = scipy.special.ndtr(-(z * root - before) / step)
        lower = scipy.special.ndtr((-z * root - before) / step)
        return float((upper + lower) @ mass)

    low, high = 0.0, top
    while high - low > 1e-10:
        middle = (low + high) / 2
        if beyond(middle) > wanted:
            low = middle
        else:
            high = middle
    return high
