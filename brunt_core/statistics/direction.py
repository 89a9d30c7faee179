"""Upright over flat: one ratio for each condition, ranked with its interval."""

from collections.abc import Mapping, Sequence
from math import sqrt

from brunt_core.observations import Observation
from brunt_core.statistics.comparisons import compare_all, different_pairs
from brunt_core.statistics.letters import letter_sets, letters_of
from brunt_core.statistics.ranking import Ranking, Row, between, with_calibration
from brunt_core.statistics.ratios import Ratio, ratio_of_means
from brunt_core.statistics.rigs import Rigs
from brunt_core.statistics.summaries import MEAN, Summary, summarise


def rank_ratios(
    top: Mapping[str, Sequence[Observation]],
    bottom: Mapping[str, Sequence[Observation]],
    confidence: float = 0.95,
    rigs: Rigs | None = None,
) -> Ranking:
    """Rank the ratio of means top ÷ bottom of each group that has both.

    The interval of each is Fieller's. Two ratios are compared by their first-order standard
    errors, u(θ)² = (u_a² + θ²u_b²)/b² (JCGM 100 5.1), with Welch–Satterthwaite degrees of freedom,
    in the same family-wise way as means. The dots are top readings over the bottom mean.
    ``rigs`` are those of the quotients (:func:`brunt_core.statistics.rigs.quotients`): what they leave in
    each widens it (:func:`with_calibration`), what two quotients do not share their difference.

    >>> O = Observation.exact
    >>> r = rank_ratios({"A": [O(28.), O(30.), O(26.), O(31.), O(25.)]},
    ...                 {"A": [O(48.), O(50.), O(51.), O(47.), O(49.)]})
    >>> round(r.rows[0].summary.mean, 4), round(r.rows[0].summary.low, 4)
    (0.5714, 0.5087)
    """
    ratios = {
        name: _summary(
            summarise(top[name], confidence), summarise(bottom[name], confidence), confidence
        )
        for name in top
        if top[name] and bottom.get(name)
    }
    kept = {name: pair for name, pair in ratios.items() if pair is not None}
    order = sorted(kept, key=lambda name: -kept[name][0].mean)
    summaries = [kept[name][0] for name in order]
    pairs = compare_all(summaries, between=between(order, summaries, rigs))
    different = different_pairs(pairs, confidence)
    sets = tuple(letter_sets(len(order), different))
    marks = letters_of(len(order), sets)
    rows = tuple(
        Row(
            name,
            tuple(o.scaled(1 / kept[name][1]) for o in top[name]),
            kept[name][0],
            marks[i],
            None,
            None,
        )
        for i, name in enumerate(order)
    )
    found = Ranking(rows, tuple(pairs), sets, confidence, None)
    return with_calibration(found, {n: rigs.of_mean(n) for n in order}) if rigs else found


def _summary(top: Summary, bottom: Summary, confidence: float) -> tuple[Summary, float] | None:
    if not bottom.mean > 0 or not top.mean > 0:
        return None
    ratio: Ratio = ratio_of_means(top, bottom, confidence)
    n, bounded = min(top.n, bottom.n), top.n_bounded + bottom.n_bounded
    if top.standard_error is None or bottom.standard_error is None or ratio.df is None:
        estimate = {"≥": "lower_bound", "≤": "upper_bound", "?": "nothing", "": "single"}[
            ratio.sign
        ]
        return Summary(n, bounded, estimate, ratio.value), bottom.mean
    error = sqrt(top.standard_error**2 + ratio.value**2 * bottom.standard_error**2) / bottom.mean
    estimate = MEAN if not bounded else "censored_mean"
    return Summary(
        n,
        bounded,
        estimate,
        mean=ratio.value,
        sd=None,
        standard_error=error,
        df=ratio.df,
        low=ratio.low,
        high=ratio.high,
    ), bottom.mean
