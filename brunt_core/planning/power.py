"""What n replicates can tell: detectable difference, power, and the n a difference needs."""

from dataclasses import dataclass
from math import ceil, sqrt

from scipy import special

from brunt_core.errors import InputError

MOST = 500


def power(effect: float, n: int, alpha: float = 0.05) -> float:
    """Power of a two-sided two-sample t-test with n in each group.

    P(|t'| > t_crit) for noncentral t with 2n − 2 degrees of freedom and noncentrality d·√(n/2).

    Parameters: ``effect`` d, difference over the common standard deviation; ``n`` ≥ 2; ``alpha``
    between 0 and 1. Returns a probability. Limits: normal scatter, equal in both groups.
    Source: J. Cohen, Statistical Power Analysis, 1988, ch. 2 (recalled); checked against
    statsmodels and a simulation.

    >>> round(power(2.0, 3), 6), round(power(2.0, 5), 6)
    (0.462641, 0.790542)
    """
    _check(n, alpha)
    df, shift = 2 * n - 2, abs(effect) * sqrt(n / 2)
    edge = float(special.stdtrit(df, 1 - alpha / 2))
    wrong_way = (
        float(special.nctdtr(df, shift, -edge)) if shift < 6 else 0.0
    )  # below 1e-9, and not a number in scipy
    return float(1 - special.nctdtr(df, shift, edge)) + wrong_way


def _check(n: int, alpha: float) -> None:
    if n < 2:
        raise InputError("One of each has no scatter: two replicates are the least.", "replicates")
    if not 0 < alpha < 1:
        raise InputError("The confidence must lie between 0 and 1.", "confidence")


def detectable_effect(n: int, alpha: float = 0.05, wanted_power: float = 0.8) -> float:
    """The smallest d that n in each group show with this power, by bisection.

    >>> round(detectable_effect(3), 4), round(detectable_effect(10), 4)
    (3.0709, 1.3249)
    """
    _check(n, alpha)
    if not 0 < wanted_power < 1:
        raise InputError("The power must lie between 0 and 1.", "power")
    low, high = 0.0, 1.0
    while power(high, n, alpha) < wanted_power and high < 1e4:
        high *= 2
    while high - low > 1e-7 * high:
        middle = (low + high) / 2
        low, high = (middle, high) if power(middle, n, alpha) < wanted_power else (low, middle)
    return high


def needed(effect: float, alpha: float = 0.05, wanted_power: float = 0.8) -> int | None:
    """How many in each group show this d; ``None`` when more than :data:`MOST`.

    >>> needed(1.0), needed(2.0)
    (17, 6)
    """
    if effect <= 0:
        return None
    low, high = 1, 2
    while power(effect, high, alpha) < wanted_power:
        if high >= MOST:
            return None
        low, high = high, min(high * 2, MOST)
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if power(effect, middle, alpha) < wanted_power else (low, middle)
    return high


@dataclass(frozen=True)
class Prospect:
    """What a plan can tell: the curve (n, detectable difference as a fraction), and two answers."""

    curve: tuple[tuple[int, float], ...]
    comparisons: int
    alpha: float
    detectable: float | None
    needed: int | None


def prospect(
    scatter: float,
    n: int,
    conditions: int,
    wanted: float | None = None,
    confidence: float = 0.95,
    wanted_power: float = 0.8,
) -> Prospect:
    """The detectable difference for n = 2 … 20, for all pairs of conditions together.

    Parameters: ``scatter`` as coefficient of variation; ``n`` chosen; ``conditions`` compared;
    ``wanted`` difference as a fraction of the mean. The family of k(k−1)/2 pairs is allowed for by
    Bonferroni's α/m, slightly wider than the comparison made later.
    Source: :func:`detectable_effect`; Bonferroni inequality.

    >>> p = prospect(0.05, 5, 2)
    >>> round(p.detectable, 4), p.comparisons
    (0.1012, 1)
    """
    if not 0 < scatter < 2:
        raise InputError("The scatter is a per cent of the mean, between 0 and 200.", "scatter")
    pairs = max(conditions * (conditions - 1) // 2, 1)
    alpha = (1 - confidence) / pairs
    curve = tuple((k, scatter * detectable_effect(k, alpha, wanted_power)) for k in range(2, 21))
    own = scatter * detectable_effect(n, alpha, wanted_power) if n >= 2 else None
    return Prospect(
        curve, pairs, alpha, own, needed(wanted / scatter, alpha, wanted_power) if wanted else None
    )


def spares(n: int, loss: float) -> int:
    """How many more of each to print so that n are left after the expected loss.

    The smallest k with (n + k)·(1 − loss) ≥ n: expectation, not a guarantee. Common practice.

    >>> spares(5, 0.1), spares(5, 0.0), spares(20, 0.15)
    (1, 0, 4)
    """
    if not 0 <= loss < 0.9:
        raise InputError("The expected loss lies between 0 and 90 %.", "loss")
    return ceil(n / (1 - loss) - 1e-9) - n
