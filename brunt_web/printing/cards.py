"""Plates as they lie, each with its heat and settings as a label, in the order they run."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

from brunt_core.printing.recipes import FIELDS, volumetric_flow
from brunt_core.printing.resin import print_seconds
from brunt_core.printing.resolved import setting_text, values
from brunt_core.specimens.mesh import standing_size
from brunt_core.specimens.solid import solid_share
from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.resolved_parts import filling_of_settings
from brunt_web.printing.models import Plate, Print

PLATE_UNKNOWN = 120
_SHOWN_IDS = 8
# What stands in large on a plate's label.
_HEAT = {"filament": "nozzle_temperature", "resin": "exposure"}


@dataclass(frozen=True)
class CardShape:
    """One object from above: a path in mm on the bed, y down."""

    path: str
    failed: bool
    words: str


@dataclass(frozen=True)
class PlateCard:
    """One plate: drawn, labelled, and how it stands."""

    plate: Plate
    name: str
    heat: str
    settings: list[tuple[str, str]]
    shapes: list[CardShape]
    view: str
    bed: tuple[float, float]
    minutes: int | None
    codes: list[tuple[str, bool]]
    more: int
    attempts: int = 0
    ahead: bool = False

    @property
    def state(self) -> str:
        """Printed, waiting, or as it would be filled."""
        if self.ahead:
            return "ahead"
        return "printed" if self.plate.printed_at else "waiting"


@dataclass
class PrintDay:
    """The plates of one day, or those to come."""

    head: Any
    cards: list[PlateCard] = field(default_factory=list)


def days_of(campaign: Campaign) -> list[PrintDay]:
    """The campaign's plates by the day they were printed on, and those to come, in running order."""
    plates = list(
        Plate.objects.filter(batch__campaign=campaign)
        .select_related("batch__printer", "batch__recipe", "batch__lot__material")
        .prefetch_related("attempts")
    )
    laid: dict[int, list[Print]] = {}
    for one in Print.objects.filter(plate__batch__campaign=campaign).select_related(
        "specimen__condition", "specimen__procedure__variant"
    ):
        laid.setdefault(one.plate_id, []).append(one)
    for plate in plates:
        plate.laid = laid.get(plate.pk, [])
    plates.sort(key=lambda p: (p.printed_at is None, p.printed_at or 0, p.batch.number, p.number))
    found: list[PrintDay] = []
    for card in cards_of(plates):
        at = card.plate.printed_at
        head = at.date() if at else None
        if not found or found[-1].head != head:
            found.append(PrintDay(head))
        found[-1].cards.append(card)
    return found


def cards_of(plates: Sequence[Plate], ahead: bool = False) -> list[PlateCard]:
    """Plates as cards; what differs between them stands on each."""
    differing = _differing(plates)
    return [_card(p, differing, ahead) for p in plates]


def _differing(plates: Sequence[Plate]) -> list[str]:
    """The settings that are not alike on all plates."""
    keys = {k for p in plates for k in p.settings}
    return sorted(k for k in keys if len({setting_text(p.settings, k) for p in plates}) > 1)


def _kind(plate: Plate) -> str:
    return plate.batch.recipe.kind if plate.batch.recipe else "filament"


def _card(plate: Plate, differing: Iterable[str], ahead: bool) -> PlateCard:
    kind, printer = _kind(plate), plate.batch.printer
    fields = FIELDS[kind]
    heat = _HEAT[kind]
    keys = [k for k in fields if k in differing and k != heat]
    usual = [k for k in ("walls", "infill", "layer_height") if k not in keys]
    chosen = [*keys, *usual[: max(2 - len(keys), 0)]]
    codes = sorted(plate.laid, key=lambda p: (p.y, p.x))
    shapes = [_shape(p, printer.bed_depth) for p in plate.laid]
    number = f"{plate.number}" if ahead else f"{plate.batch.number}.{plate.number}"
    return PlateCard(
        plate=plate,
        name=number,
        heat=setting_text(plate.settings, heat),
        settings=[(fields[k].label, v) for k in chosen if (v := setting_text(plate.settings, k))],
        shapes=shapes,
        view=_view(plate, printer.bed_width, printer.bed_depth),
        bed=(printer.bed_width, printer.bed_depth),
        minutes=minutes_of(plate, plate.laid),
        codes=[(p.specimen.code, p.failed) for p in codes[:_SHOWN_IDS]],
        more=max(len(codes) - _SHOWN_IDS, 0),
        attempts=0 if ahead else len(plate.attempts.all()),
        ahead=ahead,
    )


def _shape(one: Print, depth: float) -> CardShape:
    """Its own outline where it lies flat, else its footprint."""
    geometry, orientation = one.specimen.geometry, one.specimen.orientation
    wide, deep, _ = standing_size(geometry, orientation)
    left, low = one.x, depth - one.y
    if orientation == "flat" and not geometry.shape_key == "ring":
        corners = [(left + wide / 2 + x, low - y) for x, y in geometry.outline]
    else:
        corners = [(left, low), (left + wide, low), (left + wide, low - deep), (left, low - deep)]
    path = "M" + " L".join(f"{x:.2f},{y:.2f}" for x, y in corners) + " Z"
    return CardShape(path, one.failed, f"{one.specimen.code}, {one.specimen.condition}")


def _view(plate: Plate, width: float, depth: float) -> str:
    """The part of the bed that is drawn, three wide to two deep, with what lies on it in the middle."""
    boxes = [(p, standing_size(p.specimen.geometry, p.specimen.orientation)) for p in plate.laid]
    left = min((p.x for p, _ in boxes), default=0.0)
    right = max((p.x + b[0] for p, b in boxes), default=width)
    high = min((depth - p.y - b[1] for p, b in boxes), default=0.0)
    low = max((depth - p.y for p, _ in boxes), default=depth)
    wide = max((right - left) * 1.12 + 6, ((low - high) * 1.12 + 6) * 1.35, 40.0)
    return f"{(left + right - wide) / 2:.1f} {(high + low - wide / 1.35) / 2:.1f} {wide:.1f} {wide / 1.35:.1f}"


def minutes_of(plate: Plate, prints: Sequence[Print]) -> int | None:
    """How long a plate prints, in minutes; ``None`` where its settings do not say.

    Volume of plastic over flow, a quarter more for travel, and ten minutes to heat (common practice);
    of a resin its layers' times, by the tallest on it.
    """
    if not prints:
        return None
    known = values(plate.settings)
    if _kind(plate) == "resin":
        height = max(standing_size(p.specimen.geometry, p.specimen.orientation)[2] for p in prints)
        seconds = print_seconds(known, height / 1e3)
        return None if seconds is None else max(int(seconds / 60), 1)
    flow = volumetric_flow(known)
    if not flow:
        return None
    filling = filling_of_settings(plate.settings)
    volume = sum(
        p.specimen.geometry.volume
        * solid_share(p.specimen.geometry, p.specimen.orientation, filling)
        for p in prints
    )
    return max(int(volume / flow * 1.25 / 60) + 10, 10)


def plate_minutes(plate: Plate) -> int:
    """The same of a stored plate, two hours where it is not known."""
    return minutes_of(plate, list(plate.prints.all())) or PLATE_UNKNOWN
