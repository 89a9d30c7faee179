"""All pairs of groups compared without assuming equal scatter, family-wise."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

from scipy import special

from brunt_core.statistics.studentized_range import critical, survival
from brunt_core.statistics.summaries import LOWER_BOUND, UPPER_BOUND, Summary


@dataclass(frozen=True)
class Pair:
    """Two groups compared: difference first − second, adjusted p, and how it was judged.

    ``basis`` is ``games-howell``, ``bound`` (a held group set at its bounds: the p holds for
    "at least this much apart") or ``none`` (too few readings to compare).
    """

    first: int
    second: int
    difference: float
    standard_error: float
    df: float
    p: float
    basis: str

    def interval(self, groups: int, confidence: float = 0.95) -> tuple[float, float]:
        """Simultaneous interval of the difference, for a family of so many groups."""
        if not self.standard_error or self.basis == "none":
            return self.difference, self.difference
        reach = critical(1 - confidence, groups, round(self.df, 6)) / sqrt(2) * self.standard_error
        return self.difference - reach, self.difference + reach


def welch_df(first_error: float, first_df: float, second_error: float, second_df: float) -> float:
    """Welch–Satterthwaite degrees of freedom, (u₁²+u₂²)² / (u₁⁴/ν₁ + u₂⁴/ν₂).

    Parameters: standard errors and degrees of freedom of the two means. Source: JCGM 100 G.4.1.

    >>> round(welch_df(1.0, 4, 1.0, 4), 3)
    8.0
    """
    below = first_error**4 / first_df + second_error**4 / second_df
    return (first_error**2 + second_error**2) ** 2 / below if below else first_df + second_df


def compare_all(groups: Sequence[Summary]) -> list[Pair]:
    """Games–Howell comparison of every pair.

    q = √2·|Δ| / √(u₁² + u₂²) against the studentized range of all comparable groups, with
    Welch–Satterthwaite degrees of freedom. For two groups this is Welch's t-test.
    Groups of which only a bound is known take part where their bound decides; a group of one
    cannot be compared.

    Source: Games & Howell, J. Educ. Stat. 1 (1976) 113–125; checked against scipy.

    >>> from brunt_core.observations import Observation as O
    >>> from brunt_core.statistics.summaries import summarise
    >>> a, b = (summarise([O.exact(v) for v in g]) for g in ((1., 2., 3.), (7., 8., 9.)))
    >>> round(compare_all([a, b])[0].p, 6)
    0.001826
    """
    family = max(sum(1 for g in groups if _usable(g)), 2)
    drafts = [
        _draft(i, j, groups[i], groups[j])
        for i in range(len(groups))
        for j in range(i + 1, len(groups))
    ]
    live = [d for d in drafts if d.basis != "none" and d.standard_error > 0]
    q = [sqrt(2) * abs(d.difference) / d.standard_error for d in live]
    adjusted = (
        dict(
            zip(
                ((d.first, d.second) for d in live),
                survival(q, family, [d.df for d in live]),
                strict=True,
            )
        )
        if live
        else {}
    )
    return [_judged(d, adjusted.get((d.first, d.second))) for d in drafts]


def _usable(group: Summary) -> bool:
    return group.standard_error is not None or group.estimate in (LOWER_BOUND, UPPER_BOUND)


def _judged(draft: Pair, p: float | None) -> Pair:
    if draft.basis == "none":
        return draft
    if p is None:
        p = 0.0 if draft.difference else 1.0
    return Pair(
        draft.first,
        draft.second,
        draft.difference,
        standard_error=draft.standard_error,
        df=draft.df,
        p=float(p),
        basis=draft.basis,
    )


def _draft(i: int, j: int, first: Summary, second: Summary) -> Pair:
    difference = first.mean - second.mean
    if first.standard_error is not None and second.standard_error is not None:
        df = welch_df(first.standard_error, first.df or 1, second.standard_error, second.df or 1)
        error = sqrt(first.standard_error**2 + second.standard_error**2)
        return Pair(i, j, difference, standard_error=error, df=df, p=1.0, basis="games-howell")
    bound, measured = (first, second) if first.standard_error is None else (second, first)
    apart = bound.mean - measured.mean
    decides = (bound.estimate == LOWER_BOUND and apart > 0) or (
        bound.estimate == UPPER_BOUND and apart < 0
    )
    if measured.sd is None or not decides:
        return Pair(i, j, difference, standard_error=0.0, df=0.0, p=1.0, basis="none")
    error = measured.sd * sqrt(1 / measured.n + 1 / bound.n)
    return Pair(i, j, difference, standard_error=error, df=measured.df or 1, p=1.0, basis="bound")


def different_pairs(pairs: Sequence[Pair], confidence: float = 0.95) -> list[tuple[int, int]]:
    """The pairs that can be told apart at the family-wise confidence."""
    return [(p.first, p.second) for p in pairs if p.basis != "none" and p.p < 1 - confidence]


def welch_p(difference: float, standard_error: float, df: float) -> float:
    """Two-sided p of one Welch comparison, unadjusted. Source: scipy.special.stdtr.

    >>> round(welch_p(-1.58, 0.84909, 17.7765), 4)
    0.0794
    """
    return float(2 * special.stdtr(df, -abs(difference / standard_error)))
