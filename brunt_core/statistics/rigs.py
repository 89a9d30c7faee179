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

    def off(self, group: str) -> dict[Any, float]:
        """By how much a group is off where each rig is off by one standard uncertainty, as a share."""
        own = self.shares.get(group, {})
        return {rig: share * self.known_to.get(rig, 0.0) for rig, share in own.items()}

    def of_mean(self, group: str) -> float:
        """The standard uncertainty of a group's mean from calibration, as a share of the mean."""
        return hypot(*self.off(group).values())

    def of_difference(self, first: str, second: str) -> float:
        """What of it two groups do not share, as a share of what is read; 0 on the same rigs."""
        one, other = self.off(first), self.off(second)
        return hypot(*(one.get(rig, 0.0) - other.get(rig, 0.0) for rig in {*one, *other}))


def quotients(top: Rigs, bottom: Rigs) -> Rigs:
    """The rigs of quotients top ÷ bottom, group by group: one's own calibration falls out of each.

    What is left of a quotient is then :meth:`Rigs.of_mean`, of the difference of two
    :meth:`Rigs.of_difference`, each as a share of the quotient. A rig that is known better for one side's
    property than for the other's falls out as far as the two agree.
    Source: JCGM 100:2008 (GUM) 5.2.2 and 5.1.6, correlated inputs of a quotient.

    >>> one, two = Rigs({"A": {1: 1.0}}, {1: 0.01}), Rigs({"A": {2: 1.0}}, {2: 0.01})
    >>> quotients(one, one).of_mean("A"), round(quotients(one, two).of_mean("A"), 5)
    (0.0, 0.01414)
    """
    off: dict[str, dict[Any, float]] = {}
    for name in top.shares.keys() & bottom.shares.keys():
        above, below = top.off(name), bottom.off(name)
        off[name] = {r: above.get(r, 0.0) - below.get(r, 0.0) for r in {*above, *below}}
    return Rigs(off, {rig: 1.0 for own in off.values() for rig in own})


def rig_shares(rigs: Mapping[str, Sequence[Any]]) -> dict[str, dict[Any, float]]:
    """Each group's share on each rig, from the rig of every specimen of it.

    >>> rig_shares({"A": ["x", "x", "y", "y"], "B": []})
    {'A': {'x': 0.5, 'y': 0.5}, 'B': {}}
    """
    return {
        group: {rig: list(own).count(rig) / len(own) for rig in dict.fromkeys(own)}
        for group, own in rigs.items()
    }
