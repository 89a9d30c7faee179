"""Reading the Print print stage."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from django.db.models import Count, Q, QuerySet
from django.http import Http404

from brunt_core.errors import InputError
from brunt_core.printing.checks import damp
from brunt_core.printing.plates import Piece, alone_on_plates, tall
from brunt_core.printing.recipes import FIELDS, unlikely
from brunt_core.printing.resolved import only_per_object, setting_differences, setting_text, values
from brunt_core.specimens.marking import NOZZLE
from brunt_core.specimens.mesh import has_room, standing_size
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.campaigns.resolved import Recipes
from brunt_web.library.models import Lot, Procedure
from brunt_web.library.queries import hours_open
from brunt_web.people.models import Workshop
from brunt_web.printing.actions.batches import waiting_for_print
from brunt_web.printing.models import Batch, Plate, Print


def batch_of(workshop: Workshop, pk: int) -> Batch:
    """One batch of the workshop, or 404."""
    found = (
        Batch.objects.filter(campaign__workshop=workshop, pk=pk)
        .select_related(
            "campaign__workshop", "campaign__recipe", "printer", "recipe", "lot__material"
        )
        .first()
    )
    if found is None:
        raise Http404("There is no such batch in this workshop.")
    return found


def plate_of(workshop: Workshop, batch: int, number: int) -> Plate:
    """One plate of the workshop, or 404."""
    found = (
        Plate.objects.filter(batch__campaign__workshop=workshop, batch=batch, number=number)
        .select_related(
            "batch__campaign", "batch__printer", "batch__recipe", "batch__lot__material"
        )
        .first()
    )
    if found is None:
        raise Http404("This batch has no such plate.")
    return found


def batches_of(campaign: Campaign) -> QuerySet[Batch]:
    """The campaign's batches with their counts."""
    return campaign.batches.select_related("printer", "recipe", "lot__material").annotate(
        count=Count("plates__prints", distinct=True),
        sheets=Count("plates", distinct=True),
        printed=Count("plates", filter=Q(plates__printed_at__isnull=False), distinct=True),
        failures=Count("plates__prints", filter=Q(plates__prints__failed=True), distinct=True),
        measured=Count(
            "plates__prints",
            filter=Q(plates__prints__specimen__events__kind__in=("measured", "weighed")),
            distinct=True,
        ),
    )


def plates_waiting(campaign: Campaign) -> QuerySet[Plate]:
    """Plates that are filled and not printed, in the order they are to be printed."""
    return (
        Plate.objects.filter(batch__campaign=campaign, printed_at__isnull=True)
        .select_related("batch")
        .order_by("batch__number", "number")
    )


@dataclass(frozen=True)
class DrawnPlate:
    """One plate as it is drawn: bed and places in mm, y turned for drawing, and its plate sheet."""

    plate: Plate
    prints: list[Print]
    width: float
    depth: float
    changed: list[tuple[str, str, str]]
    settings: list[tuple[str, str, str]]
    used: list[tuple[str, str, str]]
    groups: list[tuple[str, list[Print]]]
    tall: list[str]
    bagged: bool

    @property
    def view(self) -> str:
        """The part of the bed that is drawn: what lies on it and a margin, at least 90 mm of it."""
        left = min((p.x for p in self.prints), default=0.0)
        right = max((p.x + p.width for p in self.prints), default=self.width)
        top = min((p.top for p in self.prints), default=0.0)
        low = max((p.top + p.depth for p in self.prints), default=self.depth)
        wide = min(max((right - left) + 16, (low - top + 16) * 1.5, 90), self.width + 4)
        high = wide / 1.5
        return f"{(left + right - wide) / 2:.1f} {(top + low - high) / 2:.1f} {wide:.1f} {high:.1f}"

    @property
    def number(self) -> int:
        """Its number in the batch, which is the order it is printed in."""
        return self.plate.number


def plates_of(batch: Batch) -> list[DrawnPlate]:
    """The batch's plates with every specimen's place and what each is printed with."""
    prints = list(
        Print.objects.filter(plate__batch=batch).select_related(
            "plate", "specimen__condition", "specimen__procedure__variant"
        )
    )
    by_plate: dict[int, list[Print]] = {}
    for one in prints:
        one.width, one.depth, one.height = standing_size(
            one.specimen.geometry, one.specimen.orientation
        )
        one.top = batch.printer.bed_depth - one.y - one.depth
        by_plate.setdefault(one.plate_id, []).append(one)
    return [
        _drawn(batch, plate, by_plate.get(plate.pk, []))
        for plate in batch.plates.prefetch_related("attempts")
    ]


def _drawn(batch: Batch, plate: Plate, prints: list[Print]) -> DrawnPlate:
    kind = batch.recipe.kind if batch.recipe else "filament"
    base = batch.recipe.settings if batch.recipe else {}
    named = {k: v for k, v in base.items() if k in plate.settings or not batch.per_object}
    groups: dict[str, list[Print]] = {}
    for one in prints:
        groups.setdefault(str(one.specimen.condition), []).append(one)
    used = setting_differences(kind, plate.settings, plate.used) if plate.used else []
    return DrawnPlate(
        plate=plate,
        prints=prints,
        width=batch.printer.bed_width,
        depth=batch.printer.bed_depth,
        changed=setting_differences(kind, named, plate.settings),
        settings=[
            (f.group, f.label, setting_text(plate.settings, k))
            for k, f in FIELDS[kind].items()
            if setting_text(plate.settings, k)
        ],
        used=[row for row in used if row[1] and row[2]],
        groups=list(groups.items()),
        bagged=any(
            not has_room(p.specimen.geometry, nozzle_of(batch, plate.settings)) for p in prints
        ),
        tall=list(dict.fromkeys(t for p in prints if (t := tall(_piece(p))))),
    )


def _piece(one: Print) -> Piece:
    return Piece(one.specimen.code, "", one.width, one.depth, height=one.height)


# What a resin printer shows clearly, mm; common practice, no source.
_RESIN_STROKE = 0.2


def nozzle_of(batch: Batch, settings: Mapping[str, Mapping[str, object]]) -> float:
    """The nozzle that lays the strokes of an ID, mm: as the recipe says, else the usual one."""
    if batch.recipe and batch.recipe.kind == "resin":
        return _RESIN_STROKE
    size = values(settings).get("nozzle_size")
    return round(size * 1e3, 3) if size else NOZZLE


@dataclass(frozen=True)
class Against:
    """One setting: what the plate sheet says, what was found, and whether they agree; empty where not stated."""

    label: str
    plate_sheet: str
    found: str

    @property
    def verdict(self) -> str:
        """alike, other, or which side does not say."""
        if self.plate_sheet and self.found:
            return "alike" if self.plate_sheet == self.found else "other"
        return "not in the file" if self.plate_sheet else "not on the plate sheet"


def set_against(
    kind: str,
    plate_sheet: Mapping[str, Mapping[str, object]],
    found: Mapping[str, Mapping[str, object]],
) -> list[Against]:
    """Every setting that either names, those that differ first."""
    rows = [
        Against(f.label, setting_text(plate_sheet, k), setting_text(found, k))
        for k, f in FIELDS[kind].items()
        if setting_text(plate_sheet, k) or setting_text(found, k)
    ]
    order = {"other": 0, "not in the file": 1, "not on the plate sheet": 2, "alike": 3}
    return sorted(rows, key=lambda r: order[r.verdict])


def own_settings(one: Print, kind: str) -> list[tuple[str, str]]:
    """What one object has of its own: (label, value)."""
    return [
        (f.label, setting_text(one.settings, k))
        for k, f in FIELDS[kind].items()
        if k in one.settings
    ]


def cannot_be_significant(plates: Sequence[DrawnPlate]) -> list[str]:
    """Conditions of which each sits on one plate of its own."""
    on: dict[str, list[str]] = {}
    for drawn in plates:
        for name, _ in drawn.groups:
            on.setdefault(name, []).append(str(drawn.number))
    return alone_on_plates(on)


@dataclass(frozen=True)
class Waiting:
    """What waits to be printed of one procedure: how many, on how many kinds of plate."""

    procedure: Procedure
    count: int
    kinds: int
    per_object: bool


def waiting(campaign: Campaign, procedures: Sequence[Procedure]) -> list[Waiting]:
    """What waits for each column that has specimens of its own; none where all of it is made."""
    recipes = Recipes.of(campaign)
    found = []
    for procedure in procedures:
        specimens = list(waiting_for_print(campaign, procedure))
        if not specimens:
            continue
        conditions = {s.condition_id: s.condition for s in specimens}
        plans = [recipes.resolved(c, procedure) for c in conditions.values()]
        kinds = {str(sorted((k, setting_text(p.settings, k)) for k in p.settings)) for p in plans}
        same = len({p.kind for p in plans}) == 1
        per_object = same and only_per_object(plans[0].kind, [p.settings for p in plans])
        found.append(Waiting(procedure, len(specimens), len(kinds), per_object))
    return found


def recipe_warnings(batch: Batch, plates: Sequence[DrawnPlate]) -> list[str]:
    """Settings of the plates that are unusual for the lot's family."""
    if not batch.recipe or not batch.lot:
        return []
    family = batch.lot.material.family
    found = [
        sentence
        for drawn in plates
        for _, sentence in unlikely(batch.recipe.kind, family, values(drawn.plate.settings))
    ]
    return list(dict.fromkeys(found))


def lot_warning(lot: Lot | None, now: datetime) -> str:
    """A sentence when the lot is too damp to print."""
    return damp(lot.material.family, hours_open(lot, now)) if lot else ""


def lots_for(workshop: Workshop, campaign: Campaign) -> list[Lot]:
    """The lots of the campaign's materials."""
    return list(
        Lot.objects.filter(
            workshop=workshop, archived_at__isnull=True, material__condition__campaign=campaign
        )
        .distinct()
        .select_related("material")
        .prefetch_related("dryings", "sealings")
    )


def print_of(batch: Batch, code: str) -> Print:
    """One print of a batch by its specimen's ID. Raises :class:`InputError` when it is not there."""
    found = (
        Print.objects.filter(plate__batch=batch, specimen__code=code.strip().upper())
        .select_related("specimen__campaign", "specimen__procedure", "specimen__condition")
        .first()
    )
    if found is None:
        raise InputError("That specimen is not in this batch.", "specimen")
    return found


def unmade_conditions(campaign: Campaign) -> list[tuple[Condition, int]]:
    """Conditions with specimens that are still to be made, and how many."""
    left = Q(specimens__made="planned")
    rows = campaign.conditions.select_related("material").annotate(
        left=Count("specimens", filter=left, distinct=True)
    )
    return [(c, c.left) for c in rows if c.left]
