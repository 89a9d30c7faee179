"""A setting swept over levels: where the best lies, and how far it can be moved without a loss seen."""

from collections.abc import Mapping
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.statistics.ranking import Ranking


@dataclass(frozen=True)
class Sweep:
    """The level with the best mean, and every level that cannot be told apart from it, rising.

    ``at_edge`` is true when the best is the lowest or highest level tried.
    """

    best: float
    level_with_best: tuple[float, ...]
    at_edge: bool


def sweep(ranking: Ranking, levels: Mapping[str, float]) -> Sweep:
    """Read a ranking of levels as a sweep.

    Parameters: the ranking, best first; ``levels`` the number each group stands for, in one unit.
    Two levels are level when they share a letter (Welch and Šidák, see :func:`compare_all`).
    Limits: an optimum is only as fine as the levels tried; one at the edge asks for more levels.
    Raises :class:`InputError` for a group without a level, or fewer than two groups.

    >>> from brunt_core.observations import Observation
    >>> from brunt_core.statistics.ranking import rank
    >>> near = lambda m: [Observation.exact(m + d) for d in (-1.0, 0.0, 1.0)]
    >>> found = sweep(rank({"a": near(10), "b": near(30), "c": near(29)}), {"a": 1, "b": 2, "c": 3})
    >>> found.best, found.level_with_best, found.at_edge
    (2, (2, 3), False)
    """
    if len(ranking.rows) < 2:
        raise InputError("A sweep needs two levels or more.")
    missing = next((r.name for r in ranking.rows if r.name not in levels), None)
    if missing:
        raise InputError(f"No level is known for {missing}.")
    first = ranking.rows[0]
    alike = [levels[r.name] for r in ranking.rows if set(r.letters) & set(first.letters)]
    tried = [levels[r.name] for r in ranking.rows]
    best = levels[first.name]
    return Sweep(best, tuple(sorted(alike)), best in (min(tried), max(tried)))
