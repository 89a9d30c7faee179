"""A suspected outlier among its siblings, flagged by a named test; never removed by it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import fsum, log, sqrt
from statistics import fmean

import scipy

from brunt_core.errors import InputError

_FAR, _FEW = 1.8, 4


@dataclass(frozen=True)
class Flag:
    """The most extreme value of a group and what is said of it: by Grubbs' test, or, where ``ratio`` to
    the mean of the others is given, by the usual ``cv`` of such values.
    """

    index: int
    value: float
    mean: float
    sd: float
    g: float
    critical: float
    p: float
    n: int
    alpha: float
    uncertainty: float = 0.0
    ratio: float | None = None
    cv: float | None = None

    @property
    def outlier(self) -> bool:
        """Whether the statistic is above its critical value, and the value further off than it is known."""
        return self.g > self.critical and abs(self.value - self.mean) > 2 * self.uncertainty


def grubbs_critical(n: int, alpha: float = 0.05) -> float:
    """Two-sided critical value of Grubbs' test.

    G_c = (n−1)/√n · √(t²/(n−2+t²)), t the quantile 1 − α/(2n) of Student's t with n − 2 degrees of
    freedom. Parameters: n of 3 or more; ``alpha`` between 0 and 1. Raises :class:`InputError`.
    Source: F. E. Grubbs, Technometrics 11 (1969) 1; NIST/SEMATECH e-Handbook 1.3.5.17.1.

    >>> [round(grubbs_critical(n), 4) for n in (3, 5, 10)]
    [1.1543, 1.715, 2.29]
    """
    if n < 3 or not 0 < alpha < 1:
        raise InputError("Grubbs' test needs three or more values and a level between 0 and 1.")
    t = float(scipy.special.stdtrit(n - 2, 1 - alpha / (2 * n)))
    return (n - 1) / sqrt(n) * sqrt(t * t / (n - 2 + t * t))


def grubbs(values: Sequence[float], alpha: float = 0.05, uncertainty: float = 0.0) -> Flag | None:
    """Grubbs' test of the value farthest from the mean, two-sided.

    G = max|x − x̄|/s; p is Bonferroni's bound on its probability. ``uncertainty`` is the standard
    uncertainty of one value: siblings that agree by luck do not make one an outlier that differs by
    less than twice it (common practice, no source). ``None`` with fewer than three values or no
    variation. Limits: normal distribution; one suspected outlier at a time; the largest possible
    G is (n−1)/√n, so with n = 3 only a value almost infinitely far off is flagged.

    >>> grubbs([10.0, 10.1, 30.0]).outlier, grubbs([10.0, 10.4, 10.1]).outlier
    (True, False)
    >>> grubbs([47.1, 47.1, 47.1, 47.5], uncertainty=0.4).outlier
    False
    """
    n = len(values)
    if n < 3:
        return None
    mean = fmean(values)
    # Twenty times quicker than statistics.stdev, which works in fractions; the same to the last digits.
    sd = sqrt(fsum((v - mean) ** 2 for v in values) / (n - 1))
    if sd <= 1e-12 * abs(mean):
        return None
    index = max(range(n), key=lambda i: abs(values[i] - mean))
    g = abs(values[index] - mean) / sd
    return Flag(
        index,
        values[index],
        mean,
        sd=sd,
        g=g,
        critical=grubbs_critical(n, alpha),
        p=_p_value(g, n),
        n=n,
        alpha=alpha,
        uncertainty=uncertainty,
    )


def beside_the_rest(
    values: Sequence[float], cv: float, alpha: float = 0.05, uncertainty: float = 0.0
) -> Flag | None:
    """The value farthest from the mean of the others, judged by the usual variation of such values.

    z = |x − m| / (v·m·√(1 + 1/(n − 1))), m the mean of the others and v the usual coefficient of
    variation ``cv``, against the normal quantile 1 − α/(2n) (Bonferroni). Only ratios of 1.8 and
    more, or 1/1.8 and less, are looked at, so that a material that varies more than is usual is not
    flagged all the time (common practice, no source). For three and four values, where Grubbs' test
    cannot see what is far off. ``None`` with fewer than three values, any not above zero, or none so
    far off. Source of the statistic: prediction of one more value, normal, known variation.

    >>> beside_the_rest([50.0, 52.0, 204.0], 0.08).ratio
    4.0
    >>> beside_the_rest([50.0, 52.0, 60.0], 0.08) is None
    True
    """
    n = len(values)
    if n < 3 or min(values) <= 0:
        return None
    rests = [(sum(values) - v) / (n - 1) for v in values]
    index = max(range(n), key=lambda i: abs(log(values[i] / rests[i])))
    rest, ratio = rests[index], values[index] / rests[index]
    if 1 / _FAR < ratio < _FAR:
        return None
    z = abs(values[index] - rest) / (cv * rest * sqrt(1 + 1 / (n - 1)))
    return Flag(
        index,
        values[index],
        rest,
        sd=cv * rest,
        g=z,
        critical=float(scipy.special.ndtri(1 - alpha / (2 * n))),
        p=float(min(1.0, 2 * n * scipy.special.ndtr(-z))),
        n=n,
        alpha=alpha,
        uncertainty=uncertainty,
        ratio=ratio,
        cv=cv,
    )


def odd_one(
    values: Sequence[float], uncertainty: float = 0.0, cv: float | None = None
) -> Flag | None:
    """The suspected outlier by :func:`grubbs`, else of few by :func:`beside_the_rest`; ``None`` for none.

    >>> odd_one([50.0, 60.0, 220.0], cv=0.08).index, odd_one([50.0, 60.0, 220.0])
    (2, None)
    """
    flag = grubbs(values, uncertainty=uncertainty)
    if flag and flag.outlier:
        return flag
    if cv is None or len(values) > _FEW:
        return None
    flag = beside_the_rest(values, cv, uncertainty=uncertainty)
    return flag if flag and flag.outlier else None


def outlier(values: Mapping[str, float], uncertainty: float = 0.0, cv: float | None = None) -> str:
    """The name of the value that stands apart by :func:`odd_one`, empty where none does.

    >>> outlier({"a": 10.0, "b": 10.1, "c": 9.9, "d": 10.05, "e": 30.0})
    'e'
    """
    flag = odd_one(list(values.values()), uncertainty, cv)
    return list(values)[flag.index] if flag else ""


def _p_value(g: float, n: int) -> float:
    spare = (n - 1) ** 2 - n * g * g
    if spare <= 0:
        return 0.0
    t = sqrt(n * (n - 2) * g * g / spare)
    return float(min(1.0, 2 * n * scipy.special.stdtr(n - 2, -t)))
