"""Batches: fill plates, note what was printed and with what, what failed, print again."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Max, Q, QuerySet
from django.utils import timezone

from brunt_core.errors import InputError
from brunt_core.printing.checks import DEFECTS, dryness
from brunt_core.printing.plates import Piece, Placed, fill_plates
from brunt_core.printing.recipes import FIELDS
from brunt_core.printing.resolved import Settings, plate_key
from brunt_core.specimens.mesh import standing_size
from brunt_core.specimens.solid import expected_mass
from brunt_web.campaigns import history
from brunt_web.campaigns.actions.change_plan import promote_spare
from brunt_web.campaigns.actions.plan_campaign import one_more
from brunt_web.campaigns.models import Campaign, Condition, Specimen
from brunt_web.campaigns.recorded import MadeAs
from brunt_web.campaigns.resolved import Recipes
from brunt_web.campaigns.resolved_parts import Resolved, filling_of_settings
from brunt_web.library.models import Lot, Printer, Procedure
from brunt_web.library.queries import hours_open
from brunt_web.printing.models import Batch, Plate, Print


@dataclass(frozen=True)
class BatchDraft:
    """What is to be printed one plate after the other.

    ``per_object`` says that the slicer sets walls and infill for each object;
    ``each`` how many plates at least of what cannot share one; ``at`` when, now where it is not given.
    """

    printer: Printer
    procedure: Procedure
    seed: int
    lot: Lot | None = None
    gap: float = 5.0
    most: int | None = None
    per_object: bool = False
    each: int = 1
    at: datetime | None = None


def waiting_for_print(
    campaign: Campaign, procedure: Procedure, lot: Lot | None = None
) -> QuerySet[Specimen]:
    """Specimens that are not made and on no plate, of the lot's material when one is named.

    A condition that names a lot waits for that lot alone.
    """
    found = Specimen.objects.filter(
        campaign=campaign, procedure=procedure, made="planned", print__isnull=True
    ).select_related("condition__material", "condition__recipe", "condition__lot", "procedure")
    if lot is None:
        return found
    of_lot = Q(condition__lot__isnull=True) | Q(condition__lot=lot)
    return found.filter(of_lot, condition__material_id=lot.material_id)


@transaction.atomic
def make_batch(campaign: Campaign, by: User, draft: BatchDraft) -> Batch:
    """Put waiting specimens on plates: what needs unlike settings never shares one.

    Conditions are spread over plates as far as their recipes allow; plates come in random order.
    Raises :class:`InputError` when nothing waits, a specimen does not fit the bed, a level does not
    go into its recipe, or the lot is another than a condition asks for.
    """
    Campaign.objects.select_for_update().get(pk=campaign.pk)
    specimens, plans, recipes = _planned(campaign, draft)
    number = (campaign.batches.aggregate(last=Max("number"))["last"] or 0) + 1
    base = recipes.base(specimens[0].condition, draft.procedure)
    batch = Batch.objects.create(
        campaign=campaign,
        number=number,
        printer=draft.printer,
        recipe=base,
        lot=draft.lot,
        orientation=draft.procedure.orientation,
        gap=draft.gap,
        seed=draft.seed,
        per_object=draft.per_object,
        by=by,
    )
    _place(batch, specimens, plans, draft, by)
    return batch


def _planned(
    campaign: Campaign, draft: BatchDraft
) -> tuple[list[Specimen], dict[int, Resolved], Recipes]:
    """Which specimens, and what each must be printed with."""
    specimens = _chosen(campaign, draft)
    recipes = Recipes.of(campaign)
    plans = {s.pk: recipes.resolved(s.condition, draft.procedure) for s in specimens}
    _check_plans(specimens, plans, draft)
    return specimens, plans, recipes


def fill_ahead(campaign: Campaign, draft: BatchDraft) -> list[Plate]:
    """The plates as they would be filled, each with its ``laid`` prints; nothing is stored.

    Raises :class:`InputError` as :func:`make_batch` does.
    """
    specimens, plans, recipes = _planned(campaign, draft)
    base = recipes.base(specimens[0].condition, draft.procedure)
    batch = Batch(
        campaign=campaign,
        number=0,
        printer=draft.printer,
        recipe=base,
        lot=draft.lot,
        orientation=draft.procedure.orientation,
        gap=draft.gap,
        seed=draft.seed,
        per_object=draft.per_object,
    )
    places, known, plates = _filled(batch, specimens, plans, draft)
    for place in places:
        s = known[place.name]
        own = _own(plans[s.pk]) if draft.per_object else {}
        one = Print(specimen=s, plate=plates[place.plate], x=place.x, y=place.y, settings=own)
        plates[place.plate].laid.append(one)
    return list(plates.values())


def _chosen(campaign: Campaign, draft: BatchDraft) -> list[Specimen]:
    waiting = list(waiting_for_print(campaign, draft.procedure, draft.lot))
    orders = dict(
        draft.procedure.turns.filter(specimen__in=[s.pk for s in waiting]).values_list(
            "specimen_id", "run_order"
        )
    )
    waiting.sort(key=lambda s: orders.get(s.pk, 0))
    specimens = waiting[: draft.most]
    if not specimens:
        what = f" of {draft.lot}" if draft.lot else ""
        raise InputError(
            f"No specimen{what} waits to be printed for {draft.procedure.name}.", "procedure"
        )
    if len({s.condition.material_id for s in specimens}) > 1:
        raise InputError(
            "These specimens are of several materials; choose the lot, and they go into batches of their own.",
            "lot",
        )
    return specimens


def _check_plans(
    specimens: Sequence[Specimen], plans: Mapping[int, Resolved], draft: BatchDraft
) -> None:
    lots = {s.condition.lot for s in specimens if s.condition.lot_id}
    if draft.lot is None and lots:
        names = ", ".join(sorted(str(x) for x in lots))
        raise InputError(f"These conditions name their lot: {names}.", "lot")
    for s in specimens:
        plan = plans[s.pk]
        if plan.problem:
            raise InputError(f"{s.condition}: {plan.problem}", "recipe")
        if plan.recipe and plan.kind != draft.printer.kind:
            raise InputError(
                f"{draft.printer} is a {draft.printer.kind} printer; {plan.recipe} is a {plan.kind} recipe.",
                "printer",
            )
        if plan.recipe is None and s.condition.requirements.settings:
            raise InputError(
                f"{s.condition} changes a print setting, but no recipe is chosen: choose one at Ask.",
                "recipe",
            )


def _place(
    batch: Batch,
    specimens: Sequence[Specimen],
    plans: Mapping[int, Resolved],
    draft: BatchDraft,
    by: User,
) -> None:
    places, known, plates = _filled(batch, specimens, plans, draft)
    for plate in plates.values():
        plate.save()
    Print.objects.bulk_create(
        Print(
            specimen=known[p.name],
            plate=plates[p.plate],
            x=p.x,
            y=p.y,
            settings=_own(plans[known[p.name].pk]) if draft.per_object else {},
        )
        for p in places
    )
    at = draft.at or timezone.now()
    for number, plate in plates.items():
        on = [known[p.name] for p in places if p.plate == number]
        history.note(on, "on_plate", by, at, f"put on plate {plate.number} of batch {batch.number}")


def _filled(
    batch: Batch, specimens: Sequence[Specimen], plans: Mapping[int, Resolved], draft: BatchDraft
) -> tuple[list[Placed], dict[str, Specimen], dict[int, Plate]]:
    """Where each specimen lies, and the plates they need, not stored."""
    pieces = [_piece(s, plans[s.pk], draft) for s in specimens]
    bed = (draft.printer.bed_width, draft.printer.bed_depth)
    places = fill_plates(pieces, bed, draft.gap, draft.seed, each=draft.each)
    known = {s.code: s for s in specimens}
    plates: dict[int, Plate] = {}
    for place in places:
        s = known[place.name]
        if place.plate not in plates:
            plates[place.plate] = Plate(
                batch=batch,
                number=place.plate + 1,
                settings=_shared(plans[s.pk], draft.per_object),
                dryness=_dryness(s.condition),
            )
            plates[place.plate].laid = []
    return places, known, plates


def _dryness(condition: Condition) -> str:
    """How dry a condition requires its filament to be; empty where it requires nothing."""
    drying = condition.requirements.drying
    return drying.word if drying else ""


def _piece(s: Specimen, plan: Resolved, draft: BatchDraft) -> Piece:
    width, depth, height = standing_size(s.geometry, s.orientation)
    dry = _dryness(s.condition)
    key = (*plate_key(plan.kind, plan.settings, draft.per_object), f"dryness={dry}", s.orientation)
    return Piece(s.code, str(s.condition_id), width, depth, key, height)


def _shared(plan: Resolved, per_object: bool) -> Settings:
    """What all objects of a plate have alike."""
    fields = FIELDS[plan.kind]
    return {k: v for k, v in plan.settings.items() if not (per_object and fields[k].per_object)}


def _own(plan: Resolved) -> Settings:
    """What an object has of its own."""
    return {k: v for k, v in plan.settings.items() if FIELDS[plan.kind][k].per_object}


@dataclass(frozen=True)
class Used:
    """What a plate was really printed with: settings, and where that is known from."""

    settings: Settings
    source: str


@transaction.atomic
def mark_printed(plate: Plate, by: User, at: datetime, used: Used | None = None) -> Plate:
    """Note that a plate is printed, with what its plate sheet says or with what it really was.

    What it used is taken from the lot, where that can be known. Raises :class:`InputError` when it is
    noted already.
    """
    plate = Plate.objects.select_for_update().select_related("batch").get(pk=plate.pk)
    if plate.printed_at:
        raise InputError("This plate is already recorded as printed.", "plate")
    plate.printed_at = at
    _note_used(plate, used)
    prints = _prints(plate)
    history.made([p.specimen for p in prints], by, at, "printed", _facts(plate, prints, at))
    _take_from_lot(plate, prints)
    return plate


@transaction.atomic
def correct_used(plate: Plate, by: User, at: datetime, used: Used | None) -> Plate:
    """Say again what a printed plate was printed with; deviations follow.

    Raises :class:`InputError` for a plate that is not printed.
    """
    plate = Plate.objects.select_for_update().select_related("batch").get(pk=plate.pk)
    if not plate.printed_at:
        raise InputError("This plate is not printed yet.", "plate")
    _note_used(plate, used)
    prints = [p for p in _prints(plate) if p.specimen.made != "planned"]
    facts = _facts(plate, prints, plate.printed_at)
    for one in prints:
        one.specimen.made_as = facts[one.specimen_id]
    specimens = [p.specimen for p in prints]
    Specimen.objects.bulk_update(specimens, ["made_as"])
    history.note(specimens, "print_corrected", by, at, f"printed with {plate.used_from}")
    history.settle(specimens)
    return plate


def _note_used(plate: Plate, used: Used | None) -> None:
    plate.used = used.settings if used else plate.settings
    plate.used_from = (used.source if used else "as the plate sheet says")[:160]
    plate.save(update_fields=["printed_at", "used", "used_from"])


def _prints(plate: Plate) -> list[Print]:
    return list(
        plate.prints.select_related(
            "specimen__condition__material",
            "specimen__condition__lot",
            "specimen__condition__recipe",
            "specimen__procedure__variant",
            "specimen__campaign__recipe",
        )
    )


def _facts(plate: Plate, prints: Sequence[Print], at: datetime) -> dict[int, MadeAs]:
    """What each specimen of a plate was made as."""
    batch = plate.batch
    lot = batch.lot
    shared = MadeAs(
        plate=f"plate {plate.number} of batch {batch.number}",
        batch=batch.number,
        printer=batch.printer.name,
        lot=lot.name if lot else "",
        colour=lot.colour if lot else "",
        recipe=plate.used_from,
        dryness=dryness(lot.material.family, hours_open(lot, at), lot.dryings.exists())
        if lot
        else "",
    )
    return {
        p.specimen_id: replace(
            shared,
            lot_planned=p.specimen.condition.lot.name if p.specimen.condition.lot else "",
            settings={**p.settings, **plate.used}
            if plate.used != plate.settings
            else {**plate.used, **p.settings},
            orientation=p.specimen.orientation,
        )
        for p in prints
    }


def _take_from_lot(plate: Plate, prints: Sequence[Print]) -> None:
    """Each specimen by its own walls, layers and infill; the lot's row is locked meanwhile."""
    if not plate.batch.lot_id:
        return
    lot = Lot.objects.select_for_update().select_related("material").get(pk=plate.batch.lot_id)
    if lot.remaining is None or not lot.material.density:
        return
    used = 0.0
    for p in prints:
        filling = filling_of_settings(p.specimen.made_as.settings)
        s = p.specimen
        used += expected_mass(s.geometry, s.orientation, filling, lot.material.density)[0]
    lot.remaining = max(lot.remaining - used, 0.0)
    lot.save(update_fields=["remaining"])


@transaction.atomic
def note_print(
    one: Print, by: User, at: datetime, failed: bool, defects: Sequence[str], note: str
) -> Print:
    """Note what went wrong with one print.

    Raises :class:`InputError` for a defect that is not on the list, or a tested specimen called failed.
    """
    unknown = [d for d in defects if d not in DEFECTS]
    if unknown:
        raise InputError(f"“{unknown[0]}” is not on the list of defects.", "defects")
    specimen = one.specimen
    if failed and specimen.turns.exclude(state__in=("waiting", "gone")).exists():
        raise InputError(f"{specimen.code} is tested; mark its test as void instead.", "failed")
    if failed and not one.failed:
        promote_spare(specimen)
    one.failed, one.defects, one.note = failed, list(defects), note.strip()[:300]
    one.save(update_fields=["failed", "defects", "note"])
    words = ", ".join([*(DEFECTS[d] for d in defects), note.strip()]).strip(", ")
    history.record_print_outcome(specimen, by, at, failed, [DEFECTS[d] for d in defects], words)
    return one


@transaction.atomic
def reprint(specimen: Specimen, by: User, at: datetime | None = None) -> Specimen:
    """A new specimen in the place of a failed one, linked to it.

    Raises :class:`InputError` when the old one has not failed or is replaced already.
    """
    if specimen.made != "failed":
        raise InputError(
            f"{specimen.code} has not failed; there is nothing to reprint.", "specimen"
        )
    standing_in = Specimen.objects.filter(replaces=specimen).first()
    if standing_in:
        raise InputError(f"{specimen.code} is replaced by {standing_in.code} already.", "specimen")
    made = one_more(specimen.condition, specimen.procedure, by, at=at)[0]
    made.replaces = specimen
    made.save(update_fields=["replaces"])
    return made


@transaction.atomic
def take_off_plate(plate: Plate, by: User, at: datetime) -> None:
    """Empty a plate that is not printed: its specimens wait to be put on another.

    Raises :class:`InputError` for a printed one.
    """
    plate = Plate.objects.select_for_update().select_related("batch").get(pk=plate.pk)
    if plate.printed_at:
        raise InputError("This plate is printed; its specimens stay on it.", "plate")
    specimens = [p.specimen for p in plate.prints.select_related("specimen")]
    history.note(
        specimens,
        "off_plate",
        by,
        at,
        f"taken off plate {plate.number} of batch {plate.batch.number}",
    )
    plate.delete()
    if not plate.batch.plates.exists():
        plate.batch.delete()
