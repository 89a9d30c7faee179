"""Lots, dryings and printers. Quantities are SI; what is not known is ``None``."""

from datetime import datetime
from decimal import Decimal

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.library.models import KINDS, Drying, Lot, Material, Printer, RoomAir, Sealing
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
        raise InputError("Give the lot a name, for example the date or the spool number.", "name")
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
    ended_at: datetime | None,
    *,
    temperature: float,
    duration: float,
    before: float | None = None,
    after: float | None = None,
    started_at: datetime | None = None,
) -> Drying:
    """Log a drying: kelvin, seconds, kg before and after. Without an end it runs.

    Raises :class:`InputError` with the field for an end before its start, a mass that grew, and a lot
    that is being dried.
    """
    if started_at and ended_at and ended_at <= started_at:
        raise InputError("It cannot end before it starts.", "ended_at")
    if ended_at is None and started_at is None:
        raise InputError("Say when it starts, or when it ended.", "started_at")
    Lot.objects.select_for_update().get(pk=lot.pk)
    if ended_at is None and lot.dryings.filter(ended_at__isnull=True).exists():
        raise InputError(f"{lot} is being dried already.", "started_at")
    if before is not None and after is not None and after > before * 1.001:
        raise InputError("It cannot weigh more after drying; are the two swapped?", "after")
    return Drying.objects.create(
        lot=lot,
        started_at=started_at,
        ended_at=ended_at,
        temperature=temperature,
        duration=duration,
        before=before,
        after=after,
        by=by,
    )


@transaction.atomic
def end_drying(lot: Lot, at: datetime, after: float | None = None) -> Drying:
    """End the drying that runs; its duration is what it really was. ``after`` in kg.

    Raises :class:`InputError` when none runs, or it would weigh more than before.
    """
    one = Drying.objects.select_for_update().filter(lot=lot, ended_at__isnull=True).first()
    if one is None or one.started_at is None:
        raise InputError(f"{lot} is not being dried.", "after")
    if one.before is not None and after is not None and after > one.before * 1.001:
        raise InputError("It cannot weigh more after drying; are the two swapped?", "after")
    if at <= one.started_at:
        raise InputError("It cannot end before it starts.", "ended_at")
    one.ended_at, one.after = at, after if after is not None else one.after
    one.duration = (at - one.started_at).total_seconds()
    one.save(update_fields=["ended_at", "after", "duration"])
    return one


@transaction.atomic
def take_back_drying(lot: Lot, pk: int) -> None:
    """Take a drying off that was logged by mistake."""
    Drying.objects.filter(lot=lot, pk=pk).delete()


@transaction.atomic
def seal(lot: Lot, by: User, since: datetime, humidity: float | None = None) -> Sealing:
    """Put a lot into a sealed box. Raises :class:`InputError` when it lies in one."""
    Lot.objects.select_for_update().get(pk=lot.pk)
    if lot.sealings.filter(until__isnull=True).exists():
        raise InputError(f"{lot} is in a sealed box already.", "since")
    return Sealing.objects.create(lot=lot, since=since, humidity=humidity, by=by)


@transaction.atomic
def unseal(lot: Lot, until: datetime) -> Sealing:
    """Take a lot out of its sealed box. Raises :class:`InputError` when it lies in none."""
    one = Sealing.objects.select_for_update().filter(lot=lot, until__isnull=True).first()
    if one is None:
        raise InputError(f"{lot} is not in a sealed box.", "since")
    if until < one.since:
        raise InputError("It cannot come out before it went in.", "since")
    one.until = until
    one.save(update_fields=["until"])
    return one


def note_air(
    workshop: Workshop, by: User, at: datetime, humidity: float, temperature: float | None
) -> RoomAir:
    """Note the room's air: relative humidity as a share, temperature in K.

    Raises :class:`InputError` for a humidity that is none.
    """
    if not 0 <= humidity <= 1:
        raise InputError("Relative humidity lies between 0 and 100 %.", "humidity")
    return RoomAir.objects.create(
        workshop=workshop, at=at, humidity=humidity, temperature=temperature, by=by
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
