"""Which answers are settled, which would still change, and what to test next for most gain."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from math import hypot
from typing import Any

import numpy as np
import scipy

from brunt_core.observations import Observation
from brunt_core.statistics.comparisons import each_of, pairs_of, welch_df, welch_p
from brunt_core.statistics.looks import FIRST, level_at
from brunt_core.statistics.rigs import Rigs
from brunt_core.statistics.summaries import Summary, summarise

APART, OPEN, FEW = "apart", "open", "few"
LIKELY, UNLIKELY = 0.8, 0.1
_MANY = 2**24


@dataclass(frozen=True)
class Verdict:
    """One pair: ``apart`` for good, ``open``, or too ``few`` yet.

    ``round`` is how many of each it rests on; ``level`` what its p had to pass there; ``chance`` the
    predicted chance that the plan's rest parts them (``None`` where nothing can be said).
    """

    first: str
    second: str
    state: str
    round: int
    p: float
    level: float
    chance: float | None


@dataclass(frozen=True)
class NextTests:
    """What ``more`` specimens of one condition are worth: how many open pairs they part, expected."""

    condition: str
    more: int
    gain: float


@dataclass(frozen=True)
class Enough:
    """The state of all answers. ``settled`` when no open pair is likely enough to be parted any more."""

    verdicts: tuple[Verdict, ...]
    next: tuple[NextTests, ...]
    planned: int

    @property
    def apart(self) -> int:
        """Pairs significantly different for good."""
        return sum(v.state == APART for v in self.verdicts)

    @property
    def open(self) -> tuple[Verdict, ...]:
        """Pairs that more specimens might still part."""
        return tuple(v for v in self.verdicts if v.state != APART)

    @property
    def settled(self) -> bool:
        """Whether more specimens of the plan are unlikely to change any answer."""
        return all(v.chance is not None and v.chance < UNLIKELY for v in self.open)


def enough(
    groups: Mapping[str, Sequence[Observation]],
    planned: Mapping[str, int],
    confidence: float = 0.95,
    rounding: Mapping[str, float] | None = None,
    more: int = 2,
    of: Sequence[str] | None = None,
    rigs: Rigs | None = None,
) -> Enough:
    """Judge all pairs so that one may look after each specimen and stop when it is told.

    Parameters: observations by group in the order they were tested, in one unit; ``planned`` how many
    of each the plan has; ``rounding`` as in :func:`summarise`; ``more`` specimens of one group
    that the gain is told for; ``of`` the groups that can still be tested (all); ``rigs`` as in :func:`rank`.
    A pair is looked at when both have 2, 3 … specimens, by the first so many of each: Welch's p
    against the level of that look (:func:`level_at`), at Šidák's level for all pairs. Once apart it
    stays so. The predicted chance takes the difference as known with its present error, t
    distributed, and the variation as it is.
    Source: group-sequential levels as in :mod:`looks`; D. J. Spiegelhalter, L. S. Freedman & P. R. Blackburn, Control. Clin.
    Trials 7 (1986) 8–17 for the predicted chance (recalled); level, saving and chances simulated in docs/verify.md.

    >>> O = Observation.exact
    >>> e = enough({"A": [O(60.), O(61.), O(60.4)], "B": [O(40.), O(41.), O(40.2)]}, {"A": 5, "B": 5})
    >>> e.verdicts[0].state, e.verdicts[0].round
    ('apart', 2)
    """
    names = list(groups)
    family = pairs_of(len(names))
    alpha = 1 - each_of(family, confidence)
    steps = rounding or {}
    known: dict[tuple[str, int], Summary] = {}

    def first(name: str, n: int) -> Summary:
        if (name, n) not in known:
            known[name, n] = summarise(groups[name][:n], rounding=steps.get(name, 0.0))
        return known[name, n]

    unlike = _unlike(names, rigs)
    parted = _parted_all(groups, planned, alpha, steps, unlike)
    whole = _Wholes.of(
        [first(n, len(groups[n])) for n in names], [planned.get(n, 0) for n in names], unlike
    )
    verdicts = _verdicts(groups, whole, alpha=alpha, first=first, parted=parted)
    able = list(of) if of is not None else names
    gained = _gains(names, more, verdicts, whole, alpha)
    gains = [NextTests(c, more, gained[c]) for c in able]
    gains.sort(key=lambda g: -g.gain)
    most = max((planned.get(n, 0) for n in names), default=0)
    return Enough(tuple(verdicts), tuple(g for g in gains if g.gain > 0), most)


@dataclass(frozen=True)
class _Wholes:
    """What is known of every group, an entry each; nan for what does not exist."""

    mean: Any
    error: Any
    df: Any
    sd: Any
    n: Any
    planned: Any
    unlike: Any

    @classmethod
    def of(cls, groups: Sequence[Summary], planned: Sequence[int], unlike: Any) -> "_Wholes":
        rows = [(g.mean, g.standard_error, g.df or 1, g.sd) for g in groups]  # None becomes nan
        mean, error, df, sd = np.array(rows, float).reshape(len(rows), 4).T
        return cls(
            mean=mean,
            error=error,
            df=df,
            sd=sd,
            n=np.array([g.n for g in groups], int),
            planned=np.array(planned, int),
            unlike=unlike,
        )

    def between(self, i: Any, j: Any) -> Any:
        """What unlike rigs leave between two, in the unit of the means."""
        return _between(self.mean, self.unlike, i, j)

    def plan(self, i: Any, j: Any) -> Any:
        """How many of each a pair's plan has, as it is looked at."""
        return np.maximum(np.minimum(self.planned[i], self.planned[j]), FIRST)


def _verdicts(
    groups: Mapping[str, Sequence[Observation]],
    whole: _Wholes,
    alpha: float,
    first: Callable[[str, int], Summary],
    parted: Mapping[tuple[str, str], tuple[int, float, float]] | None,
) -> list[Verdict]:
    names = list(groups)
    i, j = np.triu_indices(len(names), 1)
    have = np.minimum(whole.n[i], whole.n[j])
    rest = [np.maximum(whole.planned[k] - whole.n[k], 0) for k in (i, j)]
    chances = _chances(whole, i, j, (rest[0], rest[1]), alpha)
    chances[(rest[0] == 0) & (rest[1] == 0)] = 0.0
    plans = whole.plan(i, j).tolist()
    found = []
    for k, (x, y) in enumerate(zip(i.tolist(), j.tolist(), strict=True)):
        a, b, so_many, chance = names[x], names[y], int(have[k]), float(chances[k])
        n, p, level = (
            parted[a, b]
            if parted is not None
            else _looks(
                a, b, so_many, plans[k], alpha=alpha, first=first, unlike=whole.unlike[x, y]
            )
        )
        if n:
            found.append(Verdict(a, b, APART, round=n, p=p, level=level, chance=None))
        elif so_many < FIRST:
            found.append(Verdict(a, b, FEW, round=so_many, p=1.0, level=0.0, chance=None))
        else:
            said = None if np.isnan(chance) else chance
            found.append(Verdict(a, b, OPEN, round=so_many, p=p, level=level, chance=said))
    return found


def _looks(
    a: str,
    b: str,
    have: int,
    plan: int,
    *,
    alpha: float,
    first: Callable[[str, int], Summary],
    unlike: float = 0.0,
) -> tuple[int, float, float]:
    """At which look the two were parted (0 for none yet), with p and level there or at the last look."""
    p, level = 1.0, 0.0
    for n in range(FIRST, have + 1):
        p, level = _p(first(a, n), first(b, n), unlike), level_at(n, plan, alpha)
        if p <= level:
            return n, p, level
    return 0, p, level


def _parted_all(
    groups: Mapping[str, Sequence[Observation]],
    planned: Mapping[str, int],
    alpha: float,
    steps: Mapping[str, float],
    unlike: Any = None,
) -> dict[tuple[str, str], tuple[int, float, float]] | None:
    """The same for all pairs at once, a look after the other, where every reading is exact."""
    if any(not o.is_exact for own in groups.values() for o in own):
        return None
    names = list(groups)
    sizes = np.array([len(groups[n]) for n in names])
    first, second = np.triu_indices(len(names), 1)
    have = np.minimum(sizes[first], sizes[second])
    plans = np.array(
        [max(min(planned.get(names[i], h), planned.get(names[j], h)), FIRST)
         for i, j, h in zip(first, second, have.tolist(), strict=True)]
    )  # fmt: skip
    values = np.full((len(names), max(sizes.max(initial=0), 1)), np.nan)
    for row, name in zip(values, names, strict=True):
        row[: len(groups[name])] = [o.anchor for o in groups[name]]
    rounding = np.array([steps.get(n, 0.0) for n in names])
    at, p, level = np.zeros(len(first), int), np.ones(len(first)), np.zeros(len(first))
    for n in range(FIRST, int(sizes.max(initial=0)) + 1):
        open_ = (at == 0) & (have >= n)
        if not open_.any():
            break
        mean, error = _means(values[:, :n], rounding)
        i, j = first[open_], second[open_]
        levels = _levels(np.full(len(i), n), plans[open_], alpha)
        apart = 0.0 if unlike is None else _between(mean, unlike, i, j)
        found = _pairs_p(mean, error, i, j, n=n, between=apart)
        p[open_], level[open_] = found, levels
        at[np.flatnonzero(open_)[found <= levels]] = n
    rows = zip(
        first.tolist(), second.tolist(), at.tolist(), p.tolist(), level.tolist(), strict=True
    )
    return {(names[i], names[j]): (k, q, lv) for i, j, k, q, lv in rows}


def _means(values: Any, rounding: Any) -> tuple[Any, Any]:
    """Means of the first n of each group, and their standard errors as :func:`summarise` has them."""
    n = values.shape[1]
    variance = values.var(axis=1, ddof=1)
    alike = np.maximum(rounding**2 - variance, 0.0)
    return values.mean(axis=1), np.sqrt(variance / n + rounding**2 / n + alike * (1 - 1 / n))


def _unlike(names: Sequence[str], rigs: Rigs | None) -> Any:
    """What unlike rigs leave between each two, as a share of what is read."""
    off = [rigs.off(name) for name in names] if rigs else []
    if all(own == off[0] for own in off):
        return np.zeros((len(names), len(names)))
    assert rigs is not None
    return np.array([[rigs.of_difference(a, b) for b in names] for a in names])


def _between(mean: Any, unlike: Any, i: Any, j: Any) -> Any:
    return unlike[i, j] * (np.abs(mean[i]) + np.abs(mean[j])) / 2


def _pairs_p(mean: Any, error: Any, i: Any, j: Any, *, n: int, between: Any) -> Any:
    """Welch's p of pairs of groups of n; 1 where neither varies."""
    square = error**2
    total = square[i] + square[j]
    below = (square[i] ** 2 + square[j] ** 2) / (n - 1)
    df = np.divide(total**2, below, out=np.full(len(i), 2.0 * (n - 1)), where=below > 0)
    away = np.sqrt(np.where(total > 0, total + between**2, 1.0))
    found = 2 * scipy.special.stdtr(df, -np.abs(mean[i] - mean[j]) / away)
    return np.where(total > 0, np.minimum(found, 1.0), 1.0)


def _p(one: Summary, other: Summary, unlike: float) -> float:
    u, v = one.standard_error, other.standard_error
    if u is None or v is None or not u + v:
        return 1.0
    df = welch_df(u, one.df or 1, v, other.df or 1)
    between = unlike * (abs(one.mean) + abs(other.mean)) / 2
    return welch_p(one.mean - other.mean, hypot(u, v, between), df)


def _chances(whole: _Wholes, i: Any, j: Any, more: tuple[Any, Any], alpha: float) -> Any:
    """The chance that so many more of each part a pair at the look they lead to; nan where there is none."""
    u, v = whole.error[i], whole.error[j]
    n = (whole.n[i] + more[0], whole.n[j] + more[1])
    least, plans = np.minimum(*n), whole.plan(i, j)
    levels = _levels(least, plans, alpha)
    gap = whole.mean[i] - whole.mean[j]
    with np.errstate(divide="ignore", invalid="ignore"):
        later = (whole.sd[i] / np.sqrt(n[0]), whole.sd[j] / np.sqrt(n[1]))
        before, after = u**2 + v**2, later[0] ** 2 + later[1] ** 2
        df = _welch_dfs(later[0], n[0] - 1, later[1], n[1] - 1)
        reach = scipy.special.stdtrit(df, 1 - levels / 2) * np.sqrt(
            after + whole.between(i, j) ** 2
        )
        move = np.sqrt(np.maximum(before - after, 0.0))
        free = _welch_dfs(u, whole.df[i], v, whole.df[j])
        found = scipy.special.stdtr(free, (gap - reach) / move)
        found = found + scipy.special.stdtr(free, (-gap - reach) / move)
    found = np.where(before <= after, np.abs(gap) > reach, found)
    found = np.where(least < FIRST, 0.0, found)
    known = np.isfinite(u + v + whole.sd[i] + whole.sd[j]) & (u + v > 0)
    return np.where(known, found, np.nan)


def _levels(n: Any, planned: Any, alpha: float) -> Any:
    """:func:`level_at` of many looks at once; most pairs of a plan are at the same."""
    looks, of = np.unique(n * _MANY + planned, return_inverse=True)
    each = [level_at(*divmod(look, _MANY), alpha) for look in looks.tolist()]
    return np.array(each)[of] if each else np.empty(0)


def _welch_dfs(u: Any, first: Any, v: Any, second: Any) -> Any:
    """:func:`welch_df` of many pairs at once."""
    below = u**4 / first + v**4 / second
    return np.where(below > 0, (u**2 + v**2) ** 2 / below, first + second)


def _gains(
    names: Sequence[str], more: int, verdicts: Sequence[Verdict], whole: _Wholes, alpha: float
) -> dict[str, float]:
    """How many of the open pairs ``more`` specimens of each alone are expected to part."""
    place = {name: k for k, name in enumerate(names)}
    open_ = [(place[v.first], place[v.second]) for v in verdicts if v.state != APART]
    pairs = np.array([*open_, *((y, x) for x, y in open_)], int).reshape(-1, 2)
    chances = _chances(whole, pairs[:, 0], pairs[:, 1], (more, 0), alpha)
    total = np.bincount(pairs[:, 0], np.nan_to_num(chances), len(names))
    return dict(zip(names, total.tolist(), strict=True))
