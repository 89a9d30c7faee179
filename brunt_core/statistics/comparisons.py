"""All pairs of groups compared without assuming equal variation, family-wise, from two readings on."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot, sqrt
from typing import Any

import numpy as np
import scipy

from brunt_core.statistics.summaries import LOWER_BOUND, UPPER_BOUND, Summary, t_quantile


@dataclass(frozen=True)
class Pair:
    """Two groups compared: difference first − second, adjusted p, and how it was judged.

    ``basis`` is ``welch-sidak``, ``rank-sum`` (places on a scale of words), ``bound`` (a held group set at its bounds: the p holds for
    "at least this much apart") or ``none`` (too few readings to compare, or readings so alike that
    they say nothing of the variation). ``family`` is how many pairs are judged together.
    """

    first: int
    second: int
    difference: float
    standard_error: float
    df: float
    p: float
    basis: str
    family: int = 1

    def interval(self, confidence: float = 0.95) -> tuple[float, float]:
        """Simultaneous interval of the difference: all of the family hold together."""
        if not self.standard_error or self.basis in ("none", "rank-sum"):
            return self.difference, self.difference
        level = each_of(self.family, confidence)
        reach = t_quantile((1 + level) / 2, self.df) * self.standard_error
        return self.difference - reach, self.difference + reach


def each_of(family: int, confidence: float) -> float:
    """The confidence of each of so many intervals that all hold together, (1 − α)^(1/m).

    Parameters: ``family`` m ≥ 1; ``confidence`` between 0 and 1. Limits: at least as confident as
    asked whatever the correlation of two-sided t intervals.
    Source: Z. Šidák, J. Am. Stat. Assoc. 62 (1967) 626–633.

    >>> round(each_of(6, 0.95), 6), each_of(1, 0.95)
    (0.991488, 0.95)
    """
    return confidence ** (1 / max(family, 1))


def pairs_of(groups: int) -> int:
    """How many pairs so many groups have, one at least.

    >>> pairs_of(4), pairs_of(2), pairs_of(1)
    (6, 1, 1)
    """
    return max(groups * (groups - 1) // 2, 1)


def welch_df(first_error: float, first_df: float, second_error: float, second_df: float) -> float:
    """Welch–Satterthwaite degrees of freedom, (u₁²+u₂²)² / (u₁⁴/ν₁ + u₂⁴/ν₂).

    Parameters: standard errors and degrees of freedom of the two means. Source: JCGM 100 G.4.1.

    >>> round(welch_df(1.0, 4, 1.0, 4), 3)
    8.0
    """
    below = first_error**4 / first_df + second_error**4 / second_df
    return (first_error**2 + second_error**2) ** 2 / below if below else first_df + second_df


def compare_all(groups: Sequence[Summary], between: Any = 0.0) -> list[Pair]:
    """Welch's t-test of all pairs, judged together by Šidák's correction.

    Parameters: ``between`` the standard uncertainty of each pair's difference that is no variation, in the
    unit of the means, in the order of the pairs (0 for all): what two rigs' calibrations do not share.
    It widens the difference, u_b below, and adds no degrees of freedom, on the safe side.

    t = Δ / √(u₁² + u₂² + u_b²) with Welch–Satterthwaite degrees of freedom; p of the family is
    1 − (1 − p)^m for the m pairs of all comparable groups. For two groups it is Welch's t-test.
    It holds its level from two readings a group on, with unequal variation too; methods that judge by
    the studentized range or pool the variation do not (docs/decisions/0002-comparisons.md).
    Groups of which only a bound is known take part where their bound decides and more than one
    held; a group of one cannot be compared, nor can two without any variation.

    Source: B. L. Welch, Biometrika 34 (1947) 28–35; Šidák 1967; t-tests checked against scipy.

    >>> from brunt_core.observations import Observation as O
    >>> from brunt_core.statistics.summaries import summarise
    >>> a, b = (summarise([O.exact(v) for v in g]) for g in ((1., 2., 3.), (7., 8., 9.)))
    >>> round(compare_all([a, b])[0].p, 6)
    0.001826
    """
    family = pairs_of(sum(1 for g in groups if _usable(g)))
    if len(groups) < 2:
        return []
    first, second = np.triu_indices(len(groups), 1)
    mean = np.array([g.mean for g in groups])
    known = np.array([g.standard_error is not None for g in groups])
    error = np.array([float(g.standard_error or 0.0) for g in groups])
    free = np.array([float(g.df or 1.0) for g in groups])
    square = error**2
    total = square[first] + square[second]
    plain = known[first] & known[second] & (total > 0)
    fourth = square**2 / free
    below = fourth[first] + fourth[second]
    df = np.divide(total**2, below, out=free[first] + free[second], where=below > 0)
    apart = np.broadcast_to(np.asarray(between, float), total.shape)
    away = np.sqrt(np.where(plain, total + apart**2, 1.0))
    gap = mean[first] - mean[second]
    p = together(np.minimum(2 * scipy.special.stdtr(df, -np.abs(gap) / away), 1.0), family)
    columns = (x.tolist() for x in (first, second, gap, away, df, p, plain, apart))
    return [
        Pair(i, j, d, standard_error=u, df=f, p=q, basis="welch-sidak", family=family)
        if clear
        else _of_a_bound(i, j, groups[i], groups[j], family=family, between=b)
        for i, j, d, u, f, q, clear, b in zip(*columns, strict=True)
    ]


def together(alone: Any, family: int) -> Any:
    """The p of each of a family judged together, 1 − (1 − p)^m.

    >>> round(float(together(np.array([0.01]), 5)[0]), 6)
    0.04901
    """
    with np.errstate(divide="ignore"):
        return -np.expm1(family * np.log1p(-np.asarray(alone)))


def _usable(group: Summary) -> bool:
    return group.standard_error is not None or group.estimate in (LOWER_BOUND, UPPER_BOUND)


def _of_a_bound(
    i: int, j: int, first: Summary, second: Summary, *, family: int, between: float
) -> Pair:
    """Two of which one is known by its bound only, or without any variation."""
    difference = first.mean - second.mean
    nothing = Pair(i, j, difference, standard_error=0.0, df=0.0, p=1.0, basis="none")
    if (first.standard_error is None) == (second.standard_error is None):
        return nothing
    bound, measured = (first, second) if first.standard_error is None else (second, first)
    apart = bound.mean - measured.mean
    decides = (bound.estimate == LOWER_BOUND and apart > 0) or (
        bound.estimate == UPPER_BOUND and apart < 0
    )
    if not measured.sd or not decides or bound.n < 2:
        return nothing
    error, df = hypot(measured.sd * sqrt(1 / measured.n + 1 / bound.n), between), measured.df or 1
    p = float(together(welch_p(difference, error, df), family))
    return Pair(i, j, difference, standard_error=error, df=df, p=p, basis="bound", family=family)


def different_pairs(pairs: Sequence[Pair], confidence: float = 0.95) -> list[tuple[int, int]]:
    """The pairs that differ significantly at the family-wise confidence."""
    return [(p.first, p.second) for p in pairs if p.basis != "none" and p.p < 1 - confidence]


def welch_p(difference: float, standard_error: float, df: float) -> float:
    """Two-sided p of one Welch comparison, unadjusted. Source: scipy.special.stdtr.

    >>> round(welch_p(-1.58, 0.84909, 17.7765), 4)
    0.0794
    """
    return float(2 * scipy.special.stdtr(df, -abs(difference / standard_error)))
