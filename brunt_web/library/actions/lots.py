"""Lots, dryings and printers. Quantities are SI; what is not known is ``None``."""

from datetime import datetime
from decimal import Decimal

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.library.models import KINDS, Drying, Lot, Material, Printer
from brunt_web.people.models import Workshop


@transaction.atomic
def add_lot(
    workshop: Workshop,
    material: Material,
    name: str,
    *,
    colour: str = "",
    bought: float | None = None,
    remaining: float | None = None,
    price: Decimal | None = None,
    opened_at: datetime | None = None,
) -> Lot:
    """Store a lot: masses in kg, the price of the whole of it; what is left is what was bought unless said."""
    if not name:
        raise InputError(
            "Name the lot as it stands on it, for example the date or the spool's number.", "name"
        )
    if Lot.objects.filter(material=material, name=name).exists():
        raise InputError(f"{material} has a lot {name} already.", "name")
    if bought is not None and remaining is not None and remaining > bought:
        raise InputError("More is left than was bought; are the two swapped?", "remaining")
    return Lot.objects.create(
        workshop=workshop,
        material=material,
        name=name,
        colour=colour,
        bought=bought,
        remaining=bought if remaining is None else remaining,
        price=price,
        opened_at=opened_at,
    )


@transaction.atomic
def log_drying(
    lot: Lot,
    by: User,
    ended_at: datetime,
    *,
    temperature: float,
    duration: float,
    before: float | None = None,
    after: float | None = None,
) -> Drying:
    """Log a drying that has ended: kelvin, seconds, kg before and after."""
    if before is not None and after is not None and after > before * 1.001:
        raise InputError("It cannot weigh more after drying; are the two swapped?", "after")
    return Drying.objects.create(
        lot=lot,
        ended_at=ended_at,
        temperature=temperature,
        duration=duration,
        before=before,
        after=after,
        by=by,
    )


@transaction.atomic
def set_remaining(lot: Lot, remaining: float) -> Lot:
    """Note what is left of a lot, weighed, in kg."""
    lot.remaining = remaining
    lot.save(update_fields=["remaining"])
    return lot


@transaction.atomic
def add_printer(
    workshop: Workshop, name: str, kind: str, bed_width: float, bed_depth: float
) -> Printer:
    """Store a printer with its bed, in m."""
    if not name or Printer.objects.filter(workshop=workshop, name=name).exists():
        raise InputError("Give the printer a name of its own.", "name")
    if kind not in KINDS:
        raise InputError("Choose filament or resin.", "kind")
    return Printer.objects.create(
        workshop=workshop,
        name=name,
        kind=kind,
        bed_width=round(bed_width * 1000, 6),
        bed_depth=round(bed_depth * 1000, 6),
    )
