"""The order in which specimens are tested, so that drift does not pass for a difference."""

from random import Random


def blocked_order(conditions: int, replicates: int, seed: int) -> list[tuple[int, int]]:
    """Randomised complete blocks: every condition once per block, shuffled anew in each.

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
