"""One order over several properties: rank sums, tests won, weighted scores, and how far weights decide."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import scipy

from brunt_core.errors import InputError

_DRAWS = 4096


@dataclass(frozen=True)
class Score:
    """One condition over all properties.

    ``rank_sum`` of its places (1 the best, ties share); ``won`` how many properties it leads, shared
    leads by parts; ``weighted`` from 0 (the worst in everything) to 1; ``leads`` the share of all weightings in which it comes first.
    """

    name: str
    rank_sum: float
    won: float
    weighted: float
    leads: float


def scores(
    values: Mapping[str, Mapping[str, float]],
    better: Mapping[str, str],
    weights: Mapping[str, float] | None = None,
) -> list[Score]:
    """Score conditions that have every property, the best weighted score first.

    Parameters: means by condition and property, each property in its own unit; which way each is
    better (higher or lower); ``weights`` by property, alike unless given, 0 or more. Values are put on 0 to 1 between
    the worst and the best of each property. ``leads`` is over all weightings alike, by a fixed scrambled
    Sobol sequence on the simplex.
    Raises :class:`InputError` for no property, weights below zero or all zero, or fewer than two
    conditions that have every property.

    >>> s = scores({"A": {"pull": 60., "blow": 5.}, "B": {"pull": 40., "blow": 20.}, "C": {"pull": 39., "blow": 4.}},
    ...            {"pull": "higher", "blow": "higher"})
    >>> [(x.name, x.rank_sum, x.won) for x in s], round(s[0].leads, 2)
    ([('A', 3.0, 1.0), ('B', 3.0, 1.0), ('C', 6.0, 0.0)], 0.5)
    """
    keys = list(better)
    if not keys:
        raise InputError("A score needs a property.", "property")
    told = {k: 1.0 if weights is None else float(weights.get(k, 0.0)) for k in keys}
    if any(w < 0 or not np.isfinite(w) for w in told.values()) or not sum(told.values()):
        raise InputError("Weights are zero or more, and not all zero.", "weights")
    names = [n for n, own in values.items() if all(k in own for k in keys)]
    if len(names) < 2:
        raise InputError(
            "A score needs two conditions that were tested in every property.", "property"
        )
    table = np.array([[values[n][k] for k in keys] for n in names], float)
    table *= np.array([-1.0 if better[k] == "lower" else 1.0 for k in keys])
    span = np.ptp(table, axis=0)
    unit = np.divide(table - table.min(axis=0), span, out=np.ones_like(table), where=span > 0)
    places = np.array([scipy.stats.rankdata(-table[:, j]) for j in range(len(keys))]).T
    first = table == table.max(axis=0)
    won = (first / first.sum(axis=0)).sum(axis=1)
    weight = np.array([told[k] for k in keys]) / sum(told.values())
    leads = _share_of_weightings(unit)
    found = [
        Score(n, float(places[i].sum()), float(won[i]), float(unit[i] @ weight), float(leads[i]))
        for i, n in enumerate(names)
    ]
    return sorted(found, key=lambda s: (-s.weighted, s.rank_sum))


def _share_of_weightings(unit: Any) -> Any:
    """In which share of all weightings each row leads; ties by parts."""
    rows, count = unit.shape
    if count == 1:
        first = unit[:, 0] == unit[:, 0].max()
        return first / first.sum()
    draws = scipy.stats.qmc.Sobol(count, seed=11).random(_DRAWS)
    weights = -np.log(np.maximum(draws, 1e-300))
    totals = unit @ (weights / weights.sum(axis=1, keepdims=True)).T
    best = totals >= totals.max(axis=0) - 1e-12
    return (best / best.sum(axis=0)).mean(axis=1)


def agreement(orders: Sequence[Sequence[float]]) -> float | None:
    """Kendall's coefficient of concordance of several rankings, 0 none to 1 full; ``None`` for one.

    Parameters: the places of the same conditions in each property, ties shared.
    Source: Kendall & Babington Smith, Ann. Math. Stat. 10 (1939) 275–287.

    >>> agreement([[1, 2, 3], [1, 2, 3]]), round(agreement([[1, 2, 3], [3, 2, 1]]), 3)
    (1.0, 0.0)
    """
    if len(orders) < 2 or len(orders[0]) < 2:
        return None
    table = np.array(orders, float)
    m, n = table.shape
    sums = table.sum(axis=0)
    spread = float(((sums - sums.mean()) ** 2).sum())
    return 12 * spread / (m * m * (n**3 - n))
