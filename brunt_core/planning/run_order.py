"""The order in which specimens are tested, so that drift does not pass for a difference."""

from collections.abc import Sequence
from random import Random


def slow_first(sets: Sequence[tuple[str, float | None]]) -> list[int]:
    """The order of test sets in which, of one kind of test, the slow set comes before the fast.

    Parameters: (kind, speed in m/s or ``None``) of each set. Returns indices: each kind keeps the
    places it had and fills them by rising speed. Source: common practice, no source.

    >>> slow_first([("tension", 0.01), ("flexure", None), ("tension", 0.0001)])
    [2, 1, 0]
    """
    order = list(range(len(sets)))
    for kind in dict.fromkeys(k for k, _ in sets):
        places = [i for i, (k, _) in enumerate(sets) if k == kind]
        by_speed = sorted(places, key=lambda i: sets[i][1] or 0.0)
        for place, i in zip(places, by_speed, strict=True):
            order[place] = i
    return order


def blocked_order(conditions: int, replicates: int, seed: int) -> list[tuple[int, int]]:
    """Randomised complete blocks: every condition once per block, shuffled again in each.

    Parameters: numbers of conditions and replicates, and the stored ``seed``. Returns pairs
    (condition, replicate), both from 0, in test order. A slow drift of the rig then falls on all
    conditions alike.
    Source: Box, Hunter & Hunter, Statistics for Experimenters, randomised blocks (recalled).

    >>> order = blocked_order(3, 2, seed=7)
    >>> sorted(order[:3]), sorted(order[3:])
    ([(0, 0), (1, 0), (2, 0)], [(0, 1), (1, 1), (2, 1)])
    """
    random = Random(seed)
    order: list[tuple[int, int]] = []
    for replicate in range(replicates):
        block = list(range(conditions))
        random.shuffle(block)
        order += [(condition, replicate) for condition in block]
    return order
