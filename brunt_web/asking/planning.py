"""What a draft comes to: conditions, power, cost, confounders. Stores nothing."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from brunt_core.errors import InputError
from brunt_core.planning.confounders import find_confounders
from brunt_core.planning.designs import fractions_for
from brunt_core.planning.estimates import Demand, Estimate, estimate
from brunt_core.planning.prospects import Answer, Varied, answers
from brunt_core.printing.plates import capacity, plates_needed
from brunt_core.printing.recipes import FIELDS, unlikely, volumetric_flow
from brunt_core.printing.resin import print_seconds
from brunt_core.printing.resolved import plate_key, setting_text, values
from brunt_core.quantities import in_unit
from brunt_core.specimens.mesh import standing_size
from brunt_core.specimens.solid import solid_share
from brunt_web.campaigns.drafts import Combination, FactorDraft, PlanDraft
from brunt_web.campaigns.models import Condition, geometry_asked
from brunt_web.campaigns.requirements import requirements_of
from brunt_web.campaigns.resolved_parts import Resolved, base_among, filling_of_settings, resolved
from brunt_web.checks.models import CheckStandard
from brunt_web.checks.queries import lacking
from brunt_web.library.models import Lot, Material, Procedure
from brunt_web.people.models import Workshop
from brunt_web.results.reading import pooled_cv


@dataclass(frozen=True)
class ExpectedCv:
    """The expected coefficient of variation of one property, and where it comes from."""

    procedure: Procedure
    value: float
    source: str

    @property
    def name(self) -> str:
        """The property it is of."""
        return self.procedure.ranked_property.name


@dataclass(frozen=True)
class PlanSaving:
    """What cutting one level saves, and what the slope then costs."""

    factor: str
    level: str
    specimens: int
    grams: float | None
    price: float | None
    hours: float | None
    slope: float | None


@dataclass(frozen=True)
class Marked:
    """Something that stands against the plan, with the letter that marks where it acts."""

    letter: str
    sentence: str
    remedy: str
    conditions: tuple[str, ...] = ()


@dataclass(frozen=True)
class Planned:
    """One condition under one procedure as it would be made."""

    combination: Combination
    procedure: Procedure
    plan: Resolved
    demand: Demand
    footprint: tuple[float, float]


@dataclass(frozen=True)
class PlanView:
    """Everything Ask shows."""

    combinations: list[tuple[Combination, bool]]
    conditions: int
    specimens: int
    spares: int
    cvs: list[ExpectedCv]
    answers: list[Answer]
    estimate: Estimate
    plates: int | None
    savings: list[PlanSaving]
    marks: list[Marked]
    aliases: tuple[str, ...]
    resolution: int | None
    fractions: list[int]
    lots: list[tuple[Lot, float | None]]
    planned: list[Planned] = field(default_factory=list)
    checks: list[CheckStandard] = field(default_factory=list)

    @property
    def cv(self) -> ExpectedCv | None:
        """The worst of the properties: what is said of n is said for it."""
        return max(self.cvs, key=lambda s: s.value, default=None)


def evaluate(draft: PlanDraft, workshop: Workshop) -> PlanView:
    """Work out a draft. Raises :class:`InputError` for what cannot be worked out."""
    kept = draft.kept if draft.factors else []
    fraction = draft.fraction
    lots = list(
        Lot.objects.filter(workshop=workshop, archived_at__isnull=True).select_related("material")
    )
    cvs = expected_cvs(draft, workshop)
    planned = _planned(draft, kept, lots)
    total = estimate([p.demand for p in planned])
    seen = [(c, c.name not in draft.dropped) for c in (draft.every if draft.factors else [])]
    two_each = all(len(f.levels) == 2 for f in draft.factors)
    return PlanView(
        combinations=seen,
        conditions=len(kept),
        specimens=total.specimens,
        spares=draft.spares,
        cvs=cvs,
        answers=_answers(draft, cvs, len(kept)),
        estimate=total,
        plates=_plates(draft, planned),
        savings=_savings(draft, planned, cvs),
        marks=_marks(draft, planned, lots),
        aliases=fraction.aliases if fraction else (),
        resolution=fraction.resolution if fraction else None,
        fractions=fractions_for(len(draft.factors)) if two_each else [],
        lots=_lots_needed(total, lots),
        planned=planned,
        checks=lacking(workshop, draft.procedures, _materials(draft)),
    )


def _materials(draft: PlanDraft) -> set[int]:
    levels = {lv.material.pk for f in draft.factors for lv in f.levels if lv.material}
    return levels | ({draft.material.pk} if draft.material else set())


# -- power ----------------------------------------------------------------------------


def expected_cvs(draft: PlanDraft, workshop: Workshop) -> list[ExpectedCv]:
    """Of each procedure's own property: typed; else pooled from earlier results of it; else usual."""
    found = []
    for procedure in draft.procedures:
        if draft.cv:
            found.append(ExpectedCv(procedure, draft.cv, "as typed"))
            continue
        own = pooled_cv(workshop, procedure) if procedure.pk else None
        if own:
            words = f"pooled from {own.groups} of this workshop's own groups by the same procedure"
            found.append(ExpectedCv(procedure, own.value, words))
        else:
            words = "a usual value for this test (common practice); type your own if you know it"
            found.append(ExpectedCv(procedure, procedure.method.cv, words))
    return found


def core_factors(draft: PlanDraft) -> list[Varied]:
    """The draft's factors as the core's: with numbers where their levels have any."""
    return [Varied(f.name, len(f.levels), level_numbers(f)) for f in draft.factors]


def level_numbers(factor: FactorDraft) -> tuple[float, ...]:
    """The levels as numbers in the unit they are shown in; empty where one has none."""
    numbers = [x.value for x in factor.levels]
    if any(x is None for x in numbers):
        return ()
    field_ = next((f[factor.setting] for f in FIELDS.values() if factor.setting in f), None)
    if field_ and field_.unit and field_.dimension not in ("share", "number"):
        return tuple(round(in_unit(x or 0.0, field_.dimension, field_.unit), 9) for x in numbers)
    scale = 100.0 if field_ and field_.dimension == "share" else 1.0
    return tuple(round((x or 0.0) * scale, 9) for x in numbers)


def _answers(draft: PlanDraft, cvs: Sequence[ExpectedCv], cells: int) -> list[Answer]:
    worst = max((s.value for s in cvs), default=None)
    if worst is None or draft.replicates < 2 or cells < 2:
        return []
    return answers(
        core_factors(draft),
        draft.replicates,
        worst,
        cells=cells,
        wanted=draft.wanted,
        confidence=draft.confidence,
        wanted_power=draft.power,
    )


# -- what it costs ------------------------------------------------------------------------------


def _planned(draft: PlanDraft, kept: Sequence[Combination], lots: list[Lot]) -> list[Planned]:
    found = []
    for c in kept:
        material = c.material or draft.material
        required = requirements_of(zip(draft.factors, c.levels, strict=True))
        condition = Condition(label=c.label, requirements=required)
        for p in draft.heads:
            base = base_among(
                dict(draft.base_recipes), material.pk if material else None, p.pk, draft.recipe
            )
            plan = resolved(base, required.settings)
            found.append(
                _one(draft, c, p, plan=plan, condition=condition, material=material, lots=lots)
            )
    return found


def _one(
    draft: PlanDraft,
    c: Combination,
    p: Procedure,
    plan: Resolved,
    condition: Condition,
    material: Material | None,
    lots: list[Lot],
) -> Planned:
    geometry = geometry_asked(condition, p)
    orientation = condition.requirements.orientation or p.orientation
    width, depth, height = standing_size(geometry, orientation)
    printed = material is None or material.form != "stock"
    treated = bool(condition.requirements.to_do)
    try:
        share = solid_share(geometry, orientation, filling_of_settings(plan.settings))
    except InputError:
        share = 1.0
    demand = Demand(
        material=material.name if material else "the material",
        count=draft.replicates + draft.spares,
        volume=geometry.volume,
        method=p.method_key,
        density=material.density if material else None,
        price=_price(c, material, lots),
        flow=volumetric_flow(values(plan.settings)),
        solidity=share,
        plate_seconds=print_seconds(values(plan.settings), height / 1e3)
        if plan.kind == "resin"
        else None,
        together=_together(draft, (width, depth)),
        treated=treated,
        printed=printed,
        further=tuple(q.method_key for q in draft.procedures if _follows(draft, q, p)),
    )
    return Planned(c, p, plan, demand, (width, depth))


def _together(draft: PlanDraft, footprint: tuple[float, float]) -> int:
    """How many stand on one plate of the printer named; all of a condition where none is."""
    if draft.printer is None:
        return draft.replicates + draft.spares
    return capacity(footprint, (draft.printer.bed_width, draft.printer.bed_depth), 5.0) or 1


def _follows(draft: PlanDraft, later: Procedure, head: Procedure) -> bool:
    at = later.pk
    while at in draft.after:
        at = draft.after[at]
        if at == head.pk:
            return True
    return False


def _price(combination: Combination, material: Material | None, lots: list[Lot]) -> float | None:
    lot = combination.lot or next(
        (x for x in lots if material and x.material_id == material.pk), None
    )
    if lot:
        return lot.price_per_kg
    return float(material.price) if material and material.price is not None else None


def _plates(draft: PlanDraft, planned: Sequence[Planned]) -> int | None:
    """How many plates it takes, where a printer is named: unlike recipes never share one."""
    if draft.printer is None:
        return None
    bed = (draft.printer.bed_width, draft.printer.bed_depth)
    kinds: dict[tuple, list[Planned]] = {}
    for one in planned:
        if one.demand.printed:
            material = one.combination.material or draft.material
            key = (
                *plate_key(one.plan.kind, one.plan.settings, False),
                one.procedure.pk,
                str(material),
            )
            kinds.setdefault(key, []).append(one)
    total = 0
    for group in kinds.values():
        holds = capacity(group[0].footprint, bed, 5.0)
        if not holds:
            return None
        total += plates_needed(sum(p.demand.count for p in group), holds)
    return total


def _savings(
    draft: PlanDraft, planned: Sequence[Planned], cvs: Sequence[ExpectedCv]
) -> list[PlanSaving]:
    """For each level of a factor that would still have two left: what goes with it."""
    found = []
    worst = max((s.value for s in cvs), default=None)
    for i, factor in enumerate(draft.factors):
        for k, level in enumerate(factor.levels) if len(factor.levels) > 2 else ():
            gone = estimate([p.demand for p in planned if p.combination.levels[i] == level])
            grams = [n.grams for n in gone.needs]
            found.append(
                PlanSaving(
                    factor=factor.name,
                    level=level.label,
                    specimens=gone.specimens,
                    grams=None if None in grams else sum(g or 0 for g in grams),
                    price=gone.price,
                    hours=gone.print_hours,
                    slope=_slope_without(draft, i, k, worst),
                )
            )
    return found


def _slope_without(draft: PlanDraft, i: int, k: int, cv: float | None) -> float | None:
    """The least rise over the whole range that is still seen without the k-th level."""
    factors = core_factors(draft)
    numbers = factors[i].numbers
    if cv is None or draft.replicates < 2 or len(numbers) < 3 or draft.dropped:
        return None
    left = numbers[:k] + numbers[k + 1 :]
    factors[i] = Varied(factors[i].name, len(left), left)
    found = answers(
        factors,
        draft.replicates,
        cv,
        confidence=draft.confidence,
        wanted_power=draft.power,
    )
    wanted = (f"slope {factors[i].name}", f"main {factors[i].name}")
    return next((a.detectable for a in found if a.contrast.key in wanted), None)


def _lots_needed(total: Estimate, lots: list[Lot]) -> list[tuple[Lot, float | None]]:
    """Each lot of a material of the plan, with the grams left after it."""
    needs = {n.material: n.grams for n in total.needs}
    return [
        (
            lot,
            None
            if lot.remaining is None or needs[lot.material.name] is None
            else lot.remaining * 1000 - (needs[lot.material.name] or 0.0),
        )
        for lot in lots
        if lot.material.name in needs
    ]


# -- what stands against it ---------------------------------------------------------------------


def _marks(draft: PlanDraft, planned: Sequence[Planned], lots: list[Lot]) -> list[Marked]:
    """What differs or is unusual, lettered in the order it is found."""
    said: list[tuple[str, str, tuple[str, ...]]] = []
    said += _differing(draft, planned, lots)
    said += [
        (p.plan.problem, "Choose another base recipe.", (p.combination.name,))
        for p in planned
        if p.plan.problem
    ]
    said += _unlikely(draft, planned)
    unique = {sentence: (sentence, remedy, where) for sentence, remedy, where in said}
    return [
        Marked("ABCDEFGHIJKLMNOPQRSTUVWXYZ"[min(i, 25)], *row)
        for i, row in enumerate(unique.values())
    ]


def _differing(
    draft: PlanDraft, planned: Sequence[Planned], lots: list[Lot]
) -> list[tuple[str, str, tuple[str, ...]]]:
    names = [f.name for f in draft.factors] + [f.kind for f in draft.factors]
    names += [f[x.setting].label for x in draft.factors for f in FIELDS.values() if x.setting in f]
    found = []
    for p in draft.heads:
        facts: dict[str, dict[str, str]] = {}
        for one in planned:
            if one.procedure is not p:
                continue
            material = one.combination.material or draft.material
            lot = one.combination.lot or next(
                (x for x in lots if material and x.material_id == material.pk), None
            )
            facts[one.combination.name] = {
                f.label.lower(): setting_text(one.plan.settings, k)
                for k, f in FIELDS[one.plan.kind].items()
                if not f.of_material
            } | {"colour": lot.colour if lot else ""}
        for c in find_confounders(facts, names, {"colour": "lot"}):
            where = tuple(n for _, who in c.values[1:] for n in who)
            found.append((c.sentence, c.remedy, where))
    return found


def _unlikely(
    draft: PlanDraft, planned: Sequence[Planned]
) -> list[tuple[str, str, tuple[str, ...]]]:
    found: dict[str, list[str]] = {}
    for one in planned:
        material = one.combination.material or draft.material
        if material and one.demand.printed:
            for _, sentence in unlikely(one.plan.kind, material.family, values(one.plan.settings)):
                found.setdefault(sentence, []).append(one.combination.name)
    remedy = "A value outside the usual range may be intended; check the unit."
    return [(s, remedy, tuple(dict.fromkeys(who))) for s, who in found.items()]
