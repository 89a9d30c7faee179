"""Lots, dryings and printers."""

from collections.abc import Mapping
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.quantities.numbers import read_number
from brunt_web.library.models import KINDS, Drying, Lot, Material, Printer
from brunt_web.people.models import Workshop


def _read(text: str, dimension: str, field: str, unit: str | None = None) -> float | None:
    """A quantity in SI, ``None`` for an empty field. Raises with the field."""
    if not (text or "").strip():
        return None
    try:
        return parse(text, dimension, unit).si
    except InputError as error:
        raise error.at(field) from None


@transaction.atomic
def add_lot(
    workshop: Workshop, material: Material | None, typed: Mapping[str, str], now: datetime
) -> Lot:
    """Store a lot; what is not typed stays unknown."""
    if material is None:
        raise InputError("Choose the material.", "material")
    name = " ".join(typed.get("name", "").split())[:60]
    if not name:
        raise InputError(
            "Name the lot as it stands on it, for example the date or the spool's number.",
            "lot_name",
        )
    if Lot.objects.filter(material=material, name=name).exists():
        raise InputError(f"{material} has a lot {name} already.", "lot_name")
    bought = _read(typed.get("bought", ""), "mass", "bought", "kg")
    remaining = _read(typed.get("remaining", ""), "mass", "remaining", "kg")
    for value, field in ((bought, "bought"), (remaining, "remaining")):
        if value is not None and value < 0:
            raise InputError("A mass cannot be negative.", field)
    return Lot.objects.create(
        workshop=workshop,
        material=material,
        name=name,
        colour=typed.get("colour", "").strip()[:40],
        bought=bought,
        remaining=bought if remaining is None else remaining,
        price=_money(typed.get("price", "")),
        opened_at=now if typed.get("opened") else None,
    )


def _money(text: str) -> Decimal | None:
    if not text.strip():
        return None
    try:
        value = read_number(text.strip(" €$£"))
    except InputError as error:
        raise error.at("lot_price") from None
    if value < 0:
        raise InputError("A price cannot be negative.", "lot_price")
    return Decimal(f"{value:.2f}")


@transaction.atomic
def log_drying(lot: Lot, by: Any, typed: Mapping[str, str], now: datetime) -> Drying:
    """Log a drying that has just ended: temperature, hours, mass before and after."""
    temperature = _read(typed.get("temperature", ""), "temperature", "temperature")
    duration = _read(typed.get("duration", ""), "time", "duration", "h")
    before, after = (_read(typed.get(k, ""), "mass", k, "g") for k in ("before", "after"))
    if temperature is None or not 293.15 <= temperature <= 473.15:
        raise InputError("The drying temperature lies between 20 and 200 °C.", "temperature")
    if duration is None or not 0 < duration <= 14 * 86400:
        raise InputError(
            "The drying time is more than zero and at most 14 days, for example 12 h.", "duration"
        )
    if before is not None and after is not None and after > before * 1.001:
        raise InputError("It cannot weigh more after drying; are the two swapped?", "after")
    return Drying.objects.create(
        lot=lot,
        ended_at=now,
        temperature=temperature,
        duration=duration,
        before=before,
        after=after,
        by=by,
    )


@transaction.atomic
def set_remaining(lot: Lot, text: str) -> Lot:
    """Note what is left of a lot, weighed."""
    value = _read(text, "mass", "remaining", "g")
    if value is None or value < 0:
        raise InputError("Type what is left, for example 640 g.", "remaining")
    lot.remaining = value
    lot.save(update_fields=["remaining"])
    return lot


@transaction.atomic
def add_printer(workshop: Workshop, name: str, kind: str, width: str, depth: str) -> Printer:
    """Store a printer with its bed."""
    name = " ".join(name.split())[:60]
    if not name or Printer.objects.filter(workshop=workshop, name=name).exists():
        raise InputError("Give the printer a name of its own.", "printer_name")
    if kind not in KINDS:
        raise InputError("Choose filament or resin.", "printer_kind")
    sizes = [
        _read(text, "length", field, "mm")
        for text, field in ((width, "bed_width"), (depth, "bed_depth"))
    ]
    bed = []
    for value, field in zip(sizes, ("bed_width", "bed_depth"), strict=True):
        if value is None or not 0.04 <= value <= 2:
            raise InputError("A bed measures between 40 mm and 2 m.", field)
        bed.append(value * 1000)
    return Printer.objects.create(
        workshop=workshop,
        name=name,
        kind=kind,
        bed_width=bed[0],
        bed_depth=bed[1],
    )
