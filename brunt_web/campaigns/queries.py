"""Reading campaigns. Nobody reads another workshop's."""

from collections import defaultdict
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from django.db.models import Count, Q, QuerySet
from django.http import Http404

from brunt_core.methods.registry import held_outcomes
from brunt_core.statistics.outliers import strange_one
from brunt_core.statistics.summaries import Summary, summarise
from brunt_web.campaigns.models import Campaign, Condition, Specimen
from brunt_web.library.models import Procedure

UNTESTED = ("planned", "printed", "running")


def campaigns_of(workshop) -> QuerySet[Campaign]:
    """The workshop's campaigns that are not archived, newest first."""
    return Campaign.objects.filter(workshop=workshop, archived_at__isnull=True)


def campaign_of(workshop, pk: int) -> Campaign:
    """One campaign of the workshop, or 404."""
    found = (
        Campaign.objects.filter(workshop=workshop, pk=pk)
        .select_related("workshop", "reference", "recipe")
        .first()
    )
    if found is None:
        raise Http404("There is no such campaign in this workshop.")
    return found


def procedures_of(campaign: Campaign) -> list[Procedure]:
    """The campaign's procedures in column order."""
    return list(
        campaign.procedures.select_related("rig", "variant").order_by("campaignprocedure__position")
    )


def progress(campaign: Campaign) -> dict[str, int]:
    """Counts for the beam."""
    return Specimen.objects.filter(campaign=campaign).aggregate(
        specimens=Count("id"),
        tested=Count("test"),
        void=Count("id", filter=Q(test__outcome="void")),
        printed=Count(
            "id", filter=Q(print__batch__printed_at__isnull=False) | Q(test__isnull=False)
        ),
        waiting=Count("id", filter=Q(test__isnull=True, spare=False) & ~Q(print__failed=True)),
    )


@dataclass
class Cell:
    """One condition under one procedure: its specimens and what they come to."""

    specimens: list[Specimen] = field(default_factory=list)
    summary: Summary | None = None

    with_all: Summary | None = None
    strange: str = ""

    @property
    def left_out(self) -> int:
        """How many are left out of the mean."""
        return sum(1 for s in self.specimens if s.state in ("broken", "held") and s.test.excluded)

    @property
    def waiting(self) -> int:
        """How many are not tested yet and have no clock running."""
        return sum(1 for s in self.specimens if s.state in ("planned", "printed") and not s.spare)

    @property
    def running(self) -> int:
        """How many have their clock running."""
        return sum(1 for s in self.specimens if s.state == "running")

    @property
    def apart(self) -> int:
        """How many ended otherwise than those averaged, where the method keeps these apart."""
        counted = self.summary.n if self.summary else 0
        done = sum(1 for s in self.specimens if s.state in ("broken", "held"))
        return done - self.left_out - counted if counted else 0


@dataclass
class RackRow:
    """One condition's cells, one for each procedure."""

    condition: Condition
    cells: list[Cell]


def rack_specimens(campaign_ids) -> list[Specimen]:
    """All specimens of some campaigns with state, break place and the main result's bounds."""
    specimens = (
        Specimen.objects.filter(campaign_id__in=campaign_ids)
        .select_related("test", "print__batch", "clock")
        .prefetch_related("results")
        .order_by("condition_id", "replicate")
    )
    for specimen in specimens:
        specimen.state = state_of(specimen)
    return list(specimens)


def state_of(specimen: Specimen) -> str:
    """``planned``, ``printed``, ``failed``, ``running``, ``broken``, ``held`` or ``void``."""
    test, made = getattr(specimen, "test", None), getattr(specimen, "print", None)
    if test is None and getattr(specimen, "clock", None):
        return "running"
    return state_from(
        test.outcome if test else None, (made.failed, made.batch.printed_at) if made else None
    )


def state_from(outcome: str | None, made: tuple[bool, datetime | None] | None) -> str:
    """The state from a test's outcome and a print's (failed, when it was printed)."""
    if outcome is None:
        if made is None:
            return "planned"
        return "failed" if made[0] else "printed" if made[1] else "planned"
    if outcome == "void":
        return "void"
    return "held" if outcome in held_outcomes() else "broken"


def rack(
    campaign: Campaign, procedures: list[Procedure], specimens: list[Specimen] | None = None
) -> list[RackRow]:
    """The campaign as rows of conditions and columns of procedures."""
    cells: dict[tuple[int, int], Cell] = defaultdict(Cell)
    for specimen in rack_specimens([campaign.pk]) if specimens is None else specimens:
        cells[specimen.condition_id, specimen.procedure_id].specimens.append(specimen)
    for (_, procedure_id), cell in cells.items():
        procedure = next((p for p in procedures if p.pk == procedure_id), None)
        cell.summary = _summary(cell, procedure, everything=False)
        cell.strange = _strange(cell, procedure)
        cell.with_all = _summary(cell, procedure, everything=True) if cell.left_out else None
    return [RackRow(c, [cells[c.pk, p.pk] for p in procedures]) for c in campaign.conditions.all()]


def _counted(
    cell: Cell, procedure: Procedure | None, everything: bool
) -> list[tuple[Specimen, Any]]:
    """What a cell's mean is made of; unlike outcomes apart where the method asks for it."""
    if procedure is None:
        return []
    wanted = procedure.ranked_property.key
    found = [
        (s, r)
        for s in cell.specimens
        for r in s.results.all()
        if r.property_key == wanted and (everything or not s.test.excluded)
    ]
    main = procedure.method.averaged_outcome([s.test.outcome for s, _ in found])
    return [(s, r) for s, r in found if not main or s.test.outcome == main]


def _summary(cell: Cell, procedure: Procedure | None, everything: bool) -> Summary | None:
    values = [r.observation for _, r in _counted(cell, procedure, everything)]
    return summarise(values) if values else None


def _strange(cell: Cell, procedure: Procedure | None) -> str:
    """The ID of the cell's strange specimen by Grubbs' test, if there is one."""
    exact = {s.code: r for s, r in _counted(cell, procedure, False) if r.observation.is_exact}
    known = max((r.uncertainty or 0.0 for r in exact.values()), default=0.0)
    return strange_one({code: r.observation.anchor for code, r in exact.items()}, known)


def next_up(campaign: Campaign, but: Q | None = None) -> Specimen | None:
    """The specimen to test next: one procedure after the other, each in test order.

    ``but`` says which to pass over, unless there is no other.
    """
    waiting = untested(campaign).filter(clock__isnull=True)
    return (_first(waiting.exclude(but)) if but else None) or _first(waiting)


def _first(waiting: QuerySet[Specimen]) -> Specimen | None:
    found = waiting.select_related("condition", "procedure", "print__batch").first()
    if found:
        found.state = state_of(found)
    return found


@dataclass(frozen=True)
class Next:
    """What to do next: ``kind`` is print, mark, bench or done; the specimen or batch it is about."""

    kind: str
    specimen: Specimen | None = None
    batch: object = None
    count: int = 0


def what_next(campaign: Campaign, counts: dict[str, int]) -> Next:
    """Printed specimens go to the bench; a batch on the plate is to be noted; else more is to be printed.

    A campaign whose printing is not noted here goes straight to the bench.
    """
    following = next_up(campaign)
    if following is None:
        return Next("done" if counts["specimens"] else "nothing")
    batches = list(campaign.batches.order_by("number"))
    if (
        following.state == "printed"
        or not (batches or campaign.printer_id)
        or (counts["tested"] and not batches)
    ):
        return Next("bench", following)
    waiting = next((b for b in batches if b.printed_at is None), None)
    return (
        Next("mark", following, waiting)
        if waiting
        else Next("print", following, count=counts["specimens"] - counts["printed"])
    )


def untested(campaign: Campaign) -> QuerySet[Specimen]:
    """Specimens that can be tested, in test order: spares and failed prints are not."""
    return (
        in_test_order(campaign).filter(test__isnull=True, spare=False).exclude(print__failed=True)
    )


def in_test_order(campaign: Campaign) -> QuerySet[Specimen]:
    """The campaign's specimens, procedure by procedure, in their shuffled order."""
    return (
        Specimen.objects.filter(campaign=campaign, procedure__campaignprocedure__campaign=campaign)
        .annotate(unprinted=Q(print__batch__printed_at__isnull=True))
        .order_by("procedure__campaignprocedure__position", "skips", "unprinted", "run_order")
    )
