"""All that was ever measured of one material: by procedure, by what was done to it, its lots side by side."""

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from django.db.models import Q

from brunt_core.comparability import comparability_key
from brunt_core.observations import Observation
from brunt_core.planning.deviations import speed_words
from brunt_core.properties import Property
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import figures, number
from brunt_core.statistics.campaign_summary import campaign_summary
from brunt_core.statistics.ranking import rank
from brunt_core.statistics.summaries import Summary, summarise
from brunt_web.campaigns.addresses import specimen_address
from brunt_web.campaigns.requirements import Requirements
from brunt_web.comparison.ranking_chart import Dot
from brunt_web.interface.scale import Scale, scale_for
from brunt_web.library.models import Lot, Material, Procedure
from brunt_web.results.reading import counted_rows
from brunt_web.testing.rigs import rigs_named

WIDE, HIGH = 420.0, 30.0
_USUAL, _NO_LOT = "as made", "lot not named"


@dataclass(frozen=True)
class Seen:
    """One result in its property's unit, with where it belongs."""

    state: str
    lot: str
    code: str
    observation: Observation
    campaign: int
    question: str
    rig: int | None = None


@dataclass
class MaterialRow:
    """One state of one lot: its summary and its specimens, drawn."""

    state: str
    lot: str
    first: bool
    count: str
    value: str
    interval: str
    cv: str
    price: str
    dots: list[Dot]
    bar: tuple[float, float] | None
    mean: float | None
    campaigns: list[tuple[int, str]]


@dataclass
class Block:
    """One property under one procedure; ``further`` what was measured besides in the same tests."""

    title: str
    agree: str
    unit: str
    count: int
    rows: list[MaterialRow]
    ticks: tuple[tuple[float, str], ...]
    lots: str
    further: list["Block"] = field(default_factory=list)

    @property
    def priced(self) -> bool:
        """Whether any row has a price per strength."""
        return any(r.price for r in self.rows)


def blocks_of(material: Material) -> list[Block]:
    """A block for each procedure the material was tested by, most specimens first. Three queries."""
    mine = Q(turn__condition__material=material, turn__campaign__workshop=material.workshop_id)
    rows = list(
        counted_rows(
            mine,
            *("turn__procedure_id", "property_key", "lower", "upper", "turn__specimen__code"),
            *("turn__speed", "turn__condition__requirements", "turn__specimen__made_as"),
            *("turn__campaign_id", "turn__campaign__question", "turn__rig_id"),
        ).order_by("turn__tested_at", "turn_id")
    )
    procedures = Procedure.objects.select_related("rig", "variant").in_bulk({r[0] for r in rows})
    lots = Lot.objects.filter(material=material).select_related("material")
    prices = {x.name: x.price_per_kg for x in lots}
    found: dict[tuple[str, str], list[Seen]] = defaultdict(list)
    heads: dict[tuple[str, str], tuple[Procedure, Property]] = {}
    for pk, key, low, high, code, speed, required, made, campaign, question, rig in rows:
        procedure = procedures[pk]
        prop = procedure.property_called(key)
        place = _agree(procedure, speed, required), key
        heads.setdefault(place, (procedure, prop))
        seen = Observation(low, high).through(_into(prop))
        lot = made.lot
        one = Seen(_done(required), lot, code, seen, campaign, question=question, rig=rig or procedure.rig_id)  # fmt: skip
        found[place].append(one)
    blocks: dict[str, list[Block]] = defaultdict(list)
    for place in sorted(found, key=lambda p: p[1] != heads[p][0].ranked_property.key):
        procedure, prop = heads[place]
        block = _block(procedure, prop, found[place], _priced(material, prices, prop))
        block.agree = " · ".join(w for w in place[0].split(" · ") if w != "–")
        blocks[place[0]].append(block)
    for first, *rest in blocks.values():
        first.further = rest
    return sorted((b[0] for b in blocks.values()), key=lambda b: -b.count)


def _agree(procedure: Procedure, speed: float | None, required: Requirements) -> str:
    """What results of one block agree on: all that makes them comparable but what was done to the material."""
    facts = procedure.facts
    facts = replace(
        facts,
        speed=speed_words(speed) if speed else facts.speed,
        orientation=required.orientation or facts.orientation,
        specimen_type=required.design.key if required.design else facts.specimen_type,
        conditioning="",
    )
    return comparability_key(facts)


def _done(required: Requirements) -> str:
    """What was done to the material or set for it, in words."""
    said = [step.what for _, step in required.steps]
    said += [required.age.what] if required.age and required.age.outstanding else []
    said += [f"{k.replace('_', ' ')} {v.get('shown')}" for k, v in required.settings.items()]
    said += [f"dried: {required.drying.what}"] if required.drying else []
    said += [f"{t.name.lower()} {t.what}" for t in required.ticks]
    return ", ".join(said) or _USUAL


def _into(prop: Property) -> Callable[[float], float]:
    return lambda v: in_unit(v, prop.dimension, prop.unit)


def _priced(
    material: Material, prices: Mapping[str, float | None], prop: Property
) -> Callable[[str, float], str]:
    """The price of a metre of rod that 1 kN stresses to that strength, m = ρ F L / σ; by the lot's price, else the material's."""

    def price(lot: str, mean: float) -> str:
        each = prices.get(lot)
        if each is None and material.price is not None:
            each = float(material.price)
        if (
            "strength" not in prop.key
            or prop.dimension != "stress"
            or not each
            or not material.density
            or not mean > 0
        ):
            return ""
        stress = mean / in_unit(1.0, prop.dimension, prop.unit)
        return number(material.density * 1000.0 / stress * each, ".2f")

    return price


def _block(
    procedure: Procedure,
    prop: Property,
    seen: Sequence[Seen],
    price: Callable[[str, float], str],
) -> Block:
    """The rows of a property, the usual state first, lots under one another."""
    grouped: dict[tuple[str, str], list[Seen]] = defaultdict(list)
    for s in seen:
        grouped[s.state, s.lot].append(s)
    summaries = {k: summarise([s.observation for s in own]) for k, own in grouped.items()}
    values = [s.observation.anchor for s in seen]
    span = (max(values) - min(values)) or abs(values[0]) or 1.0
    ends = [e for m in summaries.values() for e in (m.low, m.high) if e is not None]
    kept = [min(max(e, min(values) - span / 2), max(values) + span / 2) for e in ends]
    scale = scale_for([*values, *kept], WIDE, 10, 5)
    rows, last = [], None
    for key in sorted(grouped, key=lambda k: (k[0] != _USUAL, k)):
        rows.append(_row(key, grouped[key], summaries[key], scale, price, first=key[0] != last))
        last = key[0]
    title = procedure.method.name
    return Block(
        title if prop.key == procedure.ranked_property.key else prop.name,
        "",
        prop.unit or "number",
        count=len(seen),
        rows=rows,
        ticks=scale.ticks,
        lots=_lots(grouped, procedure, prop),
    )


def _row(
    key: tuple[str, str],
    own: Sequence[Seen],
    summary: Summary,
    scale: Scale,
    price: Callable[[str, float], str],
    first: bool,
) -> MaterialRow:
    state, lot = key
    known = summary.mean == summary.mean
    interval, bar = "", None
    if summary.low is not None and summary.high is not None:
        interval = f"{figures(summary.low)} – {figures(summary.high)}"
        left = scale.x(summary.low)
        bar = left, round(max(scale.x(summary.high) - left, 1.0), 1)
    return MaterialRow(
        state,
        lot or _NO_LOT,
        first,
        count=str(summary.n) + (f" · {summary.n_bounded} bounds" if summary.n_bounded else ""),
        value=f"{summary.sign} {figures(summary.mean)}".strip() if known else "–",
        interval=interval,
        cv="–" if summary.cv is None else f"{number(summary.cv * 100, '.1f')} %",
        price=price(lot, summary.mean) if known else "",
        dots=[_dot(s, scale) for s in own],
        bar=bar,
        mean=scale.x(summary.mean) if known else None,
        campaigns=sorted({(s.campaign, s.question) for s in own}),
    )


def _dot(seen: Seen, scale: Scale) -> Dot:
    o = seen.observation
    sign = {"at_least": "≥ ", "at_most": "≤ "}.get(o.kind, "")
    title = f"{seen.code}: {sign}{figures(o.anchor)}"
    return Dot(scale.x(o.anchor), HIGH / 2, o.kind, title, specimen_address(seen.code))


def _lots(
    grouped: Mapping[tuple[str, str], Sequence[Seen]], procedure: Procedure, prop: Property
) -> str:
    """Whether named lots in the usual state differ significantly; nothing of a single one."""
    lots = {lot: own for (state, lot), own in grouped.items() if state == _USUAL and lot}
    if len(lots) < 2 or prop.ordinal:
        return ""
    named = {lot: [s.observation for s in own] for lot, own in lots.items()}
    rigs = rigs_named({lot: [s.rig for s in own] for lot, own in lots.items()}, procedure, prop)
    told = campaign_summary(rank(named, None, prop.better, rigs=rigs))
    return "Lots: " + " ".join(f"{f.strong or ''} {f.rest}".strip() for f in told)
