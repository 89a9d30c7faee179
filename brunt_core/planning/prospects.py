"""What a whole plan can tell: slope, main effects and interaction beside single pairs."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import prod, sqrt

import scipy

from brunt_core.errors import InputError
from brunt_core.planning.power import fewest, power, smallest
from brunt_core.statistics.comparisons import each_of

# A difference larger than twice the mean says nothing of strengths.
_NOTHING = 2.0


@dataclass(frozen=True)
class Varied:
    """A factor as the plan varies it: how many levels, and their numbers where they have any."""

    name: str
    levels: int
    numbers: tuple[float, ...] = ()

    @property
    def ordered(self) -> bool:
        """Whether its levels lie on a scale, three or more of them or two."""
        return len(self.numbers) == self.levels and len(set(self.numbers)) > 1


@dataclass(frozen=True)
class Contrast:
    """A question to the plan, as a sum of cell means weighted by ``weights``.

    ``weight`` is Σ c² over the cells, so that the standard error is σ · √(weight / n) with ``n`` in
    each cell; ``comparisons`` how many questions of its kind are asked together.
    """

    key: str
    name: str
    words: str
    weight: float
    comparisons: int


@dataclass(frozen=True)
class Answer:
    """What n of each can tell of one question: as a share of the mean; ``None`` where nothing is detectable."""

    contrast: Contrast
    detectable: float | None
    needed: int | None
    curve: tuple[tuple[int, float], ...]


def contrasts(factors: Sequence[Varied], cells: int | None = None) -> list[Contrast]:
    """The questions a plan answers, its own first: interaction of two factors, each main effect or slope, pairs.

    * slope of a factor with numbers: the rise from its lowest to its highest level along a straight
      line fitted to all, c_i = R · (x_i − x̄) / Σ(x − x̄)² with R the range, spread over the other cells;
    * main effect of a factor without: the mean of one level less that of another, over all other
      cells, all its pairs allowed for;
    * interaction of the first two factors: how far two levels of one drift apart over the other;
    * pairs: one cell against another, all pairs allowed for.

    ``cells`` is how many cells are made, where not every combination is (then only pairs are asked).
    Raises :class:`InputError` for a plan without a factor.

    >>> [c.key for c in contrasts([Varied("Drying", 2), Varied("Heat", 5, (240, 250, 260, 270, 280))])]
    ['interaction', 'main Drying', 'slope Heat', 'pairs']
    """
    if not factors:
        raise InputError("Nothing is varied.", "factors")
    whole = prod(f.levels for f in factors)
    made = whole if cells is None else cells
    found: list[Contrast] = []
    if made == whole:
        many = [f for f in factors if f.levels > 1]
        if len(many) > 1:
            found += [_interaction(many[0], many[1], whole)]
        if len(many) > 1 or (many and many[0].ordered):
            found += [_main(f, whole) for f in many]
    pairs = made * (made - 1) // 2
    if pairs:
        words = "one against the other" if pairs == 1 else f"any two, all {pairs} pairs allowed for"
        found.append(Contrast("pairs", "Any two conditions", words, 2.0, pairs))
    return found


def _straight(numbers: Sequence[float]) -> float:
    """Σ c² of the rise over the range along a straight line: R² / Σ(x − x̄)²."""
    mean = sum(numbers) / len(numbers)
    return (max(numbers) - min(numbers)) ** 2 / sum((x - mean) ** 2 for x in numbers)


def _main(factor: Varied, cells: int) -> Contrast:
    others = cells // factor.levels
    if factor.ordered and factor.levels > 2:
        low, high = min(factor.numbers), max(factor.numbers)
        words = f"a steady rise or fall from {low:g} to {high:g}"
        return Contrast(
            f"slope {factor.name}", factor.name, words, _straight(factor.numbers) / others, 1
        )
    pairs = factor.levels * (factor.levels - 1) // 2
    words = (
        "one level against the other, averaged over the rest"
        if pairs == 1
        else f"any two levels, averaged over the rest, all {pairs} pairs allowed for"
    )
    return Contrast(f"main {factor.name}", factor.name, words, 2.0 / others, pairs)


def _interaction(first: Varied, second: Varied, cells: int) -> Contrast:
    others = cells // (first.levels * second.levels)
    parts, tests = [], 1
    for factor in (first, second):
        if factor.ordered and factor.levels > 2:
            parts.append(_straight(factor.numbers))
        else:
            parts.append(2.0)
            tests *= factor.levels * (factor.levels - 1) // 2
    words = f"how far levels of {first.name} drift apart over {second.name}"
    name = f"{first.name} × {second.name}"
    return Contrast("interaction", name, words, parts[0] * parts[1] / max(others, 1), tests)


def contrast_power(effect: float, weight: float, n: int, cells: int, alpha: float) -> float:
    """Power of the two-sided t-test of one contrast in a plan of ``cells`` cells with ``n`` in each.

    P(|t'| > t_crit), noncentral t with cells · (n − 1) degrees of freedom and noncentrality
    d / √(weight / n); ``effect`` d is the contrast over the common standard deviation.
    Limits: normal distribution, equal standard deviation in all cells, n ≥ 2. Source: D. C. Montgomery, Design and Analysis
    of Experiments, contrasts (recalled); checked against statsmodels and simulation.

    >>> round(contrast_power(2.0, 2.0, 5, 2, 0.05), 6)
    0.790542
    """
    df, shift = cells * (n - 1), abs(effect) / sqrt(weight / n)
    edge = float(scipy.special.stdtrit(df, 1 - alpha / 2))
    if shift > edge + 40:
        return 1.0
    wrong = float(scipy.special.nctdtr(df, shift, -edge)) if shift < 6 else 0.0
    return float(1 - scipy.special.nctdtr(df, shift, edge)) + wrong


@lru_cache(maxsize=4096)
def _sees(weight: float, cells: int, alpha: float, wanted_power: float, n: int) -> float:
    """The smallest effect over the standard deviation that n of each show; of a pair for no cells."""
    if n < 2:
        raise InputError("One replicate has no standard deviation: use at least two.", "replicates")
    return smallest(lambda d: _power(d, weight, n, cells, alpha) >= wanted_power)


def _power(effect: float, weight: float, n: int, cells: int, alpha: float) -> float:
    return contrast_power(effect, weight, n, cells, alpha) if cells else power(effect, n, alpha)


def answers(
    factors: Sequence[Varied],
    n: int,
    cv: float,
    *,
    cells: int | None = None,
    wanted: float | None = None,
    confidence: float = 0.95,
    wanted_power: float = 0.8,
) -> list[Answer]:
    """What n of each can tell of every question of the plan.

    Parameters: ``cv`` the coefficient of variation of one property; ``n`` of each; ``wanted``
    the difference wanted, as a share of the mean. Where several comparisons are asked together α is
    shared among them (Bonferroni). Single pairs are judged as the ranking does later, by Welch's test
    and Šidák's correction; the other questions by the variation of all cells. Raises :class:`InputError` for a coefficient of variation that is none.

    >>> rows = answers([Varied("Heat", 5, (240, 250, 260, 270, 280))], 6, 0.05)
    >>> [(a.contrast.key, round(a.detectable, 4)) for a in rows]
    [('slope Heat', 0.0753), ('pairs', 0.1369)]
    """
    if not 0 < cv < 2:
        raise InputError("The CV is in per cent of the mean, between 0 and 200.", "cv")
    made = prod(f.levels for f in factors) if cells is None else cells
    return [
        _answer(
            c,
            n,
            cv,
            cells=max(made, 2),
            wanted=wanted,
            error=1 - confidence,
            wanted_power=wanted_power,
        )
        for c in contrasts(factors, cells)
    ]


def _answer(
    contrast: Contrast,
    n: int,
    cv: float,
    cells: int,
    wanted: float | None,
    error: float,
    wanted_power: float,
) -> Answer:
    pair = contrast.key == "pairs"
    together = contrast.comparisons
    alpha = 1 - each_of(together, 1 - error) if pair else error / together
    weight, of = round(contrast.weight, 12), 0 if pair else cells
    seen: Mapping[int, float] = {
        k: cv * _sees(weight, of, alpha, wanted_power, k)
        for k in sorted({*range(2, 21), *([n] if n >= 2 else [])})
    }
    return Answer(
        contrast,
        own if (own := seen.get(n)) and own <= _NOTHING else None,
        fewest(lambda k: _power(wanted / cv, weight, k, of, alpha) >= wanted_power)
        if wanted
        else None,
        tuple((k, seen[k]) for k in range(2, 21)),
    )
