"""Plan a campaign: question, factors, procedures, replicates → conditions and specimens with IDs."""

from collections.abc import Sequence

from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.identifiers import specimen_code
from brunt_core.planning.run_order import blocked_order, slow_first
from brunt_web.campaigns.drafts import Combination, PlanDraft, check
from brunt_web.campaigns.models import (
    Campaign,
    CampaignProcedure,
    Condition,
    Factor,
    Level,
    Specimen,
)
from brunt_web.library.models import Procedure
from brunt_web.people.models import Workshop


@transaction.atomic
def plan_campaign(workshop: Workshop, by, draft: PlanDraft) -> Campaign:
    """Make the campaign with its factors, conditions and specimens in randomised test order.

    Raises :class:`InputError` for a draft that cannot be planned.
    """
    check(draft)
    campaign = Campaign(workshop=workshop, created_by=by)
    _write(campaign, draft)
    return campaign


@transaction.atomic
def replan_campaign(campaign: Campaign, draft: PlanDraft) -> Campaign:
    """Plan it anew while nothing is printed, measured or tested.

    Raises :class:`InputError` when something is, since its specimens carry history.
    """
    check(draft)
    begun = campaign.specimens.filter(test__isnull=False) | campaign.specimens.filter(
        print__isnull=False
    )
    if begun.exists():
        raise InputError(
            "Specimens of this plan are printed or tested already. Add replicates instead, or ask a new question.",
            "question",
        )
    campaign.specimens.all().delete()
    campaign.reference = None
    campaign.save(update_fields=["reference"])
    campaign.conditions.all().delete()
    campaign.factors.all().delete()
    CampaignProcedure.objects.filter(campaign=campaign).delete()
    _write(campaign, draft)
    return campaign


def _write(campaign: Campaign, draft: PlanDraft) -> None:
    campaign.question, campaign.replicates, campaign.seed = (
        draft.question.strip(),
        draft.replicates,
        draft.seed,
    )
    campaign.shape, campaign.design, campaign.recipe, campaign.printer = (
        draft.shape,
        draft.design,
        draft.recipe,
        draft.printer,
    )
    campaign.scatter, campaign.wanted, campaign.power, campaign.loss = (
        draft.scatter,
        draft.wanted,
        draft.power,
        draft.loss,
    )
    campaign.spares, campaign.confidence = draft.spares, draft.confidence
    campaign.notes = list(draft.fraction.aliases) if draft.fraction else []
    campaign.save()
    CampaignProcedure.objects.bulk_create(
        CampaignProcedure(campaign=campaign, procedure=p, position=i)
        for i, p in enumerate(in_slow_order(draft.procedures))
    )
    kept = draft.kept
    conditions = _conditions(campaign, draft, kept)
    control = next((i for i, c in enumerate(kept) if c.name == draft.control), None)
    if control is not None:
        campaign.reference = conditions[control]
        campaign.save(update_fields=["reference"])
    _specimens(campaign, conditions, draft)


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
            )
    Level.objects.bulk_create(levels.values())
    conditions = Condition.objects.bulk_create(
        [
            Condition(
                campaign=campaign,
                position=i,
                label=c.label,
                detail=c.detail,
                material=c.material or draft.material,
                lot=c.lot,
            )
            for i, c in enumerate(kept)
        ]
    )
    through = Condition.levels.through
    through.objects.bulk_create(
        through(condition_id=made.pk, level_id=levels[i, level.label].pk)
        for made, c in zip(conditions, kept, strict=True)
        for i, level in enumerate(c.levels)
    )
    return conditions


def _specimens(campaign: Campaign, conditions: list[Condition], draft: PlanDraft) -> None:
    for position, procedure in enumerate(in_slow_order(draft.procedures)):
        order = blocked_order(
            len(conditions), draft.replicates + draft.spares, draft.seed + position
        )
        add_specimens(
            campaign,
            procedure,
            [(conditions[c], r + 1) for c, r in order],
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
    spare_after: int = 1000,
) -> list[Specimen]:
    """Make specimens (condition, replicate) in this order, each with the workshop's next ID."""
    first = _take_numbers(campaign.workshop_id, len(wanted))
    start = Specimen.objects.filter(campaign=campaign, procedure=procedure).count()
    return Specimen.objects.bulk_create(
        [
            Specimen(
                workshop_id=campaign.workshop_id,
                campaign=campaign,
                condition=condition,
                procedure=procedure,
                code=specimen_code(first + i),
                replicate=replicate,
                run_order=start + i,
                spare=replicate > spare_after,
            )
            for i, (condition, replicate) in enumerate(wanted)
        ]
    )


def _take_numbers(workshop_id: int, count: int) -> int:
    """Reserve so many specimen numbers; returns the first."""
    workshop = Workshop.objects.select_for_update().get(pk=workshop_id)
    first = workshop.next_specimen
    workshop.next_specimen = first + count
    workshop.save(update_fields=["next_specimen"])
    return first
