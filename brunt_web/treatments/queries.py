"""Reading the Treat stage: what is outstanding, step by step, and what was done."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime

from django.db.models import Count, Q, QuerySet

from brunt_core.planning.levels import heat_in, time_in
from brunt_core.quantities.rendering import render
from brunt_core.treatments.kind import Kind
from brunt_web.campaigns.models import Campaign, HistoryEvent, Specimen
from brunt_web.campaigns.outstanding import still_needs
from brunt_web.people.models import Workshop
from brunt_web.treatments.models import PLANNED, RUNNING, Inside, Run


@dataclass
class OutstandingSteps:
    """One step with the specimens that owe it, and those that cannot have it yet."""

    kind: str
    what: str
    temperature: float | None
    duration: float | None
    specimens: list[Specimen] = field(default_factory=list)
    unmade: int = 0
    done: int = 0

    @property
    def event(self) -> str:
        """How it stands in a history."""
        return "treated" if self.kind == "treatment" else "conditioned"


def outstanding_steps(campaign: Campaign) -> list[OutstandingSteps]:
    """Every step the campaign's conditions ask for, in order, with who still needs it."""
    found: dict[tuple[str, str], OutstandingSteps] = {}
    specimens = (
        Specimen.objects.filter(campaign=campaign)
        .exclude(made="failed")
        .prefetch_related("condition", "procedure__variant")
        .order_by("condition__position", "procedure_id", "replicate")
    )
    for specimen in specimens:
        for kind, step in specimen.condition.requirements.steps:
            row = found.setdefault(
                (kind, step.key),
                OutstandingSteps(kind, step.what, step.temperature, step.duration),
            )
            _count(row, specimen)
    return list(found.values())


def _count(row: OutstandingSteps, specimen: Specimen) -> None:
    if not still_needs(specimen, row.kind, row.what):
        row.done += 1
    elif specimen.made == "planned":
        row.unmade += 1
    else:
        row.specimens.append(specimen)


@dataclass
class Carried:
    """A step that was done on several specimens at once."""

    what: str
    at: datetime
    by: str
    codes: list[str]
    event: int


def treatments_done(campaign: Campaign) -> list[Carried]:
    """What was done, the latest first."""
    rows = (
        HistoryEvent.objects.filter(
            specimen__campaign=campaign,
            kind__in=("treated", "conditioned"),
            undone_at__isnull=True,
        )
        .select_related("specimen", "by")
        .order_by("-at", "specimen__code")
    )
    found: dict[tuple, Carried] = {}
    for event in rows:
        key = (event.what, event.at, event.by_id)
        who = event.by.get_username() if event.by else ""
        found.setdefault(key, Carried(event.what, event.at, who, [], event.pk)).codes.append(
            event.specimen.code
        )
    return list(found.values())


def in_their_state(campaign: Campaign) -> Sequence[Specimen]:
    """Specimens that were brought to a state and are not tested: they may be taken out of it."""
    return list(
        Specimen.objects.filter(
            campaign=campaign,
            outstanding="",
            condition__requirements__state__outstanding=True,
            turns__state="waiting",
        )
        .select_related("condition")
        .distinct()
        .order_by("condition__position", "replicate")
    )


def able_to_go_in(campaign: Campaign, what: str, event: str) -> list[Specimen]:
    """What may go into a run: made, not spent, in no open run; where some owe this step, only those."""
    held = Inside.objects.filter(out_at__isnull=True, run__state__in=(PLANNED, RUNNING))
    found = list(
        Specimen.objects.filter(campaign=campaign, made="made", spent=False)
        .exclude(pk__in=held.values("specimen_id"))
        .select_related(
            "condition__material", "condition__recipe", "procedure__variant", "campaign__recipe"
        )
        .order_by("condition__position", "procedure_id", "replicate")[:400]
    )
    kind = "treatment" if event == "treated" else "state"
    outstanding = [s for s in found if still_needs(s, kind, what)]
    return outstanding or found


def typed_in(what: str, kind: Kind) -> dict[str, str]:
    """What the words of a level say of a kind's parameters: its heat and its time."""
    said: dict[str, str] = {}
    keys = {p.key for p in kind.parameters}
    heat, time = heat_in(what), time_in(what)
    if heat is not None and "temperature" in keys:
        said["p-temperature"] = render(heat, "temperature", "°C")
    if time is not None and "time" in keys:
        said["p-time"] = render(time, "time", "h") if time >= 3600 else render(time, "time", "min")
    return said


def runs_of(campaign: Campaign) -> QuerySet[Run]:
    """The campaign's runs, open ones first, then the latest; with how many lie in each."""
    counts = Count("inside", filter=Q(inside__out_at__isnull=True))
    return (
        Run.objects.filter(campaign=campaign)
        .select_related("vessel", "own")
        .annotate(within=counts)
        .prefetch_related("steps")
        .order_by("ended_at", "-created_at")
    )


def open_runs(workshop: Workshop) -> QuerySet[Run]:
    """Every run of the workshop that is planned or goes on."""
    return (
        Run.objects.filter(workshop=workshop, state__in=(PLANNED, RUNNING))
        .select_related("vessel", "own", "campaign", "lot__material")
        .prefetch_related("steps")
        .order_by("started_at", "created_at")
    )
