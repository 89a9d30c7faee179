"""One property of one procedure over all conditions, with its ranking and scale: what every view draws."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from brunt_core.observations import Observation
from brunt_core.properties import Property
from brunt_core.quantities.rendering import figures
from brunt_core.statistics.enough import Enough
from brunt_core.statistics.ranking import Ranking, Row, rank
from brunt_core.statistics.rigs import Rigs
from brunt_core.statistics.summaries import Summary
from brunt_web.campaigns.addresses import specimen_address
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.comparison.normalising import named
from brunt_web.comparison.page import Page
from brunt_web.comparison.queries import ComparedGroup, groups_of
from brunt_web.interface.scale import Scale, scale_for
from brunt_web.library.models import Procedure
from brunt_web.testing.enough import pairs_in_order
from brunt_web.testing.rigs import rig_shares_of_groups


@dataclass(frozen=True)
class Mark:
    """One specimen: where it lies along the scale, in which lane, what it is."""

    x: float
    lane: int
    kind: str
    title: str
    href: str
    y: float = 0.0


@dataclass
class Strip:
    """A property with the groups that are ranked by it; ``aside`` those that ended in another way."""

    key: str
    procedure: Procedure
    prop: Property
    groups: dict[int, ComparedGroup]
    aside: dict[int, ComparedGroup]
    confidence: float
    names: Mapping[int, str]

    @property
    def title(self) -> str:
        """The procedure, with the property where it is not the one it is ranked by."""
        ranked = self.prop.name == self.procedure.ranked_property.name
        return str(self.procedure) if ranked else f"{self.procedure}: {self.prop.name.lower()}"

    @property
    def lower(self) -> bool:
        """Whether less is better."""
        return self.prop.better == "lower"

    @cached_property
    def rigs(self) -> Rigs:
        """On which rigs they were tested."""
        return rig_shares_of_groups(
            self.procedure, self.prop, {str(k): g.found for k, g in self.groups.items()}
        )

    @cached_property
    def ranking(self) -> Ranking:
        """The conditions with results, best first, by their key."""
        named = {str(pk): g for pk, g in self.groups.items() if g.values}
        return rank(
            {k: g.values for k, g in named.items()},
            None,
            self.prop.better,
            self.confidence,
            {k: g.rounding for k, g in named.items()},
            self.prop.ordinal,
            rigs=self.rigs,
        )

    @cached_property
    def places(self) -> dict[int, int]:
        """The row of each condition in the ranking."""
        return {int(r.name): i for i, r in enumerate(self.ranking.rows)}

    def row(self, condition: int) -> Row | None:
        """One condition's row."""
        place = self.places.get(condition)
        return None if place is None else self.ranking.rows[place]

    def summary(self, condition: int) -> Summary | None:
        """One condition's summary."""
        row = self.row(condition)
        return row.summary if row else None

    def alike(self, one: int, other: int) -> bool:
        """Whether two conditions do not differ significantly; not for one that was not tested."""
        a, b = self.places.get(one), self.places.get(other)
        if a is None or b is None:
            return False
        return a == b or not self.ranking.apart(a, b)

    @property
    def leaders(self) -> list[int]:
        """The best condition and all that do not differ significantly from it."""
        if not self.ranking.rows:
            return []
        best = int(self.ranking.rows[0].name)
        return [pk for pk in self.places if self.alike(best, pk)]

    @cached_property
    def enough(self) -> Enough | None:
        """What is settled; nothing for places on a scale of words, or for very many conditions."""
        if self.prop.ordinal:
            return None
        named = {str(pk): g for pk, g in self.groups.items()}
        waiting = {k: g.waiting for k, g in named.items()}
        return pairs_in_order(
            {k: g.found for k, g in named.items()}, waiting, self.confidence, self.rigs
        )

    def scale(self, width: float, pad: float, steps: int = 4) -> Scale:
        """A scale over everything drawn."""
        values = [o.anchor for g in (*self.groups.values(), *self.aside.values()) for o in g.values]
        for r in self.ranking.rows:
            values += [v for v in (r.summary.low, r.summary.high) if v is not None]
        core = [o.anchor for g in self.groups.values() for o in g.values] or [0.0, 1.0]
        span = (max(core) - min(core)) or abs(max(core)) or 1.0
        kept = [min(max(v, min(core) - span / 2), max(core) + span / 2) for v in values]
        return scale_for(kept or [0.0, 1.0], width, pad, steps)


def strips_of(
    campaign: Campaign,
    procedures: Sequence[Procedure],
    conditions: Sequence[Condition],
    also: Mapping[int, Sequence[str]] | None = None,
    by: str = "",
) -> tuple[list[Strip], dict[int, set[str]]]:
    """A strip for each procedure by its ranked property, then those asked for besides; what was measured.

    ``also`` names more properties by procedure; ``by`` what values are normalised by.
    """
    found = groups_of(campaign, list(procedures), list(conditions), by=by)
    names = short_names(conditions)
    strips = [
        _strip(campaign, p, named(p, p.ranked_property, by), found.by_procedure[p.pk], names)
        for p in procedures
    ]
    asked = {
        p.pk: [k for k in (also or {}).get(p.pk, ()) if k in found.measured[p.pk]]
        for p in procedures
    }
    for nth in range(max(map(len, asked.values()), default=0)):
        wanted = {pk: keys[nth] for pk, keys in asked.items() if len(keys) > nth}
        more = groups_of(campaign, list(procedures), list(conditions), wanted, by)
        for p in procedures:
            if wanted.get(p.pk, p.ranked_property.key) != p.ranked_property.key:
                prop = named(p, p.property_called(wanted[p.pk]), by)
                strips.append(_strip(campaign, p, prop, more.by_procedure[p.pk], names))
    return strips, found.measured


def _strip(
    campaign: Campaign,
    procedure: Procedure,
    prop: Property,
    groups: dict[int, ComparedGroup],
    names: Mapping[int, str],
) -> Strip:
    """Where unlike breaks are never averaged, those that ended as most did are ranked."""
    ends = [g.outcomes[0] for g in groups.values() if g.outcomes]
    main = max(ends, key=ends.count, default="") if procedure.method.apart else ""
    own = {pk: g for pk, g in groups.items() if not main or not g.outcomes or g.outcomes[0] == main}
    aside = {pk: g for pk, g in groups.items() if pk not in own}
    key = f"{procedure.pk}.{prop.key}"
    return Strip(
        key, procedure, prop, groups=own, aside=aside, confidence=campaign.confidence, names=names
    )


def strip_of(campaign: Campaign, page: Page) -> Strip:
    """What the ranking shows, as a strip: of a page that compares a property."""
    assert page.procedure is not None and page.compared is not None
    names = {g.condition.pk: str(g.condition) for g in page.groups}
    groups = {g.condition.pk: g for g in page.groups}
    key = f"{page.procedure.pk}.{page.compared.key}"
    return Strip(
        key,
        page.procedure,
        page.compared,
        groups,
        aside={},
        confidence=campaign.confidence,
        names=names,
    )


def short_names(conditions: Sequence[Condition]) -> dict[int, str]:
    """What differs in the name of each condition; what all have in common is excluded."""
    parts = {c.pk: _parts(c) for c in conditions}
    common = common_words(conditions)
    found = {}
    for c in conditions:
        rest = [p for p in parts[c.pk] if p not in common]
        found[c.pk] = ", ".join(rest) or str(c)
    return found if len(set(found.values())) == len(found) else {c.pk: str(c) for c in conditions}


def common_words(conditions: Sequence[Condition]) -> list[str]:
    """What the names of all conditions have in common; nothing of a single one."""
    if len(conditions) < 2:
        return []
    first, *rest = (_parts(c) for c in conditions)
    return [p for p in first if all(p in other for other in rest)]


def _parts(condition: Condition) -> list[str]:
    return [p.strip() for p in str(condition).split(",") if p.strip()]


def strip_marks(
    group: ComparedGroup, x: Callable[[float], float], near: float = 8.0, lanes: int = 3
) -> list[Mark]:
    """The specimens of a group: those that count in lanes, bounds apart, what is excluded struck."""
    placed: list[Mark] = []
    rows = sorted(zip(group.codes, group.values, strict=True), key=lambda r: r[1].anchor)
    for code, o in rows:
        at = round(x(o.anchor), 1)
        taken = {m.lane for m in placed if abs(m.x - at) < near}
        lane = next((i for i in range(lanes) if i not in taken), lanes - 1)
        placed.append(
            Mark(at, lane, o.kind, f"{code}: {signed_reading(o)}", specimen_address(code))
        )
    for code, o, why in [*group.excluded, *group.unlike]:
        placed.append(
            Mark(
                round(x(o.anchor), 1),
                0,
                "out",
                f"{code}: {signed_reading(o)}, excluded: {why}",
                specimen_address(code),
            )
        )
    return placed


def signed_reading(observation: Observation) -> str:
    """A reading with its sign."""
    sign = {"at_least": "≥ ", "at_most": "≤ ", "between": "between, about "}
    return sign.get(observation.kind, "") + figures(observation.anchor)
