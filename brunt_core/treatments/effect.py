"""Treated against control: the ratio with its interval, and what can be said of it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from brunt_core.observations import Observation
from brunt_core.quantities.rendering import number
from brunt_core.statistics.ratios import Ratio, ratio_of_means
from brunt_core.statistics.summaries import Summary, summarise

STRONGER, WEAKER, OPEN, BOUND, UNTOLD = "more", "less", "open", "bound", "untold"


@dataclass(frozen=True)
class Effect:
    """A treated group against its control in one property.

    ``verdict`` is more, less, open (no significant difference), bound (only a bound is known) or untold (too
    few); ``good`` whether a told change is for the better, ``None`` where nothing is told.
    """

    ratio: Ratio | None
    treated: Summary
    control: Summary
    verdict: str
    good: bool | None
    words: str


def each_confidence(family: float, count: int) -> float:
    """The confidence of each of ``count`` comparisons with one control, so that all hold together.

    Šidák: family^(1/count). With one control in common the comparisons are positively correlated,
    and it errs on the careful side (C. W. Dunnett, JASA 50 (1955), would be a little shorter).

    >>> round(each_confidence(0.95, 2), 5), each_confidence(0.95, 1)
    (0.97468, 0.95)
    """
    return float(family ** (1 / max(count, 1)))


def treatment_effects(
    variants: Mapping[str, Sequence[Observation]],
    control: Sequence[Observation],
    better: str = "higher",
    confidence: float = 0.95,
    roundings: tuple[float, float] = (0.0, 0.0),
) -> dict[str, Effect]:
    """Each variant against one control, the error of all together held.

    Parameters: observations in one unit; ``better`` higher or lower; ``roundings`` of treated and
    control as in :func:`summarise`. The interval of each ratio is Fieller's
    (:func:`ratio_of_means`) at :func:`each_confidence`.

    >>> O = Observation.exact
    >>> e = treatment_effects({"80 °C": [O(v) for v in (60., 61., 59., 60.5)]},
    ...             [O(v) for v in (50., 51., 49., 50.5)])["80 °C"]
    >>> e.verdict, e.words
    ('more', 'higher by 17 to 23 %')
    """
    level = each_confidence(confidence, len(variants))
    base = summarise(control, confidence, roundings[1])
    return {
        name: _effect(summarise(seen, confidence, roundings[0]), base, better, level)
        for name, seen in variants.items()
    }


def _effect(treated: Summary, control: Summary, better: str, confidence: float) -> Effect:
    if not treated.n or not control.n or not control.mean > 0:
        return Effect(None, treated, control, UNTOLD, None, "not tested on both sides")
    ratio = ratio_of_means(treated, control, confidence)
    if ratio.low is None or ratio.high is None:
        return Effect(ratio, treated, control, *_without_interval(ratio))
    low, high = ((x - 1) * 100 for x in (ratio.low, ratio.high))
    if low > 0 or high < 0:
        more = low > 0
        ends = (low, high) if more else (-high, -low)
        word = "higher" if more else "lower"
        good = more == (better == "higher")
        words = f"{word} by {ends[0]:.0f} to {ends[1]:.0f} %"
        return Effect(ratio, treated, control, STRONGER if more else WEAKER, good, words)
    most = max(abs(low), abs(high))
    words = f"not significant: {number(low, '+.0f')} to {number(high, '+.0f')} %, so no change larger than {most:.0f} %"
    return Effect(ratio, treated, control, OPEN, None, words.replace("-", "−"))


def _without_interval(ratio: Ratio) -> tuple[str, bool | None, str]:
    if ratio.sign in ("≥", "≤"):
        most = "at least" if ratio.sign == "≥" else "at most"
        return BOUND, None, f"{most} {number(ratio.value, '.2f')} times, a bound: some did not fail"
    return UNTOLD, None, "too few: at least two of each are needed"


def in_a_sentence(found: Mapping[str, Effect]) -> str:
    """All properties of one treatment in a sentence: better in these, worse in those.

    Parameters: effects by the property's name.

    >>> in_a_sentence({})
    'Nothing was tested on both sides yet.'
    """
    tested = {k: e for k, e in found.items() if e.verdict != UNTOLD}
    if not tested:
        return "Nothing was tested on both sides yet."
    good = [k.lower() for k, e in tested.items() if e.good is True]
    bad = [k.lower() for k, e in tested.items() if e.good is False]
    open_ones = [k.lower() for k, e in tested.items() if e.good is None]
    parts = []
    if good:
        parts.append(f"Better in {_listed(good)}")
    if bad:
        parts.append(f"{'worse' if parts else 'Worse'} in {_listed(bad)}")
    if open_ones:
        no = "no significant change" if parts else "No significant change"
        parts.append(f"{no} in {_listed(open_ones)}")
    return ", ".join(parts) + "."


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
