"""Batches: make one, note that it is printed, note what failed, print anew."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.db.models import Max

from brunt_core.errors import InputError
from brunt_core.printing.checks import DEFECTS
from brunt_core.printing.plates import Piece, fill_plates
from brunt_web.campaigns.actions.change_plan import promote_spare
from brunt_web.campaigns.actions.plan_campaign import add_specimens
from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.library.models import Lot, Printer, Procedure, Recipe
from brunt_web.printing.models import Batch, Print


@dataclass(frozen=True)
class BatchDraft:
    """What is to be printed together."""

    printer: Printer
    procedure: Procedure
    seed: int
    recipe: Recipe | None = None
    lot: Lot | None = None
    gap: float = 5.0
    most: int | None = None


def waiting_for_print(campaign: Campaign, procedure: Procedure, lot: Lot | None = None):
    """Specimens not in any batch and not tested, of the lot's material when one is named."""
    found = Specimen.objects.filter(
        campaign=campaign, procedure=procedure, print__isnull=True, test__isnull=True
    ).select_related("condition")
    return found.filter(condition__material_id=lot.material_id) if lot else found


@transaction.atomic
def make_batch(campaign: Campaign, by, draft: BatchDraft) -> Batch:
    """Put waiting specimens on plates, conditions spread by chance.

    Raises :class:`InputError` when nothing waits, or a specimen does not fit the bed.
    """
    specimens = list(
        waiting_for_print(campaign, draft.procedure, draft.lot).order_by("run_order")[: draft.most]
    )
    if not specimens:
        what = f" of {draft.lot.material}" if draft.lot else ""
        raise InputError(
            f"No specimen{what} waits to be printed for {draft.procedure.name}.", "procedure"
        )
    if len({s.condition.material_id for s in specimens}) > 1:
        raise InputError(
            "These specimens are of several materials; choose the lot, and they go into batches of their own.",
            "lot",
        )
    number = (campaign.batches.aggregate(last=Max("number"))["last"] or 0) + 1
    batch = Batch.objects.create(
        campaign=campaign,
        number=number,
        printer=draft.printer,
        recipe=draft.recipe or campaign.recipe,
        lot=draft.lot,
        orientation=draft.procedure.orientation,
        gap=draft.gap,
        seed=draft.seed,
        by=by,
    )
    places = fill_plates(
        _pieces(specimens, draft.procedure),
        (draft.printer.bed_width, draft.printer.bed_depth),
        draft.gap,
        draft.seed,
    )
    known = {s.code: s for s in specimens}
    Print.objects.bulk_create(
        Print(specimen=known[p.name], batch=batch, plate=p.plate, x=p.x, y=p.y) for p in places
    )
    return batch


def footprint(procedure: Procedure) -> tuple[float, float]:
    """Width and depth in mm on the plate, as it is printed."""
    width, length, depth = procedure.geometry.box
    return {"flat": (width, length), "edge": (depth, length), "upright": (width, depth)}[
        procedure.orientation
    ]


def _pieces(specimens: Sequence[Specimen], procedure: Procedure) -> list[Piece]:
    width, depth = footprint(procedure)
    return [Piece(s.code, str(s.condition_id), width, depth) for s in specimens]


@transaction.atomic
def mark_printed(batch: Batch, at: datetime) -> Batch:
    """Note that it is printed, and take what it used from the lot, where that can be known."""
    if batch.printed_at:
        raise InputError("This batch is noted as printed already.", "batch")
    batch.printed_at = at
    batch.save(update_fields=["printed_at"])
    lot = batch.lot
    if lot and lot.remaining is not None and lot.material.density:
        used = sum(
            p.specimen.procedure.geometry.mass(lot.material.density)
            for p in batch.prints.select_related("specimen__procedure__variant")
        )
        lot.remaining = max(lot.remaining - used, 0.0)
        lot.save(update_fields=["remaining"])
    return batch


@transaction.atomic
def note_print(one: Print, failed: bool, defects: Sequence[str], note: str) -> Print:
    """Note what went wrong with one print.

    Raises :class:`InputError` for a defect that is not on the list, or a tested specimen called failed.
    """
    unknown = [d for d in defects if d not in DEFECTS]
    if unknown:
        raise InputError(f"“{unknown[0]}” is not on the list of defects.", "defects")
    if failed and hasattr(one.specimen, "test"):
        raise InputError(f"{one.specimen.code} is tested; void its test instead.", "failed")
    if failed and not one.failed:
        promote_spare(one.specimen)
    one.failed, one.defects, one.note = failed, list(defects), note.strip()[:300]
    one.save()
    return one


@transaction.atomic
def reprint(specimen: Specimen) -> Specimen:
    """A new specimen in the place of a failed one, linked to it.

    Raises :class:`InputError` when the old one has not failed or is replaced already.
    """
    one = getattr(specimen, "print", None)
    if one is None or not one.failed:
        raise InputError(
            f"{specimen.code} has not failed; there is nothing to print anew.", "specimen"
        )
    if hasattr(specimen, "replaced_by"):
        raise InputError(
            f"{specimen.code} is replaced by {specimen.replaced_by.code} already.", "specimen"
        )
    last = Specimen.objects.filter(
        condition=specimen.condition, procedure=specimen.procedure
    ).aggregate(last=Max("replicate"))["last"]
    made = add_specimens(specimen.campaign, specimen.procedure, [(specimen.condition, last + 1)])[0]
    made.replaces = specimen
    made.save(update_fields=["replaces"])
    return made
