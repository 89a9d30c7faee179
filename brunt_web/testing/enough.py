"""After each reading: is it enough? In a sentence at the bench, by the same judgement as Compare."""

from collections.abc import Mapping
from dataclasses import dataclass

from django.core.cache import cache
from django.db.models import Count, Q

from brunt_core.statistics.enough import Enough, enough
from brunt_core.statistics.rigs import Rigs
from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.library.models import Procedure
from brunt_web.results.reading import Group, grouped, samples
from brunt_web.testing.rigs import rig_shares_of_groups

MOST_PAIRS = 40
LATELY = 2


@dataclass(frozen=True)
class Standing:
    """What is settled under one procedure, in words."""

    words: str
    settled: bool


def pairs_in_order(
    groups: Mapping[str, Group],
    waiting: Mapping[str, int],
    confidence: float,
    rigs: Rigs | None = None,
) -> Enough | None:
    """All pairs judged in the order of the tests; nothing for one condition or for very many."""
    told = {k: g for k, g in groups.items() if g.counted or waiting.get(k)}
    if not 2 <= len(told) <= MOST_PAIRS:
        return None
    values = {k: g.in_time for k, g in told.items()}
    planned = {k: len(v) + waiting.get(k, 0) for k, v in values.items()}
    return enough(values, planned, confidence, {k: g.rounding for k, g in told.items()}, rigs=rigs)


def enough_in_words(found: Enough, names: Mapping[str, str]) -> str:
    """What is settled and what would still change, in a sentence or two; ``names`` by the groups' keys."""
    pairs = len(found.verdicts)
    settled = (
        f"{found.apart} of {pairs} comparisons are settled, however many more are tested."
        if pairs > 1
        else "The difference is settled, however many more are tested."
        if found.apart
        else "No significant difference yet."
    )
    if not found.open:
        return settled
    if found.settled:
        return f"{settled} The remaining tests are unlikely to separate any of the others."
    chances = [(v.chance, v) for v in found.open if v.chance is not None and v.chance >= 0.1]
    if not chances:
        few = sum(v.state == "few" for v in found.open)
        return f"{settled} {few} {'has' if few == 1 else 'have'} too few specimens for a forecast."
    chance, v = max(chances, key=lambda c: c[0])
    words = "over 99" if chance > 0.99 else f"{chance * 100:.0f}"
    one, other = names.get(v.first, v.first), names.get(v.second, v.second)
    said = f"{settled} {one} and {other} would become significantly different with the remaining tests, with {words} % chance."
    if found.next:
        step = found.next[0]
        said += f" Most useful: {step.more} more of {names.get(step.condition, step.condition)}."
    return said


def standing_of(campaign: Campaign, procedure: Procedure) -> Standing | None:
    """How the campaign stands under a procedure. Two queries; ``None`` where there is nothing to judge."""
    prop = procedure.ranked_property
    if prop.ordinal:
        return None
    where = Q(turn__campaign=campaign, turn__procedure=procedure)
    found = samples(where, {prop.key}, {procedure.pk: prop})
    groups = {str(c): g for (c, _), g in grouped(found, [procedure]).items()}
    rows = (
        Turn.objects.filter(campaign=campaign, procedure=procedure)
        .order_by()
        .values_list("condition_id", "condition__label", "condition__detail")
        .annotate(n=Count("id", filter=Q(state__in=("waiting", "running"))))
    )
    names, waiting = {}, {}
    for pk, label, detail, n in rows:
        names[str(pk)] = f"{label}, {detail}" if detail else label
        waiting[str(pk)] = n
    every = {k: groups.get(k, Group()) for k in names}
    told = pairs_in_order(
        every, waiting, campaign.confidence, rig_shares_of_groups(procedure, prop, every)
    )
    if told is None or not any(len(g.counted) > 1 for g in groups.values()):
        return None
    return Standing(enough_in_words(told, names), told.settled)


def standing_lately(campaign: Campaign, procedure: Procedure) -> Standing | None:
    """The same, at most :data:`LATELY` seconds old: of many who store at once not each asks for it again."""
    key = f"standing-{campaign.pk}-{procedure.pk}"
    known: tuple[Standing | None] | None = cache.get(key)
    if known is None:
        known = (standing_of(campaign, procedure),)
        cache.set(key, known, LATELY)
    return known[0]
