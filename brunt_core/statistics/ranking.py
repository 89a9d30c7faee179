"""Groups ranked by one property, with what differs significantly."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import hypot, isnan
from typing import Any

from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.statistics.comparisons import (
    Pair,
    compare_all,
    different_pairs,
    each_of,
)
from brunt_core.statistics.letters import letter_sets, letters_of
from brunt_core.statistics.ordinal import compare_ranks
from brunt_core.statistics.ratios import Ratio, ratio_of_means, widened
from brunt_core.statistics.rigs import Rigs
from brunt_core.statistics.summaries import LOWER_BOUND, UPPER_BOUND, Summary, summarise, t_quantile


@dataclass(frozen=True)
class Row:
    """One group in the ranking; the two ratios are fractions, 1 for the group itself.

    ``harder`` is the level of the mean's interval where it is above the ranking's, else 0.
    """

    name: str
    observations: tuple[Observation, ...]
    summary: Summary
    letters: str
    of_best: Ratio | None
    of_reference: Ratio | None
    harder: float = 0.0


@dataclass(frozen=True)
class Ranking:
    """Rows best first, all pairs, and the sets that do not differ significantly (row numbers)."""

    rows: tuple[Row, ...]
    pairs: tuple[Pair, ...]
    sets: tuple[frozenset[int], ...]
    confidence: float
    reference: str | None

    @property
    def each(self) -> float:
        """The confidence of each pair, so that all hold together: for what is picked by its place."""
        return each_of(max((p.family for p in self.pairs), default=1), self.confidence)

    def pair(self, first: int, second: int) -> Pair:
        """The comparison of two rows, either way round."""
        return self._by_rows[min(first, second), max(first, second)]

    def apart(self, first: int, second: int) -> bool:
        """Whether two rows differ significantly at the family-wise confidence."""
        p = self.pair(first, second)
        return p.basis != "none" and p.p < 1 - self.confidence

    @cached_property
    def _by_rows(self) -> dict[tuple[int, int], Pair]:
        return {(min(p.first, p.second), max(p.first, p.second)): p for p in self.pairs}


def rank(
    groups: Mapping[str, Sequence[Observation]],
    reference: str | None = None,
    better: str = "higher",
    confidence: float = 0.95,
    rounding: Mapping[str, float] | None = None,
    ordinal: bool = False,
    rigs: Rigs | None = None,
) -> Ranking:
    """Rank groups by their mean, best first.

    Parameters: observations by group name, in one unit; ``reference`` a group name for the
    percentages; ``better`` is ``higher`` or ``lower``; ``confidence`` of intervals and family;
    ``rounding`` by group as in :func:`summarise`. The interval of a percentage of the best allows
    for the best having been picked: it is one of all pairs at once. ``ordinal`` says that the values
    are places on a scale of words: sorted by their mean place, compared by rank, without intervals.
    With ``rigs``, what the calibrations of rigs that two groups do not share leave between them enters
    their difference (:class:`Rigs`).
    Where some were stopped at a load they held, two or three that all broke are the weak ones of
    their kind, and their mean's interval is taken at half the risk (97.5 for 95 %): at the plain
    level it holds the truth in 86 to 93 % only (``./brunt verify``).

    Raises :class:`InputError` when the reference is not a group or a group is empty.
    Source of the parts: :func:`summarise`, :func:`compare_all`, :func:`letter_sets`,
    :func:`ratio_of_means`.

    >>> O = Observation.exact
    >>> r = rank({"A": [O(1.), O(1.1), O(0.9)], "B": [O(2.), O(2.1), O(1.9)]}, reference="A")
    >>> [(row.name, row.letters, round(row.of_reference.value, 2)) for row in r.rows]
    [('B', 'a', 2.0), ('A', 'b', 1.0)]
    """
    if reference is not None and reference not in groups:
        raise InputError(
            f"“{reference}” is not one of the groups: {', '.join(groups)}.", "reference"
        )
    steps = rounding or {}
    cut = any(o.upper is None for values in groups.values() for o in values)
    levels = {name: _level(values, cut, confidence) for name, values in groups.items()}
    summaries = {
        name: summarise(values, levels[name], steps.get(name, 0.0))
        for name, values in groups.items()
        if values
    }
    order = sorted(summaries, key=lambda name: _rank_key(summaries[name], better))
    ordered = [summaries[name] for name in order]
    if ordinal:
        ordered = [replace(s, standard_error=None, df=None, low=None, high=None) for s in ordered]
        summaries = dict(zip(order, ordered, strict=True))
    pairs = (
        compare_ranks([[o.anchor for o in groups[name]] for name in order])
        if ordinal
        else compare_all(ordered, between(order, ordered, rigs))
    )
    different = different_pairs(pairs, confidence)
    sets = tuple(letter_sets(len(order), different))
    marks = letters_of(len(order), sets)
    picked = each_of(max((p.family for p in pairs), default=1), confidence)
    rows = tuple(
        Row(
            name,
            tuple(groups[name]),
            summaries[name],
            marks[i],
            None if ordinal else _ratio(name, order[0], summaries, picked, rigs),
            None if ordinal else _ratio(name, reference, summaries, confidence, rigs),
            harder=0.0 if ordinal or levels[name] == confidence else levels[name],
        )
        for i, name in enumerate(order)
    )
    return Ranking(rows, tuple(pairs), sets, confidence, reference)


def between(order: Sequence[str], summaries: Sequence[Summary], rigs: Rigs | None) -> Any:
    """The standard uncertainty of each pair's difference from unlike rigs, in the unit of the means.

    >>> from brunt_core.statistics.summaries import summarise
    >>> two = [summarise([Observation.exact(v) for v in (99.0, 101.0)])] * 2
    >>> between(["A", "B"], two, Rigs({"A": {1: 1.0}, "B": {2: 1.0}}, {1: 0.01}))
    [1.0]
    """
    if rigs is None or len(set(map(str, rigs.shares.values()))) < 2:
        return 0.0
    return [
        rigs.of_difference(order[i], order[j]) * (abs(one.mean) + abs(other.mean)) / 2
        for i, one in enumerate(summaries)
        for j, other in enumerate(summaries[i + 1 :], i + 1)
    ]


def _level(values: Sequence[Observation], cut: bool, confidence: float) -> float:
    """The level of one mean's interval, harder on few that broke where others held."""
    weak = cut and 2 <= len(values) <= 3 and all(o.upper is not None for o in values)
    return (1 + confidence) / 2 if weak else confidence


def with_calibration(ranking: Ranking, relative: float | Mapping[str, float]) -> Ranking:
    """The ranking with the rig's calibration in the intervals of its means, and nowhere else.

    Parameters: ``relative`` the standard uncertainty of the rig's calibration as a share of what it
    reads, or of each group's rigs by its name. All specimens of one rig share its error: it widens what is known of each mean,
    half-widths in quadrature, (t·s/√n)² + (1.96·relative·mean)², and falls out of their
    differences, whose p and order stay. (Welch–Satterthwaite degrees of freedom for the sum would
    make the interval of few specimens narrower than without the calibration.)
    Source: JCGM 100:2008 (GUM) 5.1.2; the half-widths in quadrature are common practice.

    >>> O = Observation.exact
    >>> plain = rank({"A": [O(10.0), O(10.2), O(9.8)], "B": [O(5.0), O(5.1), O(4.9)]})
    >>> wide = with_calibration(plain, 0.02)
    >>> plain.rows[0].summary.high < wide.rows[0].summary.high, plain.pairs == wide.pairs
    (True, True)
    """
    known = relative if isinstance(relative, Mapping) else dict.fromkeys((r.name for r in ranking.rows), relative)  # fmt: skip
    rows = tuple(
        replace(r, summary=_calibrated(r.summary, known.get(r.name, 0.0), ranking.confidence))
        for r in ranking.rows
    )
    return replace(ranking, rows=rows)


def _calibrated(summary: Summary, relative: float, confidence: float) -> Summary:
    """One mean's interval, each side grown by what the calibration adds."""
    s = summary
    if relative <= 0 or not s.standard_error or not s.df or s.low is None or s.high is None:
        return s
    level = (1 + confidence) / 2
    own = t_quantile(level, s.df) * s.standard_error
    grown = hypot(own, t_quantile(level, 1e9) * relative * s.mean) / own
    low = s.mean - (s.mean - s.low) * grown
    return replace(
        s,
        low=max(low, 0.0) if s.low >= 0 < s.mean else low,
        high=s.mean + (s.high - s.mean) * grown,
    )


def leader(groups: Mapping[str, Sequence[Observation]], better: str = "higher") -> str:
    """Which group :func:`rank` puts first; empty for none with a reading.

    >>> leader({"A": [Observation.exact(1.0)], "B": [Observation.exact(2.0)], "C": []})
    'B'
    """
    told = {name: summarise(values) for name, values in groups.items() if values}
    return min(told, key=lambda name: _rank_key(told[name], better), default="")


def _rank_key(summary: Summary, better: str) -> tuple[int, float]:
    """The better mean first; a bare bound on the bad side (it failed) behind all that is known."""
    bad = LOWER_BOUND if better == "lower" else UPPER_BOUND
    place = 2 if isnan(summary.mean) else int(summary.estimate == bad)
    return place, summary.mean if better == "lower" else -summary.mean


def _ratio(
    one: str,
    other: str | None,
    summaries: Mapping[str, Summary],
    confidence: float,
    rigs: Rigs | None,
) -> Ratio | None:
    if other is None:
        return None
    if one == other:
        return Ratio(1.0, 1.0, 1.0)
    top, bottom = summaries[one], summaries.get(other)
    if bottom is None or not bottom.mean or isnan(bottom.mean) or isnan(top.mean):
        return None
    found = ratio_of_means(top, bottom, confidence)
    return widened(found, rigs.of_difference(one, other), confidence) if rigs else found
