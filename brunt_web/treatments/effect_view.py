"""Treated against control for everything tested on both sides, with what it cost."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import log

from django.db.models import Q

from brunt_core.observations import Observation
from brunt_core.planning.levels import step_key
from brunt_core.properties import Property
from brunt_core.quantities.rendering import number, time_words
from brunt_core.treatments.effect import Effect, in_a_sentence, treatment_effects
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.campaigns.queries import procedures_of
from brunt_web.library.models import Procedure
from brunt_web.results import reading as samples
from brunt_web.treatments.models import Run
from brunt_web.treatments.moments import Subject

WIDE = 300.0
_REACH = log(2.0)
_TREATING = ("treatment", "condition", "drying", "age")
TOO_FAR = 0.001


@dataclass
class EffectRow:
    """One property: the ratio as drawn and in words."""

    label: str
    against: str
    effect: Effect
    counts: str
    x: float | None
    low: float | None
    high: float | None
    unlike: str = ""


@dataclass
class Price:
    """What a treatment costs: time, energy in J, how many were lost, the worst distortion."""

    hours: str
    energy: float | None
    lost: int
    of: int
    bow: float | None


@dataclass
class EffectView:
    """All of one treatment against its control."""

    what: str
    sentence: str
    rows: list[EffectRow]
    ticks: list[tuple[float, str]]
    variants: list[str]
    price: Price
    one: float = 0.0
    controls: list[str] = field(default_factory=list)


def place(ratio: float) -> float:
    """Where a ratio lies: on a logarithm, from a half to twice, kept inside."""
    share = min(max(log(max(ratio, 1e-6)) / _REACH, -1.0), 1.0)
    return round(WIDE / 2 + share * (WIDE / 2 - 8), 1)


def families(campaign: Campaign) -> list[tuple[Condition, list[Condition]]]:
    """Controls with the treated conditions that differ from them in nothing but what was done."""
    found: dict[tuple[int, ...], list[Condition]] = {}
    conditions = campaign.conditions.prefetch_related("levels__factor").order_by("position")
    for condition in conditions:
        rest = tuple(sorted(x.pk for x in condition.levels.all() if x.factor.kind not in _TREATING))
        found.setdefault(rest, []).append(condition)
    pairs = []
    for members in found.values():
        plain = [c for c in members if not c.requirements.steps]
        treated = [c for c in members if c.requirements.steps]
        if plain and treated:
            pairs.append((plain[0], treated))
    return pairs


def words_of(condition: Condition) -> list[str]:
    """What is done to a condition's specimens, step by step, as its plan has it."""
    return [step.what for _, step in condition.requirements.steps]


def is_done_to(condition: Condition, what: str) -> bool:
    """Whether a treatment or state is among what is done to a condition, however it is worded."""
    key = step_key(what)
    return any(step.key == key for _, step in condition.requirements.steps)


def effect_of(
    campaign: Campaign, what: str, treated: Sequence[Subject], control: Sequence[Subject]
) -> EffectView:
    """Every property of every procedure that has results on both sides."""
    procedures = procedures_of(campaign)
    found = samples.of_campaign(campaign)
    pairs = families(campaign)
    rows: list[EffectRow] = []
    variants: list[str] = []
    for base, members in pairs:
        if not any(is_done_to(c, what) for c in members):
            continue
        variants = list(dict.fromkeys([*variants, *(", ".join(words_of(c)) for c in members)]))
        for procedure in procedures:
            for prop in _properties(campaign, procedure):
                row = _row(found, procedure, prop, base, members, what=what, several=len(pairs) > 1)
                if row:
                    row.unlike = _unlike(procedure, treated, control)
                    rows.append(row)
    named = {r.label if not r.against else f"{r.label} ({r.against})": r.effect for r in rows}
    return EffectView(
        what=what,
        sentence=in_a_sentence(named),
        rows=rows,
        ticks=[(place(x), number(x, "g")) for x in (0.5, 0.7, 0.85, 1, 1.2, 1.5, 2)],
        variants=variants,
        price=_price(treated),
        one=place(1.0),
        controls=[
            str(base) for base, members in pairs if any(is_done_to(c, what) for c in members)
        ],
    )


def _properties(campaign: Campaign, procedure: Procedure) -> list[Property]:
    """Those of the procedure that have results; the one it is ranked by first."""
    mine = Q(turn__campaign=campaign, turn__procedure=procedure)
    keys = samples.measured(mine, [procedure.pk])[procedure.pk]
    ranked = procedure.ranked_property
    others = dict.fromkeys(r.property for r in procedure.method.results)
    listed = [ranked, *(procedure.property_called(k) for k in others if k != ranked.key)]
    return [p for p in listed if p.key in keys and not p.ordinal]


def _row(
    found: Sequence[samples.Sample],
    procedure: Procedure,
    prop: Property,
    base: Condition,
    members: Sequence[Condition],
    what: str,
    several: bool,
) -> EffectRow | None:
    groups = samples.grouped(found, [procedure], {procedure.pk: prop.key})

    def seen(condition: Condition) -> list[Observation]:
        group = groups.get((condition.pk, procedure.pk))
        return group.values if group else []

    plain = seen(base)
    variants: Mapping[str, list[Observation]] = {str(c.pk): seen(c) for c in members if seen(c)}
    chosen = next((c for c in members if is_done_to(c, what)), None)
    if not plain or chosen is None or str(chosen.pk) not in variants:
        return None
    rounding = max((g.rounding for g in groups.values()), default=0.0)
    effect = treatment_effects(variants, plain, prop.better, 0.95, (rounding, rounding))[
        str(chosen.pk)
    ]
    ratio = effect.ratio
    label = (
        procedure.name
        if prop.key == procedure.ranked_property.key
        else f"{procedure.name}: {prop.name.lower()}"
    )
    return EffectRow(
        label=label,
        against=str(base) if several else "",
        effect=effect,
        counts=f"n {effect.treated.n} · {effect.control.n}",
        x=place(ratio.value) if ratio else None,
        low=place(ratio.low) if ratio and ratio.low is not None else None,
        high=place(ratio.high) if ratio and ratio.high is not None else None,
    )


def _unlike(procedure: Procedure, treated: Sequence[Subject], control: Sequence[Subject]) -> str:
    """How unlike the water of both was when this procedure broke them, where it was weighed."""
    wet = [x for s in treated if (x := _water_at_test(s, procedure)) is not None]
    dry = [x for s in control if (x := _water_at_test(s, procedure)) is not None]
    if not wet or not dry:
        return ""
    apart = abs(sum(wet) / len(wet) - sum(dry) / len(dry))
    if apart <= TOO_FAR:
        return ""
    return f"Not comparable yet: tested {number(apart * 100, '.2f')} % of water apart."


def _water_at_test(subject: Subject, procedure: Procedure) -> float | None:
    base = subject.first_mass
    turn = next(
        (
            t
            for t in subject.specimen.turns.all()
            if t.procedure_id == procedure.pk and t.tested_at is not None
        ),
        None,
    )
    if turn is None or turn.tested_at is None or not base:
        return None
    since = [m for at, m in subject.masses if subject.end <= at <= turn.tested_at]
    return since[-1] / base - 1 if since else None


def _price(treated: Sequence[Subject]) -> Price:
    runs = {s.run.pk: s.run for s in treated if s.run}.values()
    seconds = [x for r in runs if (x := _seconds(r))]
    watts = [r.vessel.watts * _hot(r) for r in runs if r.vessel and r.vessel.watts]
    bows = [
        s.after["bow"] / s.after.get("length", s.before.get("length", 0.0))
        for s in treated
        if "bow" in s.after and (s.after.get("length") or s.before.get("length"))
    ]
    return Price(
        hours=time_words(max(seconds), 2) if seconds else "",
        energy=sum(watts) / 3.6e6 if watts else None,
        lost=sum(bool(s.lost) for s in treated),
        of=len(treated),
        bow=max(bows, default=None),
    )


def _seconds(run: Run) -> float:
    end = run.ended_at
    return (end - run.started_at).total_seconds() if end and run.started_at else 0.0


def _hot(run: Run) -> float:
    return sum(
        (s.ended_at - s.started_at).total_seconds()
        for s in run.steps.all()
        if s.heat is not None and s.started_at and s.ended_at
    )
