"""Reading campaigns. Nobody reads another workshop's. Every count is a column filter."""

from datetime import datetime

from django.db.models import Count, Q, QuerySet
from django.http import Http404
from django.utils import timezone

from brunt_web.campaigns.models import Campaign, CampaignProcedure, Condition, Specimen, Turn
from brunt_web.library.models import Procedure
from brunt_web.people.models import Workshop

DONE = ("read", "held", "broken", "void")


def campaigns_of(workshop: Workshop) -> QuerySet[Campaign]:
    """The workshop's campaigns that are not archived, newest first."""
    return Campaign.objects.filter(workshop=workshop, archived_at__isnull=True)


def campaign_of(workshop: Workshop, pk: int) -> Campaign:
    """One campaign of the workshop, or 404."""
    found = Campaign.objects.filter(workshop=workshop, pk=pk).select_related("recipe").first()
    if found is None:
        raise Http404("There is no such campaign in this workshop.")
    found.workshop = workshop
    return found


def procedures_of(campaign: Campaign) -> list[Procedure]:
    """The campaign's procedures in column order."""
    return list(
        campaign.procedures.select_related("rig", "variant").order_by("campaignprocedure__position")
    )


def columns_of(campaign: Campaign) -> list[CampaignProcedure]:
    """The campaign's columns in order, each with what it is done after."""
    return list(
        CampaignProcedure.objects.filter(campaign=campaign).select_related(
            "procedure__rig", "procedure__variant", "after__procedure"
        )
    )


def conditions_made(campaign: Campaign) -> list[Condition]:
    """The campaign's conditions with their recipe and lot; few have a recipe or lot of their own."""
    conditions = campaign.conditions.select_related("material")
    return list(conditions.prefetch_related("recipe", "lot"))


def progress(campaign: Campaign) -> dict[str, int]:
    """Counts for the stage bar: of specimens by how they were made, of turns by how they ended."""
    kinds = (
        Turn.objects.filter(campaign=campaign)
        .order_by()
        .values_list(
            "state",
            "step",
            *(f"specimen__{k}" for k in ("made", "outstanding", "spare", "treated")),
        )
        .annotate(n=Count("id"))
    )
    counts = dict.fromkeys(_of_kind("", 0, "", "", False, False), 0)
    for *kind, n in kinds:
        for key, holds in _of_kind(*kind).items():
            counts[key] += n * holds
    return counts


def _of_kind(
    state: str, step: int, made: str, outstanding: str, spare: bool, treated: bool
) -> dict[str, bool]:
    """Which counts a turn belongs to; those of specimens are taken at their first turn."""
    first = step == 0 and made == "made"
    return {
        "specimens": step == 0,
        "printed": first,
        "outstanding": first and outstanding in ("treatment", "state") and not spare,
        "treated": first and treated,
        "tests": True,
        "tested": state in DONE,
        "void": state == "void",
        "running": state == "running",
        "waiting": state in ("waiting", "running") and not spare and made != "failed",
    }


def in_test_order(campaign: Campaign | int) -> QuerySet[Turn]:
    """The campaign's turns, procedure by procedure, in their shuffled order."""
    return Turn.objects.filter(
        campaign=campaign, procedure__campaignprocedure__campaign=campaign
    ).order_by("procedure__campaignprocedure__position", "skips", "run_order")


def turns_fit_for_bench(now: datetime) -> Q:
    """Turns that can go to the bench by themselves: made, nothing outstanding, old enough, their turn come."""
    return Q(
        Q(specimen__ready_at__isnull=True) | Q(specimen__ready_at__lte=now),
        state="waiting",
        open=True,
        specimen__outstanding="",
        specimen__spare=False,
    )


def ready(campaign: Campaign, now: datetime | None = None) -> QuerySet[Turn]:
    """Turns that can be tested now, in test order."""
    return in_test_order(campaign).filter(turns_fit_for_bench(now or timezone.now()))


def next_up(campaign: Campaign, but: Q | None = None) -> Turn | None:
    """The turn to take next: one procedure after the other, each in test order.

    ``but`` says which to pass over, unless there is no other; likewise what lies in a run that is on.
    """
    waiting = ready(campaign)
    lies = ~Q(specimen__lies_in="")
    return _first(waiting.exclude(lies | but if but else lies)) or _first(waiting)


def _first(waiting: QuerySet[Turn]) -> Turn | None:
    return waiting.select_related("condition", "procedure", "specimen").first()


def outstanding(
    campaign: Campaign, kinds: tuple[str, ...] = ("treatment", "state")
) -> list[Specimen]:
    """Specimens that are made and still owe something before their test."""
    return list(
        Specimen.objects.filter(campaign=campaign, made="made", outstanding__in=kinds, spent=False)
        .select_related("condition", "procedure__variant")
        .order_by("condition__position", "replicate")
    )


def specimen_named(workshop: Workshop, code: str) -> Specimen | None:
    """A specimen of the workshop by its ID."""
    return (
        Specimen.objects.filter(workshop=workshop, code=code)
        .select_related("condition__material", "campaign__recipe", "procedure__variant")
        .first()
    )
