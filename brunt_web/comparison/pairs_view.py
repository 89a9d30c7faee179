"""Pairs: control beside treated, flat beside upright: where each began, where it went, by what factor."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from brunt_core.quantities.rendering import count_of, number
from brunt_core.statistics.comparisons import each_of
from brunt_core.statistics.ratios import Ratio, ratio_of_means, widened
from brunt_core.statistics.rigs import quotients
from brunt_core.statistics.summaries import Summary, summarise
from brunt_web.campaigns.models import Condition, Factor
from brunt_web.comparison.queries import ComparedGroup
from brunt_web.comparison.strips import Mark, Strip, strip_marks
from brunt_web.comparison.switches import upright_and_flat
from brunt_web.interface.scale import scale_for

WIDE, PAD, HIGH = 560.0, 18.0, 54.0


@dataclass
class PairRow:
    """One row: two groups on one scale, the way from the first to the second, its factor in words."""

    name: str
    first: str
    second: str
    below: list[Mark]
    above: list[Mark]
    way: tuple[float, float] | None
    rising: bool
    ratio: str
    interval: str
    verdict: str
    note: str = ""


@dataclass
class PairsView:
    """All rows, the words of both ends, the scale."""

    rows: list[PairRow] = field(default_factory=list)
    ticks: tuple[tuple[float, str], ...] = ()
    unit: str = ""
    headline: str = ""
    title: str = ""
    why_not: str = ""


# What a row is called, what its two are, they themselves, and what unlike rigs leave in their quotient.
Both = tuple[str, str, str, ComparedGroup, ComparedGroup, float]


def by_factor(
    strip: Strip, conditions: Sequence[Condition], factors: Sequence[Factor], wanted: int | None
) -> PairsView:
    """Every other level of a factor beside its first, all else alike."""
    if not factors:
        return PairsView(
            why_not="A paired comparison needs a factor with two levels or more; this campaign has none."
        )
    usual = next((f for f in factors if f.kind in ("treatment", "condition", "age")), factors[0])
    factor = next((f for f in factors if f.pk == wanted), usual)
    levels = [lv.label for lv in factor.levels.all()]
    own: dict[tuple[str, ...], dict[str, Condition]] = {}
    for c in conditions:
        words = {lv.factor_id: lv.label for lv in c.levels.all()}
        if factor.pk in words:
            rest = tuple(w for f, w in sorted(words.items()) if f != factor.pk)
            own.setdefault(rest, {})[words[factor.pk]] = c
    both: list[Both] = []
    for rest, at in own.items():
        control = at.get(levels[0])
        for level in levels[1:]:
            other = at.get(level)
            if control and other and control.pk in strip.groups and other.pk in strip.groups:
                name = ", ".join(rest) or strip.title
                rigs = strip.rigs.of_difference(str(control.pk), str(other.pk))
                pair = strip.groups[control.pk], strip.groups[other.pk]
                both.append((name, levels[0], level, *pair, rigs))
    view = _drawn(both, strip)
    view.title = f"{factor.name}: compared with {levels[0]}"
    return view


def by_direction(strips: Sequence[Strip], conditions: Sequence[Condition]) -> PairsView:
    """Flat beside upright, each condition a row."""
    pair = upright_and_flat([s.procedure for s in strips])
    if pair is None:
        return PairsView(
            why_not="Anisotropy needs one method tested flat and upright, or tension flat and layer adhesion."
        )
    top = next(s for s in strips if s.procedure == pair[0])
    flat = next(s for s in strips if s.procedure == pair[1])
    rigs = quotients(top.rigs, flat.rigs)
    both: list[Both] = [
        (top.names.get(c.pk, str(c)), "flat", "upright", flat.groups[c.pk], top.groups[c.pk], rigs.of_mean(str(c.pk)))
        for c in conditions
        if c.pk in flat.groups and c.pk in top.groups
    ]  # fmt: skip
    view = _drawn(both, top)
    view.title = f"{top.title} beside {flat.title.lower()}"
    return view


def _drawn(both: Sequence[Both], strip: Strip) -> PairsView:
    told = [b for b in both if b[3].values or b[4].values]
    values = [o.anchor for *_, a, b, _ in told for g in (a, b) for o in g.values]
    if not values:
        return PairsView(why_not="None of these pairs has been tested yet.")
    scale = scale_for(values, WIDE, PAD, 7)
    ready = [b for b in told if b[3].values and b[4].values]
    level = each_of(max(len(ready), 1), strip.confidence)
    view = PairsView(ticks=scale.ticks, unit=strip.prop.unit)
    tally = {"better": 0, "worse": 0, "not significantly different": 0, "not tested enough": 0}
    for name, first, second, a, b, unlike in told:
        pair = _pair(name, first, second, a=a, b=b, unlike=unlike, x=scale.x, level=level, strip=strip)  # fmt: skip
        view.rows.append(pair)
        if pair.verdict in tally:
            tally[pair.verdict] += 1
    told_so = [(n, word) for word, n in tally.items() if n]
    if not told_so:
        view.headline = "No pair is complete yet."
    elif len(ready) == 1:
        view.headline = f"One pair: {told_so[0][1]}."
    else:
        words = ", ".join(f"{n} {word}" for n, word in told_so)
        view.headline = f"Of {count_of(len(ready), 'pair')}: {words}."
    return view


def _pair(
    name: str,
    first: str,
    second: str,
    a: ComparedGroup,
    b: ComparedGroup,
    unlike: float,
    x: Callable[[float], float],
    level: float,
    strip: Strip,
) -> PairRow:
    one, other = _summary(a), _summary(b)
    pair = PairRow(
        name, first, second, strip_marks(a, x), strip_marks(b, x), None, rising=False, ratio="", interval="", verdict=""
    )  # fmt: skip
    if one is None or other is None:
        pair.note = f"{first if one is None else second}: not tested"
        return pair
    if one.mean != one.mean or other.mean != other.mean:
        pair.note = "only bounds on both sides"
        return pair
    pair.way, pair.rising = (x(one.mean), x(other.mean)), other.mean >= one.mean
    if strip.prop.ordinal or strip.prop.dimension == "temperature" or not one.mean:
        pair.ratio = f"{number(other.mean - one.mean, '+.3g')} {strip.prop.unit}".replace("-", "−")
        return pair
    ratio = widened(ratio_of_means(other, one, level), unlike, level)
    pair.ratio = f"× {ratio.sign} {number(ratio.value, '.2f')}".replace("  ", " ")
    if ratio.low is not None and ratio.high is not None:
        pair.interval = f"{number(ratio.low, '.2f')} – {number(ratio.high, '.2f')}"
    pair.verdict = _verdict(ratio, strip.lower)
    return pair


def _summary(group: ComparedGroup) -> Summary | None:
    return summarise(group.values, rounding=group.rounding) if group.values else None


def _verdict(ratio: Ratio, lower: bool) -> str:
    if ratio.low is None or ratio.high is None:
        return "" if ratio.sign else "not tested enough"
    if ratio.low <= 1 <= ratio.high:
        return "not significantly different"
    return "better" if (ratio.low > 1) != lower else "worse"
