"""Reading the Print station."""

from dataclasses import dataclass

from django.db.models import Count, Q
from django.http import Http404

from brunt_core.printing.checks import damp
from brunt_core.printing.recipes import unlikely
from brunt_web.campaigns.models import Campaign
from brunt_web.library.models import Lot
from brunt_web.library.queries import hours_open
from brunt_web.printing.actions.batches import footprint, waiting_for_print
from brunt_web.printing.models import Batch, Print


def batch_of(workshop, pk: int) -> Batch:
    """One batch of the workshop, or 404."""
    found = (
        Batch.objects.filter(campaign__workshop=workshop, pk=pk)
        .select_related("campaign__workshop", "printer", "recipe", "lot__material")
        .first()
    )
    if found is None:
        raise Http404("There is no such batch in this workshop.")
    return found


def batches_of(campaign: Campaign):
    """The campaign's batches with their counts."""
    return campaign.batches.select_related("printer", "recipe", "lot__material").annotate(
        count=Count("prints", distinct=True),
        failures=Count("prints", filter=Q(prints__failed=True), distinct=True),
        measured=Count("prints__specimen__measurements", distinct=True),
    )


@dataclass(frozen=True)
class Plate:
    """One plate drawn: bed and places in mm, y turned for drawing."""

    number: int
    prints: list
    width: float
    depth: float


def plates_of(batch: Batch) -> list[Plate]:
    """The batch's plates with every specimen's place."""
    prints = list(
        Print.objects.filter(batch=batch).select_related(
            "specimen__condition", "specimen__procedure__variant", "specimen__test"
        )
    )
    for one in prints:
        one.width, one.depth = footprint(one.specimen.procedure)
        one.top = batch.printer.bed_depth - one.y - one.depth
    numbers = sorted({p.plate for p in prints})
    return [
        Plate(
            n + 1,
            [p for p in prints if p.plate == n],
            batch.printer.bed_width,
            batch.printer.bed_depth,
        )
        for n in numbers
    ]


def waiting(campaign: Campaign, procedures) -> list[tuple]:
    """(procedure, how many wait to be printed) for each column."""
    return [(p, waiting_for_print(campaign, p).count()) for p in procedures]


def recipe_warnings(batch: Batch) -> list[str]:
    """Settings of the recipe that are unusual for the lot's family."""
    if not batch.recipe or not batch.lot:
        return []
    return [
        sentence
        for _, sentence in unlikely(
            batch.recipe.kind, batch.lot.material.family, batch.recipe.values
        )
    ]


def lot_warning(lot: Lot | None, now) -> str:
    """A sentence when the lot is too damp to print."""
    return damp(lot.material.family, hours_open(lot, now)) if lot else ""
