"""Plan a campaign: question, conditions, procedures, replicates → specimens with IDs."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.identifiers import specimen_code
from brunt_core.planning.run_order import blocked_order
from brunt_web.campaigns.models import (
    Campaign,
    CampaignProcedure,
    Condition,
    Factor,
    Level,
    Specimen,
)
from brunt_web.library.models import Material, Procedure
from brunt_web.people.models import Workshop

MOST_SPECIMENS = 2000


@dataclass(frozen=True)
class CampaignDraft:
    """What a campaign is to be. Materials are the levels of its one factor."""

    question: str
    materials: Sequence[Material]
    procedures: Sequence[Procedure]
    replicates: int
    seed: int
    reference: Material | None = None
    details: dict[int, str] = field(default_factory=dict)


def check_draft(question: str, materials: int, procedures: int, replicates: int) -> None:
    """Raise :class:`InputError` with the field for a draft that cannot be planned."""
    if not question.strip():
        raise InputError("Write the question the campaign is to answer.", "question")
    if materials < 2:
        raise InputError("A comparison needs two materials or more.", "materials")
    if not procedures:
        raise InputError("Choose at least one way of testing.", "procedures")
    if not 1 <= replicates <= 100:
        raise InputError("Replicates must be between 1 and 100.", "replicates")
    if materials * procedures * replicates > MOST_SPECIMENS:
        raise InputError(f"That is {materials * procedures * replicates} specimens; "
                         f"a campaign holds {MOST_SPECIMENS}.", "replicates")


@transaction.atomic
def plan_campaign(workshop: Workshop, by, draft: CampaignDraft) -> Campaign:
    """Make the campaign with its factor, conditions and specimens in randomised test order."""
    check_draft(draft.question, len(draft.materials), len(draft.procedures), draft.replicates)
    campaign = Campaign.objects.create(
        workshop=workshop, question=draft.question.strip(), replicates=draft.replicates,
        seed=draft.seed, created_by=by)
    CampaignProcedure.objects.bulk_create(
        CampaignProcedure(campaign=campaign, procedure=procedure, position=i)
        for i, procedure in enumerate(draft.procedures))
    conditions = _conditions(campaign, draft)
    if draft.reference in draft.materials:
        campaign.reference = conditions[draft.materials.index(draft.reference)]
        campaign.save(update_fields=["reference"])
    _specimens(campaign, conditions, draft)
    return campaign


def _conditions(campaign: Campaign, draft: CampaignDraft) -> list[Condition]:
    factor = Factor.objects.create(campaign=campaign, position=0, kind="material", name="Material")
    conditions = []
    for i, material in enumerate(draft.materials):
        level = Level.objects.create(factor=factor, position=i, label=material.name, material=material)
        condition = Condition.objects.create(campaign=campaign, position=i, label=material.name,
                                             detail=draft.details.get(material.pk, ""), material=material)
        condition.levels.add(level)
        conditions.append(condition)
    return conditions


def _specimens(campaign: Campaign, conditions: list[Condition], draft: CampaignDraft) -> None:
    for position, procedure in enumerate(draft.procedures):
        order = blocked_order(len(conditions), draft.replicates, draft.seed + position)
        add_specimens(campaign, procedure, [(conditions[c], r + 1) for c, r in order])


def add_specimens(campaign: Campaign, procedure: Procedure,
                  wanted: Sequence[tuple[Condition, int]]) -> list[Specimen]:
    """Make specimens (condition, replicate) in this order, each with the workshop's next ID."""
    first = _take_numbers(campaign.workshop_id, len(wanted))
    start = Specimen.objects.filter(campaign=campaign, procedure=procedure).count()
    return Specimen.objects.bulk_create([
        Specimen(workshop_id=campaign.workshop_id, campaign=campaign, condition=condition,
                 procedure=procedure, code=specimen_code(first + i), replicate=replicate,
                 run_order=start + i)
        for i, (condition, replicate) in enumerate(wanted)])


def _take_numbers(workshop_id: int, count: int) -> int:
    """Reserve so many specimen numbers; returns the first."""
    workshop = Workshop.objects.select_for_update().get(pk=workshop_id)
    first = workshop.next_specimen
    workshop.next_specimen = first + count
    workshop.save(update_fields=["next_specimen"])
    return first
