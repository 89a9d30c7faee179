"""One-sided lower tolerance bounds: what a share of all specimens will hold, with a stated confidence."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, log, sqrt
from statistics import fmean, stdev

import scipy

from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.statistics.distributions import NORMAL, fit_family

A_BASIS, B_BASIS = 0.99, 0.90


@dataclass(frozen=True)
class Tolerance:
    """A lower bound for a share of all specimens.

    ``k`` is the factor of a complete normal sample, ``lower`` = mean − k·s; ``None`` otherwise.
    ``free`` is the distribution-free bound, which of the ordered readings it is in ``order`` (1 the
    smallest), both ``None`` below ``needed`` readings.
    """

    coverage: float
    confidence: float
    family: str
    n: int
    n_bounded: int
    k: float | None
    lower: float
    needed: int
    free: float | None = None
    order: int | None = None


def normal_factor(n: int, coverage: float, confidence: float) -> float:
    """k of the one-sided bound mean − k·s: t′(confidence; n − 1, z√n)/√n, noncentral t.

    Parameters: n of 2 or more; both shares between 0 and 1. Raises :class:`InputError`.
    Source: ISO 16269-6; NIST/SEMATECH e-Handbook 7.2.6.3; table in tests/reference/test_tolerance.py.

    >>> round(normal_factor(5, 0.90, 0.95), 5), round(normal_factor(10, 0.99, 0.95), 5)
    (3.40663, 3.98112)
    """
    _check(coverage, confidence)
    if n < 2:
        raise InputError("A tolerance bound needs two readings or more.", "n")
    z = float(scipy.special.ndtri(coverage))
    return float(scipy.stats.nct.ppf(confidence, n - 1, z * sqrt(n))) / sqrt(n)


def needed_without_a_distribution(coverage: float, confidence: float) -> int:
    """The least n of which the smallest is a bound: n ≥ ln(1 − confidence)/ln(coverage).

    Source: S. S. Wilks, Ann. Math. Stat. 12 (1941) 91–96.

    >>> needed_without_a_distribution(0.90, 0.95), needed_without_a_distribution(0.99, 0.95)
    (29, 299)
    """
    _check(coverage, confidence)
    return ceil(log(1 - confidence) / log(coverage) - 1e-9)


def order_without_a_distribution(n: int, coverage: float, confidence: float) -> int | None:
    """Which of n ordered readings, from the smallest, is a bound; ``None`` for too few.

    The greatest r with P(binomial(n, 1 − coverage) ≥ r) ≥ confidence.

    >>> order_without_a_distribution(29, 0.9, 0.95), order_without_a_distribution(46, 0.9, 0.95)
    (1, 2)
    """
    _check(coverage, confidence)
    found = None
    for r in range(1, n + 1):
        if scipy.stats.binom.sf(r - 1, n, 1 - coverage) < confidence:
            break
        found = r
    return found


def lower_bound(
    observations: Sequence[Observation],
    coverage: float = B_BASIS,
    confidence: float = 0.95,
    family: str = NORMAL,
) -> Tolerance:
    """The value a share of all specimens exceeds, with a confidence.

    Parameters: observations in any one unit; ``coverage`` that share (0.90 as for a B-basis, 0.99 as
    for an A-basis value; a real basis value also asks for batches and numbers that few specimens are
    not); ``family`` normal, lognormal or weibull.
    A complete normal sample: mean − k·s. Otherwise the bound of the quantile by :meth:`Fit.bound`.
    The distribution-free bound counts a held specimen at its load, which can only make it lower.
    Raises :class:`InputError` for fewer than two readings and as :func:`fit` does.

    >>> b = lower_bound([Observation.exact(v) for v in (48.0, 49.0, 50.0, 51.0, 52.0)])
    >>> round(b.lower, 2), round(b.k, 3), b.needed
    (44.61, 3.407, 29)
    """
    _check(coverage, confidence)
    needed = needed_without_a_distribution(coverage, confidence)
    n = len(observations)
    if n < 2:
        raise InputError("A tolerance bound needs two readings or more.", "value")
    order = order_without_a_distribution(n, coverage, confidence)
    known = sorted(o.lower for o in observations if o.lower is not None)
    free = known[order - 1] if order and len(known) == n else None
    bounded = sum(not o.is_exact for o in observations)
    if family == NORMAL and not bounded:
        values = [o.anchor for o in observations]
        k: float | None = normal_factor(n, coverage, confidence)
        lower = fmean(values) - (k or 0.0) * stdev(values)
    else:
        k, lower = None, fit_family(observations, family).bound(1 - coverage, 1 - confidence)
    return Tolerance(
        coverage,
        confidence,
        family,
        n,
        bounded,
        k=k,
        lower=lower,
        needed=needed,
        free=free,
        order=order if free is not None else None,
    )


def _check(coverage: float, confidence: float) -> None:
    for name, value in (("coverage", coverage), ("confidence", confidence)):
        if not 0 < value < 1:
            raise InputError(f"The {name} lies between 0 and 1.", name)
