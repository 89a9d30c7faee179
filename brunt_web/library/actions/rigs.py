"""Rigs: what they can do, where they stand, their certificates."""

import re
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import date
from ipaddress import ip_address

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from brunt_core.errors import InputError
from brunt_core.mechanics.calibration import CalibrationPoint, verdict
from brunt_core.quantities import parse_typed
from brunt_web.interface.instrument_tokens import tcp_parts, where
from brunt_web.library.actions.procedures import RIG_DIMENSIONS
from brunt_web.library.models import Calibration, Procedure, Rig


@dataclass(frozen=True)
class RigFacts:
    """What is said of a rig, SI."""

    name: str
    capacity: float | None = None
    resolution: float | None = None
    relative_error: float | None = None
    location: str = ""
    instrument: str = ""
    slowest: float | None = None
    fastest: float | None = None
    note: str = ""


@dataclass(frozen=True)
class Certificate:
    """What is said of a calibration: its days, its numbers in SI."""

    on: date
    due: date | None = None
    certificate: str = ""
    by_whom: str = ""
    points: Sequence[CalibrationPoint] = field(default_factory=tuple)
    note: str = ""


_WIRES = re.compile(
    r"sim:[a-z-]+|tcp:[\w.-]+:\d{1,5}|tcp:\[[0-9a-fA-F:]+\]:\d{1,5}|serial:/dev/[\w./-]+(@\d{2,7})?|browser:(\d{2,7})?"
)


def checked_instrument(text: str, networks: str) -> str:
    """An instrument's address in one of its forms, within the workshop's networks where it is a number.

    A name is looked up when it is opened. Raises :class:`InputError` for another.
    """
    said = text.strip()
    if said and (not _WIRES.fullmatch(said) or ".." in said):
        raise InputError(
            "Write it as tcp:host:port, serial:/dev/ttyUSB0@9600, browser:9600 or sim:load-cell.",
            "instrument",
        )
    if said.startswith("tcp:"):
        host, port = tcp_parts(said.removeprefix("tcp:"))
        with suppress(ValueError):
            ip_address(host)
            try:
                where(host, port, networks)
            except OSError as problem:
                raise InputError(
                    f"{str(problem).capitalize()}; the owner names those networks on the workshop's page.",
                    "instrument",
                ) from None
    return said


@transaction.atomic
def change_rig(rig: Rig, told: RigFacts, as_seen: Callable[[Rig], None] = lambda rig: None) -> Rig:
    """Write down what a rig is and can do; ``as_seen`` is asked under its lock whether it still stands
    as it was shown. Raises :class:`InputError` with the field.
    """
    rig = Rig.objects.select_for_update().get(pk=rig.pk)
    as_seen(rig)
    if Rig.objects.filter(workshop=rig.workshop, name=told.name).exclude(pk=rig.pk).exists():
        raise InputError(f"There is a rig called {told.name} already.", "name")
    if told.slowest and told.fastest and told.slowest > told.fastest:
        raise InputError("The slowest speed is above the fastest.", "slowest")
    rig.name, rig.location, rig.note = told.name, told.location, told.note
    rig.instrument = checked_instrument(told.instrument, rig.workshop.instrument_networks)
    rig.capacity, rig.resolution = told.capacity, told.resolution or 0.0
    rig.slowest, rig.fastest = told.slowest, told.fastest
    if told.relative_error is not None:
        rig.relative_error = told.relative_error
    rig.save()
    return rig


def read_figures(text: str, dimension: str) -> list[CalibrationPoint]:
    """A certificate's figures, a line each: applied; read; expanded uncertainty (may be excluded).

    Raises :class:`InputError` naming the line.
    """
    unit = RIG_DIMENSIONS[dimension]
    found = []
    for number, line in enumerate(text.splitlines(), 1):
        parts = [p.strip() for p in line.replace("\t", ";").split(";") if p.strip()]
        if not parts:
            continue
        if len(parts) not in (2, 3):
            raise InputError(f"Line {number}: write applied; read; uncertainty.", "figures")
        try:
            read = [parse_typed(p, dimension, unit).observation.anchor for p in parts]
        except InputError as problem:
            raise InputError(f"Line {number}: {problem.sentence}", "figures") from None
        found.append(CalibrationPoint(read[0], read[1], *read[2:]))
    if found:
        verdict(found)
    return found


@transaction.atomic
def add_calibration(
    rig: Rig, by: User, told: Certificate, takes_limit: bool = False
) -> Calibration:
    """Keep a certificate; the rig is due again by the last of them.

    ``takes_limit`` sets the rig's limit of error to what the figures bear out; what was stored before
    stays as it was computed. Raises :class:`InputError` with the field.
    """
    if told.on > timezone.localdate():
        raise InputError("It cannot have been calibrated after today.", "on")
    if told.due and told.due < told.on:
        raise InputError("The due date is before the calibration date.", "due")
    rig = Rig.objects.select_for_update().get(pk=rig.pk)
    made = Calibration.objects.create(
        rig=rig,
        on=told.on,
        due=told.due,
        certificate=told.certificate,
        by_whom=told.by_whom,
        figures=[[p.applied, p.read, p.expanded] for p in told.points],
        note=told.note,
        by=by,
    )
    if takes_limit and told.points:
        rig.relative_error = round(verdict(told.points).limit, 6)
    _settle(rig)
    return made


@transaction.atomic
def withdraw_calibration(rig: Rig, pk: int) -> None:
    """A certificate that does not hold any more, or reinstated: it stays on record."""
    rig = Rig.objects.select_for_update().get(pk=rig.pk)
    one = rig.calibrations.filter(pk=pk).first()
    if one is None:
        raise InputError("There is no such certificate of this rig.")
    one.withdrawn_at = None if one.withdrawn_at else timezone.now()
    one.save(update_fields=["withdrawn_at"])
    _settle(rig)


def _settle(rig: Rig) -> None:
    last = rig.calibrations.filter(withdrawn_at__isnull=True).order_by("-on", "-id").first()
    rig.due_on = last.due if last else None
    rig.save()


@transaction.atomic
def also_on(procedure: Procedure, rigs: Sequence[Rig]) -> None:
    """The further rigs a procedure may be done on; each must measure what its own does, at its speed."""
    for rig in rigs:
        if procedure.rig and rig.dimension != procedure.rig.dimension:
            raise InputError(
                f"{rig.name} measures {rig.dimension}, not {procedure.rig.dimension}.", "rigs"
            )
        if not rig.can_do(procedure.speed):
            raise InputError(f"{rig.name} does {rig.speeds}, not this procedure's speed.", "rigs")
    procedure.also_on.set([r for r in rigs if r.pk != procedure.rig_id])
