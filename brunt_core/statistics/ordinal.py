"""Judgements on an ordered scale compared by rank: no distance between its words is assumed."""

from collections.abc import Sequence
from itertools import combinations
from math import comb, erfc, expm1, log1p, sqrt

import numpy as np
import scipy

from brunt_core.statistics.comparisons import Pair, pairs_of

_MOST = 20_000


def rank_sum_p(first: Sequence[float], second: Sequence[float]) -> float:
    """Two-sided p of the rank-sum test of two groups, exact with ties where it can be counted.

    The places of all are ranked together, equal ones share the mean of their ranks; p is the share
    of all ways to deal the ranks to the two groups whose rank sum lies at least as far from its
    mean. With more than 20 000 ways the normal approximation with tie correction is used.
    Source: Wilcoxon, Biometrics 1 (1945) 80; Mann & Whitney, Ann. Math. Stat. 18 (1947) 50, as a
    permutation test on midranks (Lehmann, Nonparametrics, 1975); from memory, checked against scipy.

    >>> round(rank_sum_p([1, 2, 3], [4, 5, 6]), 4), rank_sum_p([2, 2], [2, 2])
    (0.1, 1.0)
    """
    n, m = len(first), len(second)
    if not n or not m:
        return 1.0
    ranks = scipy.stats.rankdata([*first, *second])
    middle = n * (n + m + 1) / 2
    off = abs(float(ranks[:n].sum()) - middle)
    if comb(n + m, n) <= _MOST:
        sums = np.array([ranks[list(chosen)].sum() for chosen in combinations(range(n + m), n)])
        return float((np.abs(sums - middle) >= off - 1e-9).mean())
    _, counts = np.unique(ranks, return_counts=True)
    ties = float((counts**3 - counts).sum())
    total = n + m
    variance = n * m / 12 * (total + 1 - ties / (total * (total - 1)))
    return float(erfc(max(off - 0.5, 0.0) / sqrt(2 * variance))) if variance else 1.0


def compare_ranks(groups: Sequence[Sequence[float]]) -> list[Pair]:
    """All pairs of groups by the rank-sum test, judged together by Šidák's correction.

    Parameters: places on the scale, one sequence a group, in the order of the rows. A group of one
    is not compared. Limits: with three in each group the least p of a pair is 0.1, so that few
    judgements tell nothing apart; with four it is 0.029. Source: :func:`rank_sum_p`; Šidák 1967.

    >>> pair = compare_ranks([[3, 4, 4, 4, 4], [1, 1, 2, 2, 1]])[0]
    >>> pair.basis, round(pair.p, 4)
    ('rank-sum', 0.0079)
    """
    family = pairs_of(sum(len(g) > 1 for g in groups))
    found = []
    for i, j in combinations(range(len(groups)), 2):
        a, b = groups[i], groups[j]
        gap = float(np.mean(a) - np.mean(b)) if len(a) and len(b) else 0.0
        if len(a) < 2 or len(b) < 2:
            found.append(Pair(i, j, gap, standard_error=0.0, df=0.0, p=1.0, basis="none"))
            continue
        alone = rank_sum_p(a, b)
        together = 1.0 if alone >= 1 else -expm1(family * log1p(-alone))
        found.append(
            Pair(i, j, gap, standard_error=0.0, df=0.0, p=together, basis="rank-sum", family=family)
        )
    return found
