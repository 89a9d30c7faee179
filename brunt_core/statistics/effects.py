"""Two and more factors: main effects, interactions, their intervals; aliases of a part of a plan."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations, product
from math import sqrt
from typing import Any

import numpy as np
import scipy

from brunt_core.errors import InputError
from brunt_core.statistics.summaries import t_quantile


@dataclass(frozen=True)
class LevelMean:
    """A level's marginal mean, all cells of the others weighing alike; ``None`` where cells are missing."""

    level: str
    mean: float | None
    low: float | None
    high: float | None


@dataclass(frozen=True)
class Term:
    """One main effect, interaction or covariate: sum of squares, F test; the levels of a main effect.

    ``slope`` is a covariate's, with its interval, in the unit of the values for one of its own.
    """

    name: str
    factors: tuple[str, ...]
    squares: float
    df: int
    f: float | None
    p: float | None
    levels: tuple[LevelMean, ...] = ()
    slope: tuple[float, float | None, float | None] | None = None


@dataclass(frozen=True)
class Effects:
    """An analysis of variance by type II sums of squares.

    ``method`` says what the variation is judged by. ``cells`` the mean of each combination tested;
    ``added`` what main effects alone would make of it. ``aliases`` in words: effects that this plan
    cannot tell from one another.
    """

    terms: tuple[Term, ...]
    residual_sd: float | None
    residual_df: int
    method: str
    cells: Mapping[tuple[str, ...], tuple[float, int]]
    added: Mapping[tuple[str, ...], float]
    aliases: tuple[str, ...]

    def term(self, *factors: str) -> Term | None:
        """The effect of these factors together, in any order."""
        return next((t for t in self.terms if set(t.factors) == set(factors)), None)


def effects(
    rows: Sequence[tuple[Mapping[str, str], float]],
    factors: Sequence[str],
    confidence: float = 0.95,
    covariates: Mapping[str, Sequence[float]] | None = None,
) -> Effects:
    """Main effects and two-factor interactions of two or more factors, unequal numbers allowed.

    Parameters: a level of each factor and a value for each specimen, in any unit. Type II: each term
    beside all that do not contain it. Judged by the variation within combinations; where there are no
    replicates, interactions cannot be separated from error, so none is claimed, and main effects are judged by what is left of a model of main
    effects alone. Levels' means weigh the combinations of the others alike (marginal means), with
    t intervals. ``covariates`` (a mass, a temperature of the room: a number for each value) stand
    beside the factors as straight lines of one slope; levels' means are then those at the covariates'
    mean.
    Raises :class:`InputError` for fewer than two factors, a factor with one level, a level that is
    missing, a covariate that is missing or does not vary, and too few values.
    Source: J. Fox, Applied Regression Analysis, 8.2 (recalled); checked against statsmodels'
    ``anova_lm(typ=2)`` and its published examples.

    >>> rows = [({"A": a, "B": b}, v) for a, b, v in (("1", "x", 10.), ("1", "x", 11.), ("1", "y", 14.), ("1", "y", 15.),
    ...         ("2", "x", 20.), ("2", "x", 21.), ("2", "y", 24.), ("2", "y", 25.))]
    >>> [(t.name, t.df, round(t.p, 4)) for t in effects(rows, ["A", "B"]).terms]
    [('A', 1, 0.0), ('B', 1, 0.0013), ('A × B', 1, 1.0)]
    """
    names = tuple(dict.fromkeys(factors))
    if len(names) < 2:
        raise InputError("Effects need two factors or more.", "factor")
    levels = _levels(rows, names)
    y = np.array([v for _, v in rows], float)
    if not np.all(np.isfinite(y)):
        raise InputError("Effects need numbers.", "value")
    coded = {n: _coded([r[n] for r, _ in rows], levels[n]) for n in names}
    cells = _cells(rows, names)
    pairs = list(combinations(names, 2))
    beside = _centred(covariates or {}, names, len(y))
    coded |= beside
    mains = [(n,) for n in (*names, *beside)]
    full = _design(coded, mains, pairs, len(y))
    replicated = len(y) - np.linalg.matrix_rank(full) > 0 and len(y) > len(cells)
    kept = _tellable(coded, mains, pairs, len(y)) if replicated else []
    whole = _design(coded, mains, kept, len(y))
    rank = int(np.linalg.matrix_rank(whole))
    spare = len(y) - rank
    if spare < 1:
        kept, whole = [], _design(coded, mains, [], len(y))
        rank = int(np.linalg.matrix_rank(whole))
        spare = len(y) - rank
    left = _left(whole, y)
    sigma2 = left / spare if spare > 0 else None
    every = [*mains, *kept]
    terms = _judged(every, coded, y, sigma2=sigma2, spare=spare, whole=whole, levels=levels, kept=kept,
                    confidence=confidence, covariates=covariates or {})  # fmt: skip
    plain = _design(coded, mains, [], len(y))
    weights = np.linalg.lstsq(plain, y, rcond=None)[0]
    return Effects(
        terms,
        residual_sd=None if sigma2 is None else sqrt(sigma2),
        residual_df=max(spare, 0),
        method=_method(bool(kept), spare, replicated),
        cells=cells,
        added=_added(names, levels, weights, list(beside)),
        aliases=tuple(_aliases(coded, names, pairs)),
    )


def _judged(
    every: Sequence[tuple[str, ...]], coded: Mapping[str, Any], y: Any, sigma2: float | None, spare: int,
    whole: Any, levels: Mapping[str, list[str]], kept: Sequence, confidence: float,
    covariates: Mapping[str, Sequence[float]],
) -> tuple[Term, ...]:  # fmt: skip
    """Every term with its test, the covariates with their slopes."""
    found = []
    for t in every:
        term = _term(t, every, coded, y, sigma2=sigma2, spare=spare, whole=whole, levels=levels, kept=kept, confidence=confidence)  # fmt: skip
        if t[0] in covariates and len(t) == 1:
            term = _with_slope(term, covariates[t[0]], every, coded, whole, y, sigma2=sigma2, spare=spare, confidence=confidence)  # fmt: skip
        found.append(term)
    return tuple(found)


def _tellable(
    coded: Mapping[str, Any], mains: Sequence, pairs: Sequence[tuple[str, str]], n: int
) -> list[tuple[str, str]]:
    """The interactions that say something beside the main effects and those before them."""
    kept: list[tuple[str, str]] = []
    rank = np.linalg.matrix_rank(_design(coded, mains, kept, n))
    for pair in pairs:
        more = np.linalg.matrix_rank(_design(coded, mains, [*kept, pair], n))
        if more > rank:
            kept, rank = [*kept, pair], more
    return kept


def _centred(
    covariates: Mapping[str, Sequence[float]], names: Sequence[str], n: int
) -> dict[str, Any]:
    """Covariates as columns about their mean."""
    found = {}
    for name, numbers in covariates.items():
        x = np.array(numbers, float)
        if name in names:
            raise InputError(f"{name} is a factor already: it cannot be a covariate too.", name)
        if len(x) != n or not np.all(np.isfinite(x)):
            raise InputError(f"Each value needs a number of {name}.", name)
        if np.ptp(x) < 1e-12 * max(float(np.abs(x).max()), 1e-300):
            raise InputError(f"{name} is the same for all: it has no effect to estimate.", name)
        found[name] = ((x - x.mean()) / x.std())[:, None]
    return found


def _levels(rows: Sequence[tuple[Mapping[str, str], float]], names: tuple[str, ...]) -> dict:
    if len(rows) < 4:
        raise InputError("Effects need four values or more.", "value")
    levels: dict[str, list[str]] = {}
    for n in names:
        missing = next((i for i, (r, _) in enumerate(rows, 1) if not r.get(n)), None)
        if missing:
            raise InputError(f"Value {missing} has no level of {n}.", n)
        levels[n] = list(dict.fromkeys(r[n] for r, _ in rows))
        if len(levels[n]) < 2:
            raise InputError(f"{n} has one level only: there is no effect to see.", n)
    return levels


def _coded(words: Sequence[str], levels: Sequence[str]) -> Any:
    """Columns that sum to zero over the levels."""
    return np.array([_contrast(w, levels) for w in words])


def _contrast(word: str, levels: Sequence[str]) -> list[float]:
    if word == levels[-1]:
        return [-1.0] * (len(levels) - 1)
    return [1.0 if word == v else 0.0 for v in levels[:-1]]


def _columns(coded: Mapping[str, Any], term: tuple[str, ...]) -> Any:
    found = coded[term[0]]
    for n in term[1:]:
        found = (found[:, :, None] * coded[n][:, None, :]).reshape(len(found), -1)
    return found


def _design(coded: Mapping[str, Any], mains: Sequence, pairs: Sequence, n: int) -> Any:
    return np.column_stack([np.ones(n), *(_columns(coded, t) for t in (*mains, *pairs))])


def _left(design: Any, y: Any) -> float:
    weights = np.linalg.lstsq(design, y, rcond=None)[0]
    rest = y - design @ weights
    return float(rest @ rest)


def _term(
    term: tuple[str, ...],
    every: Sequence[tuple[str, ...]],
    coded: Mapping[str, Any],
    y: Any,
    sigma2: float | None,
    spare: int,
    whole: Any,
    levels: Mapping[str, list[str]],
    kept: Sequence,
    confidence: float,
) -> Term:
    others = [t for t in every if t != term and not set(term) < set(t)]
    without = np.column_stack([np.ones(len(y)), *(_columns(coded, t) for t in others)])
    with_it = np.column_stack([without, _columns(coded, term)])
    df = int(np.linalg.matrix_rank(with_it) - np.linalg.matrix_rank(without))
    squares = max(_left(without, y) - _left(with_it, y), 0.0)
    f = p = None
    if df and sigma2 is not None and spare > 0:
        f = squares / df / sigma2 if sigma2 > 0 else (float("inf") if squares > 0 else 0.0)
        p = float(scipy.special.fdtrc(df, spare, f)) if np.isfinite(f) else 0.0
    shown = (
        _marginal(term[0], whole, y, levels, kept, coded=coded, sigma2=sigma2, spare=spare, confidence=confidence)
        if len(term) == 1 and term[0] in levels
        else ()
    )  # fmt: skip
    return Term(" × ".join(term), term, squares, df, f=f, p=p, levels=shown)


def _with_slope(
    term: Term, x: Sequence[float], every: Sequence, coded: Mapping[str, Any], whole: Any, y: Any,
    sigma2: float | None, spare: int, confidence: float,
) -> Term:  # fmt: skip
    """A covariate's term with its slope for one of its own unit."""
    at = 1 + sum(_columns(coded, t).shape[1] for t in every[: every.index(term.factors)])
    scale = float(np.std(np.array(x, float)))
    slope = float(np.linalg.lstsq(whole, y, rcond=None)[0][at]) / scale
    if sigma2 is None or spare < 1 or not term.df:
        return replace(term, slope=(slope, None, None))
    error = sqrt(max(sigma2 * float(np.linalg.pinv(whole.T @ whole)[at, at]), 0.0)) / scale
    reach = t_quantile((1 + confidence) / 2, spare) * error
    return replace(term, slope=(slope, slope - reach, slope + reach))


def _marginal(
    factor: str,
    whole: Any,
    y: Any,
    levels: Mapping[str, list[str]],
    kept: Sequence,
    coded: Mapping[str, Any],
    sigma2: float | None,
    spare: int,
    confidence: float,
) -> tuple[LevelMean, ...]:
    names = list(levels)
    beside = [n for n in coded if n not in levels]
    weights = np.linalg.lstsq(whole, y, rcond=None)[0]
    inverse = np.linalg.pinv(whole.T @ whole)
    projector = np.linalg.pinv(whole) @ whole
    found = []
    for level in levels[factor]:
        cells = product(*([level] if n == factor else levels[n] for n in names))
        row = np.mean(
            [_row(dict(zip(names, c, strict=True)), levels, kept, beside) for c in cells], axis=0
        )
        if np.max(np.abs(row @ projector - row)) > 1e-6:
            found.append(LevelMean(level, None, None, None))
            continue
        mean = float(row @ weights)
        if sigma2 is None or spare < 1:
            found.append(LevelMean(level, mean, None, None))
            continue
        reach = t_quantile((1 + confidence) / 2, spare) * sqrt(
            max(sigma2 * float(row @ inverse @ row), 0.0)
        )
        found.append(LevelMean(level, mean, mean - reach, mean + reach))
    return tuple(found)


def _row(
    cell: Mapping[str, str],
    levels: Mapping[str, list[str]],
    kept: Sequence,
    beside: Sequence[str] = (),
) -> Any:
    coded = {n: np.array([_contrast(cell[n], levels[n])]) for n in levels}
    coded |= {n: np.zeros((1, 1)) for n in beside}
    return _design(coded, [(n,) for n in coded], kept, 1)[0]


def _cells(
    rows: Sequence[tuple[Mapping[str, str], float]], names: tuple[str, ...]
) -> dict[tuple[str, ...], tuple[float, int]]:
    found: dict[tuple[str, ...], list[float]] = {}
    for r, v in rows:
        found.setdefault(tuple(r[n] for n in names), []).append(v)
    return {k: (float(np.mean(v)), len(v)) for k, v in found.items()}


def _added(
    names: tuple[str, ...], levels: Mapping[str, list[str]], weights: Any, beside: Sequence[str]
) -> dict:
    """What each combination would have if main effects only added up."""
    found = {}
    for cell in product(*(levels[n] for n in names)):
        row = _row(dict(zip(names, cell, strict=True)), levels, [], beside)
        found[cell] = float(row @ weights)
    return found


def _method(interactions: bool, spare: int, replicated: bool) -> str:
    if spare < 1:
        return (
            "no error estimate: each combination was tested once and no degree of freedom is left"
        )
    if interactions:
        return "type II, tested against the variation within combinations"
    if replicated:
        return "type II, main effects only: interactions are confounded in this plan"
    return "type II, main effects only: without replicates an interaction cannot be separated from error"


def _aliases(
    coded: Mapping[str, Any], names: tuple[str, ...], pairs: Sequence[tuple[str, str]]
) -> list[str]:
    """Effects of two-level factors that run along with one another in this plan, in words."""
    two = [n for n in names if coded[n].shape[1] == 1]
    columns: dict[tuple[str, ...], Any] = {(n,): coded[n][:, 0] for n in two}
    columns |= {p: coded[p[0]][:, 0] * coded[p[1]][:, 0] for p in pairs if set(p) <= set(two)}
    said = []
    for a, b in combinations(columns, 2):
        one, other = columns[a] - columns[a].mean(), columns[b] - columns[b].mean()
        size = sqrt(float(one @ one) * float(other @ other))
        if size > 1e-12 and abs(float(one @ other)) > size * (1 - 1e-9):
            said.append(f"{' × '.join(a)} is confounded with {' × '.join(b)} in this plan.")
    return said
