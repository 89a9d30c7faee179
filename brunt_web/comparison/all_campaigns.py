"""All campaigns: every condition of every campaign that may stand in one ranking, family by family."""

from collections import defaultdict
from dataclasses import dataclass, field, replace
from datetime import date

from django.db.models import Count, Q
from django.utils import timezone

from brunt_core.comparability import comparability_key
from brunt_core.observations import Observation
from brunt_core.planning.deviations import speed_words
from brunt_core.plausibility.bands import FAMILIES
from brunt_core.properties import Property
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import figures, number
from brunt_core.statistics.ranking import Ranking, rank
from brunt_web.campaigns.models import Condition, geometry_asked
from brunt_web.checks.queries import LevelChange, changes_for
from brunt_web.comparison.normalising import load_of
from brunt_web.interface.scale import Scale, scale_for
from brunt_web.library.models import Procedure
from brunt_web.people.models import Workshop
from brunt_web.results.reading import counted_rows
from brunt_web.testing.rigs import rigs_named

WIDE, PAD = 420.0, 12.0


@dataclass
class Series:
    """One comparability key: how it is called, how many specimens and campaigns it has."""

    key: str
    title: str
    measured: str
    count: int
    campaigns: int

    @property
    def agree(self) -> str:
        """What all of it agrees on, without the property."""
        return self.key.split(" · ", 1)[-1]


@dataclass
class RankedCondition:
    """One condition of one campaign in the all campaigns."""

    place: int
    name: str
    campaign: int
    condition: int
    question: str
    count: str
    value: str
    interval: str
    bar: tuple[float, float] | None
    mean: float | None
    dots: list[tuple[float, str, str]]
    letters: str
    when: str
    ceiling: float | None = None
    limited: str = ""
    shifted: str = ""


@dataclass
class FamilySpread:
    """A family, or its filled ones, with the spread of its means."""

    title: str
    entries: list[RankedCondition]
    spread: tuple[float, float] | None
    words: str


@dataclass
class AllCampaigns:
    """Everything shown."""

    series: list[Series]
    chosen: Series | None
    families: list[FamilySpread]
    ticks: tuple[tuple[float, str], ...]
    unit: str
    limit: str = ""
    changes: list[str] = field(default_factory=list)


def all_campaigns_of(workshop: Workshop, wanted: str = "") -> AllCampaigns:
    """The rows of one series: the one asked for, else the one with most campaigns."""
    counts = (
        counted_rows(
            Q(turn__campaign__workshop=workshop, turn__campaign__archived_at__isnull=True),
            *("turn__procedure_id", "property_key", "turn__speed", "turn__conditioning"),
        )
        .annotate(n=Count("id"), campaigns=Count("turn__campaign", distinct=True))
    )  # fmt: skip
    procedures = Procedure.objects.select_related("rig", "variant").in_bulk({c[0] for c in counts})
    found: dict[str, Series] = {}
    members: dict[str, list[tuple]] = defaultdict(list)
    for pk, prop, speed, state, n, campaigns in counts:
        procedure = procedures[pk]
        if prop != procedure.ranked_property.key or procedure.ranked_property.ordinal:
            continue
        facts = replace(
            procedure.facts, speed=speed_words(speed) if speed else procedure.facts.speed
        )
        if state:
            facts = replace(facts, conditioning=state)
        key = f"{prop} · {comparability_key(facts)}"
        name = procedure.ranked_property.name
        one = found.setdefault(key, Series(key, str(procedure), name, 0, 0))
        one.count, one.campaigns = one.count + n, max(one.campaigns, campaigns)
        members[key].append((pk, prop, speed, state))
    series = sorted(found.values(), key=lambda s: (-s.campaigns, -s.count, s.key))
    chosen = found.get(wanted) or next(iter(series), None)
    if chosen is None:
        return AllCampaigns([], None, [], (), "")
    procedure = procedures[members[chosen.key][0][0]]
    return _filled(series, chosen, procedure, members[chosen.key], workshop)


def _filled(
    series: list[Series],
    chosen: Series,
    procedure: Procedure,
    members: list[tuple],
    workshop: Workshop,
) -> AllCampaigns:
    prop = procedure.ranked_property
    kept, days, used, on = _readings(procedure, members, workshop)
    dates = {pk: f"{last:%Y-%m}" for pk, (_, last) in days.items()}
    rigs = _ceilings(used, conditions := _conditions(kept), prop)
    named = {str(pk): [o for _, o in own] for pk, own in kept.items()}
    ranking = rank(named, None, prop.better, rigs=rigs_named(on, procedure, prop))
    ends = [v for r in ranking.rows for v in (r.summary.low, r.summary.high) if v is not None]
    values = [o.anchor for own in kept.values() for _, o in own]
    span = (max(values) - min(values)) or abs(max(values)) or 1.0
    ends = [min(max(v, min(values) - span / 3), max(values) + span / 3) for v in ends]
    scale = scale_for([*values, *ends], WIDE, PAD, 7)
    families = _families(ranking, conditions, kept, dates, scale)
    _mark_limits(families, conditions, rigs, prop, scale)
    changes = changes_for(workshop, [procedure])
    _mark_changes(families, changes, days)
    return AllCampaigns(
        series,
        chosen,
        [_spread(title, own, scale.x) for title, own in families.items()],
        scale.ticks,
        prop.unit,
        limit=_limit(procedure),
        changes=[c.words for c in changes],
    )


def _mark_changes(
    families: dict[str, list[tuple[RankedCondition, float]]],
    changes: list[LevelChange],
    days: dict[int, tuple[date, date]],
) -> None:
    """Mark what was tested before a check standard's level changed, where others were tested after."""
    for change in changes:
        if not any(last >= change.on for _, last in days.values()):
            continue
        for own in families.values():
            for entry, _ in own:
                first, last = days.get(entry.condition, (date.max, date.max))
                if first <= change.before:
                    part = "" if last <= change.before else "partly "
                    by = f"{number(abs(change.by) * 100, '.2g')} % {'up' if change.by > 0 else 'down'}"
                    entry.shifted = f"{part}before the check standard shifted {by}"


def _conditions(kept: dict[int, list]) -> dict[int, Condition]:
    return Condition.objects.select_related("material", "campaign").in_bulk(list(kept))


def _ceilings(
    used: dict[int, set[int]], conditions: dict[int, Condition], prop: Property
) -> dict[int, tuple[float, str]]:
    """The most that could be read of each condition, in the property's unit, with the rig's name."""
    procedures = Procedure.objects.select_related("rig", "variant").in_bulk(
        {p for own in used.values() for p in own}
    )
    found = {}
    for pk, own in used.items():
        tops = [top for p in own if (top := _ceiling(procedures[p], conditions[pk], prop))]
        if tops:
            found[pk] = max(tops)
    return found


def _ceiling(
    procedure: Procedure, condition: Condition, prop: Property
) -> tuple[float, str] | None:
    """What the rig's capacity comes to in the property, where that follows from its load alone."""
    rig = procedure.rig
    if rig is None or not rig.capacity:
        return None
    value = rig.capacity
    if load_of(procedure, prop.key) and rig.dimension == "force":
        value /= geometry_asked(condition, procedure).area * 1e-6
    elif rig.dimension != prop.dimension:
        return None
    return in_unit(value, prop.dimension, prop.unit), rig.name


def _mark_limits(
    families: dict[str, list[tuple[RankedCondition, float]]],
    conditions: dict[int, Condition],
    ceilings: dict[int, tuple[float, str]],
    prop: Property,
    scale: Scale,
) -> None:
    """Mark what was tested on a rig that ends lower than that of others: it could not have been better."""
    if not ceilings or prop.better == "lower":
        return
    top = max(value for value, _ in ceilings.values())
    for own in families.values():
        for entry, _ in own:
            value, rig = ceilings.get(entry.condition, (top, ""))
            if value < top * 0.99:
                at = scale.x(value)
                entry.ceiling = at if 0 <= at <= WIDE else None
                entry.limited = f"{rig} reads to {figures(value)} {prop.unit}"


def _readings(
    procedure: Procedure, members: list[tuple], workshop: Workshop
) -> tuple[dict[int, list], dict[int, tuple[date, date]], dict[int, set[int]], dict[str, list]]:
    """Readings by condition, in the property's unit, its first and last day, its procedures, its rigs."""
    prop = procedure.ranked_property
    rows = counted_rows(
        Q(
            turn__campaign__workshop=workshop,
            turn__campaign__archived_at__isnull=True,
            property_key=prop.key,
            turn__procedure__in={m[0] for m in members},
        ),
        *("turn__condition_id", "turn__specimen__code", "lower", "upper"),
        *("turn__procedure_id", "property_key", "turn__speed", "turn__conditioning"),
        *("turn__tested_at", "turn__rig_id", "turn__procedure__rig_id"),
    )
    kept: dict[int, list] = defaultdict(list)
    days: dict[int, tuple[date, date]] = {}
    used: dict[int, set[int]] = defaultdict(set)
    on: dict[str, list[int | None]] = defaultdict(list)
    allowed = set(members)
    for condition, code, low, high, *fact, at, own, usual in rows:
        if tuple(fact) in allowed:
            seen = Observation(low, high).through(lambda v: in_unit(v, prop.dimension, prop.unit))
            kept[condition].append((code, seen))
            used[condition].add(int(str(fact[0])))
            on[str(condition)].append(own or usual)
            if at:
                day = timezone.localtime(at).date()
                first, last = days.get(condition, (day, day))
                days[condition] = (min(first, day), max(last, day))
    return kept, days, used, on


def _families(
    ranking: Ranking,
    conditions: dict[int, Condition],
    kept: dict[int, list],
    dates: dict[int, str],
    scale: Scale,
) -> dict[str, list[tuple[RankedCondition, float]]]:
    families: dict[str, list[tuple[RankedCondition, float]]] = defaultdict(list)
    for i, row in enumerate(ranking.rows, 1):
        c, s = conditions[int(row.name)], row.summary
        bar = None
        if s.low is not None and s.high is not None:
            bar = (scale.x(s.low), round(max(scale.x(s.high) - scale.x(s.low), 1.0), 1))
        known = s.mean == s.mean
        entry = RankedCondition(
            i,
            str(c),
            c.campaign_id,
            c.pk,
            question=c.campaign.question,
            count=str(s.n) + (f" · {s.n_bounded} bounds" if s.n_bounded else ""),
            value=f"{s.sign} {figures(s.mean)}".strip() if known else "–",
            interval=f"{figures(s.low)} – {figures(s.high)}"
            if s.low is not None and s.high is not None
            else "",
            bar=bar,
            mean=scale.x(s.mean) if known else None,
            dots=[(scale.x(o.anchor), o.kind, code) for code, o in kept[c.pk]],
            letters=row.letters,
            when=dates.get(c.pk, ""),
        )
        families[_family(c)].append((entry, s.mean))
    return families


def _family(condition: Condition) -> str:
    material = condition.material
    if material is None:
        return "No material named"
    name = FAMILIES[material.family].name if material.family in FAMILIES else material.family
    filled = bool(material.filler) and not material.family.endswith("-cf")
    return f"{name}, filled" if filled else name


def _spread(title: str, own: list[tuple[RankedCondition, float]], x: object) -> FamilySpread:
    means = [m for _, m in own if m == m]
    if len(means) < 2:
        return FamilySpread(title, [e for e, _ in own], None, "one only" if means else "")
    low, high = min(means), max(means)
    at = (x(low), round(x(high) - x(low), 1))  # type: ignore[operator]
    ratio = f", {number(high / low, '.2f')} times" if low > 0 else ""
    return FamilySpread(
        title, [e for e, _ in own], at, f"means from {figures(low)} to {figures(high)}{ratio}"
    )


def _limit(procedure: Procedure) -> str:
    """What the rig can hold, where that limits what can be read."""
    rig = procedure.rig
    return (
        f"{rig.name} reaches its limit; specimens that did not fail there are only bounds."
        if rig
        else ""
    )
