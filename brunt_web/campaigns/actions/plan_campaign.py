"""Plan a campaign: question, factors, procedures, replicates → conditions, specimens and their turns."""

from collections.abc import Sequence
from datetime import datetime
from random import Random
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import F, Max
from django.utils import timezone

from brunt_core.errors import InputError
from brunt_core.identifiers import specimen_code
from brunt_core.planning.run_order import blocked_order, slow_first
from brunt_web.campaigns import history
from brunt_web.campaigns.drafts import Combination, PlanDraft, check_draft
from brunt_web.campaigns.models import (
    BaseRecipe,
    Campaign,
    CampaignProcedure,
    Condition,
    Factor,
    HistoryEvent,
    Level,
    Specimen,
    Turn,
)
from brunt_web.campaigns.requirements import Requirements, requirements_of
from brunt_web.library.models import Procedure
from brunt_web.people.models import Workshop


@transaction.atomic
def plan_campaign(
    workshop: Workshop, by: User, draft: PlanDraft, at: datetime | None = None
) -> Campaign:
    """Make the campaign with its factors, conditions and specimens in randomised test order.

    ``at`` is when it was planned; now where it is not given.

    Raises :class:`InputError` for a draft that cannot be planned.
    """
    check_draft(draft)
    campaign = Campaign(workshop=workshop, created_by=by)
    _write(campaign, draft, by, at)
    return campaign


@transaction.atomic
def replan_campaign(campaign: Campaign, draft: PlanDraft, by: User | None = None) -> Campaign:
    """Plan it again while nothing has happened to any of its specimens.

    Raises :class:`InputError` that names what has happened, since nothing of it may be lost.
    """
    check_draft(draft)
    Campaign.objects.select_for_update().get(pk=campaign.pk)
    list(Specimen.objects.select_for_update().filter(campaign=campaign).values_list("pk"))
    _refuse_if_begun(campaign)
    campaign.specimens.all().delete()
    campaign.reference = None
    campaign.save(update_fields=["reference"])
    campaign.conditions.all().delete()
    campaign.factors.all().delete()
    campaign.base_recipes.all().delete()
    CampaignProcedure.objects.filter(campaign=campaign).delete()
    _write(campaign, draft, by or campaign.created_by)
    return campaign


def _refuse_if_begun(campaign: Campaign) -> None:
    """Whatever stands in a specimen's history forbids making it again."""
    begun = HistoryEvent.objects.filter(specimen__campaign=campaign).exclude(kind="planned")
    first = begun.select_related("specimen").order_by("at").first()
    if first is None:
        return
    count = begun.values("specimen").distinct().count()
    others = f" and {count - 1} more" if count > 1 else ""
    raise InputError(
        f"{first.specimen.code}{others} of this plan already have something in their history ({first.what}): "
        "regenerating them would lose it. Add replicates instead, or start a new campaign.",
        "question",
    )


def _write(campaign: Campaign, draft: PlanDraft, by: User, at: datetime | None = None) -> None:
    campaign.question, campaign.replicates = draft.question.strip(), draft.replicates
    campaign.seed, campaign.shape, campaign.design = draft.seed, draft.shape, draft.design
    campaign.recipe, campaign.printer = draft.recipe, draft.printer
    campaign.cv, campaign.wanted = draft.cv, draft.wanted
    campaign.power, campaign.loss = draft.power, draft.loss
    campaign.spares, campaign.confidence = draft.spares, draft.confidence
    campaign.notes = list(draft.fraction.aliases) if draft.fraction else []
    campaign.save()
    _columns(campaign, draft)
    BaseRecipe.objects.bulk_create(
        BaseRecipe(campaign=campaign, material_id=m, procedure_id=p, recipe=recipe)
        for (m, p), recipe in draft.base_recipes.items()
    )
    kept = draft.kept
    conditions = _conditions(campaign, draft, kept)
    control = next((i for i, c in enumerate(kept) if c.name == draft.control), None)
    if control is not None:
        campaign.reference = conditions[control]
        campaign.save(update_fields=["reference"])
    _specimens(campaign, conditions, draft, by, at)


def _columns(campaign: Campaign, draft: PlanDraft) -> None:
    """A column a procedure; one that is done on another's specimens stands after it."""
    ordered = in_slow_order(draft.procedures)
    heads = [p for p in ordered if p.pk not in draft.after]
    rows: list[CampaignProcedure] = []
    for head in heads:
        rows.append(CampaignProcedure(campaign=campaign, procedure=head))
        last = head.pk
        while follower := next((p for p in ordered if draft.after.get(p.pk) == last), None):
            rows.append(CampaignProcedure(campaign=campaign, procedure=follower))
            last = follower.pk
    for position, row in enumerate(rows):
        row.position = position
    CampaignProcedure.objects.bulk_create(rows)
    made = {r.procedure_id: r for r in rows}
    followers = [r for r in rows if r.procedure_id in draft.after]
    for row in followers:
        row.after = made[draft.after[row.procedure_id]]
    CampaignProcedure.objects.bulk_update(followers, ["after"])


def _conditions(
    campaign: Campaign, draft: PlanDraft, kept: Sequence[Combination]
) -> list[Condition]:
    levels: dict[tuple[int, str], Level] = {}
    for i, factor in enumerate(draft.factors):
        row = Factor.objects.create(
            campaign=campaign,
            position=i,
            kind=factor.kind,
            name=factor.name,
            setting=factor.setting,
        )
        for k, level in enumerate(factor.levels):
            levels[i, level.label] = Level(
                factor=row,
                position=k,
                label=level.label,
                value=level.value,
                material=level.material,
                lot=level.lot,
                specimen_type=level.specimen_type,
                variant=level.variant,
            )
    Level.objects.bulk_create(levels.values())
    conditions = Condition.objects.bulk_create(
        Condition(
            campaign=campaign,
            position=i,
            label=c.label,
            detail=c.detail,
            material=c.material or draft.material,
            lot=c.lot,
            requirements=requirements_of(zip(draft.factors, c.levels, strict=True)),
        )
        for i, c in enumerate(kept)
    )
    through = Condition.levels.through
    through.objects.bulk_create(
        through(condition_id=made.pk, level_id=levels[i, level.label].pk)
        for made, c in zip(conditions, kept, strict=True)
        for i, level in enumerate(c.levels)
    )
    return conditions


def _specimens(
    campaign: Campaign,
    conditions: list[Condition],
    draft: PlanDraft,
    by: User,
    at: datetime | None,
) -> None:
    heads = [p for p in in_slow_order(draft.procedures) if p.pk not in draft.after]
    for position, procedure in enumerate(heads):
        order = blocked_order(
            len(conditions), draft.replicates + draft.spares, draft.seed + position
        )
        slow = sorted(order, key=lambda pair: conditions[pair[0]].requirements.speed or 0.0)
        add_specimens(
            campaign,
            procedure,
            [(conditions[c], r + 1) for c, r in slow],
            by,
            at,
            spare_after=draft.replicates,
        )


def in_slow_order(procedures: Sequence[Procedure]) -> list[Procedure]:
    """The procedures with the slow set of each kind before its fast set."""
    kinds = [(f"{p.method_key} {p.orientation}", p.speed) for p in procedures]
    return [procedures[i] for i in slow_first(kinds)]


def add_specimens(
    campaign: Campaign,
    procedure: Procedure,
    wanted: Sequence[tuple[Condition, int]],
    by: User | None = None,
    at: datetime | None = None,
    spare_after: int = 1000,
    act: str = "",
) -> list[Specimen]:
    """Make specimens (condition, replicate) in this order, each with the workshop's next ID.

    ``act`` is the same for all that one press adds to a plan that stands.

    Each has a turn at the procedure and at those done on the same specimens, in their order.
    """
    first, start = _take_numbers(campaign.workshop_id, len(wanted))
    specimens = Specimen.objects.bulk_create(
        Specimen(
            workshop_id=campaign.workshop_id,
            campaign=campaign,
            condition=condition,
            procedure=procedure,
            code=specimen_code(first + i, start),
            replicate=replicate,
            spare=replicate > spare_after,
            outstanding_steps=history.outstanding_of("planned", condition.requirements, {}),
        )
        for i, (condition, replicate) in enumerate(wanted)
    )
    for step, one in enumerate(chain(campaign, procedure)):
        _turns(campaign, one, specimens, step)
    history.planned(specimens, by or campaign.created_by, at or timezone.now(), act)
    return specimens


def chain(campaign: Campaign, procedure: Procedure) -> list[Procedure]:
    """A procedure and those that are done on the same specimens after it."""
    rows = CampaignProcedure.objects.filter(campaign=campaign).select_related("after", "procedure")
    follows = {r.after.procedure_id: r.procedure for r in rows if r.after}
    found = [procedure]
    while found[-1].pk in follows:
        found.append(follows[found[-1].pk])
    return found


def _turns(
    campaign: Campaign, procedure: Procedure, specimens: Sequence[Specimen], step: int
) -> None:
    last = Turn.objects.filter(campaign=campaign, procedure=procedure).aggregate(
        last=Max("run_order")
    )["last"]
    start = 0 if last is None else last + 1
    Turn.objects.bulk_create(
        planned_turn(specimen, procedure, step, start + i) for i, specimen in enumerate(specimens)
    )


def planned_turn(specimen: Specimen, procedure: Procedure, step: int, run_order: int) -> Turn:
    """A specimen's turn at a procedure with what its levels set for it."""
    return Turn(
        campaign_id=specimen.campaign_id,
        condition=specimen.condition,
        procedure=procedure,
        specimen=specimen,
        step=step,
        open=step == 0,
        run_order=run_order,
        **set_for(specimen.condition.requirements, procedure),
    )


def set_for(required: Requirements, procedure: Procedure) -> dict[str, Any]:
    """Speed and conditioning of a turn: the level's, else the procedure's."""
    steps = [*([required.state] if required.state else []), *required.treatments]
    said = "; ".join(s.what for s in steps if s.what)
    return {
        "speed": required.speed or procedure.speed,
        "conditioning": (said or procedure.conditioning)[:120],
    }


@transaction.atomic
def one_more(
    condition: Condition,
    procedure: Procedure,
    by: User,
    count: int = 1,
    at: datetime | None = None,
    act: str = "",
) -> list[Specimen]:
    """More specimens of one condition only, each with a place by chance among those that wait.

    The places come from the campaign's seed and the number of the replicate, so that they can be
    found again.
    """
    campaign = Campaign.objects.select_for_update().get(pk=condition.campaign_id)
    last = next_replicate(condition, procedure)
    wanted = [(condition, last + i) for i in range(count)]
    made = add_specimens(campaign, procedure, wanted, by, at, act=act)
    for specimen in made:
        for turn in specimen.turns.all():
            _place_by_chance(turn, Random(campaign.seed + 7919 * specimen.replicate))
    return made


def next_replicate(condition: Condition, procedure: Procedure) -> int:
    """The number the next specimen of this condition gets under this procedure."""
    last = Specimen.objects.filter(condition=condition, procedure=procedure).aggregate(
        last=Max("replicate")
    )["last"]
    return (last or 0) + 1


def _place_by_chance(turn: Turn, random: Random) -> None:
    """Move a turn from the end of its queue to a place among those of its speed that wait."""
    peers = Turn.objects.filter(
        campaign_id=turn.campaign_id,
        procedure_id=turn.procedure_id,
        state="waiting",
        speed=turn.speed,
    ).exclude(pk=turn.pk)
    places = [*peers.order_by("run_order").values_list("run_order", flat=True), turn.run_order]
    place = random.choice(places)
    if place == turn.run_order:
        return
    Turn.objects.filter(
        campaign_id=turn.campaign_id, procedure_id=turn.procedure_id, run_order__gte=place
    ).exclude(pk=turn.pk).update(run_order=F("run_order") + 1)
    Turn.objects.filter(pk=turn.pk).update(run_order=place)


def _take_numbers(workshop_id: int, count: int) -> tuple[int, int]:
    """Reserve so many specimen numbers; returns the first, and where the workshop's IDs begin."""
    workshop = Workshop.objects.select_for_update().get(pk=workshop_id)
    first = workshop.next_specimen
    workshop.next_specimen = first + count
    workshop.save(update_fields=["next_specimen"])
    return first, workshop.first_id
