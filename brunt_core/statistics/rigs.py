"""What rigs have in common and what not: the error of calibration in means and in differences."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import hypot
from typing import Any


@dataclass(frozen=True)
class Rigs:
    """Which share of each group was tested on which rig, and how well each rig's reading is known.

    ``shares`` by group and rig, each group's summing to 1; ``known_to`` the standard uncertainty of each
    rig's calibration as a share of what it reads, 0 where a rig is not named.

    All that was read on one rig is off by the same share, unknown, with that standard uncertainty. It
    stands in every mean, and falls out of a difference as far as both were read on the same rigs.
    Source: JCGM 100:2008 (GUM) 5.2.2, correlated inputs, and F.1.2.3.

    >>> mixed = Rigs({"A": {1: 1.0}, "B": {1: 0.5, 2: 0.5}, "C": {1: 1.0}}, {1: 0.006, 2: 0.008})
    >>> mixed.of_mean("B"), mixed.of_difference("A", "B"), mixed.of_difference("A", "C")
    (0.005, 0.005, 0.0)
    """

    shares: Mapping[str, Mapping[Any, float]]
    known_to: Mapping[Any, float]

    def of_mean(self, group: str) -> float:
        """The standard uncertainty of a group's mean from calibration, as a share of the mean."""
        own = self.shares.get(group, {})
        return hypot(*(share * self.known_to.get(rig, 0.0) for rig, share in own.items()))

    def of_difference(self, first: str, second: str) -> float:
        """What of it two groups do not share, as a share of what is read; 0 on the same rigs."""
        one, other = self.shares.get(first, {}), self.shares.get(second, {})
        return hypot(
            *(
                (one.get(rig, 0.0) - other.get(rig, 0.0)) * self.known_to.get(rig, 0.0)
                for rig in {*one, *other}
            )
        )


def shares_of(rigs: Mapping[str, Sequence[Any]]) -> dict[str, dict[Any, float]]:
    """Each group's share on each rig, from the rig of every specimen of it.

    >>> shares_of({"A": ["x", "x", "y", "y"], "B": []})
    {'A': {'x': 0.5, 'y': 0.5}, 'B': {}}
    """
    return {
        group: {rig: list(own).count(rig) / len(own) for rig in dict.fromkeys(own)}
        for group, own in rigs.items()
    }
