"""Tests that run their own clock: start it, take the readings as they fall due, finish."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.db import IntegrityError, transaction

from brunt_core.computation import read
from brunt_core.errors import InputError
from brunt_core.methods.base import Input
from brunt_core.plausibility.sequence import odd_beside
from brunt_core.quantities import parse
from brunt_web.campaigns.models import Specimen
from brunt_web.testing.actions.record_test import Entry, Recorded, record_test
from brunt_web.testing.models import Clock, Test, TimedReading

_DIGITS = 6


@dataclass(frozen=True)
class Taken:
    """One timed reading as entered: which input, on which rung, when it was due, and the text.

    ``kept`` is the text that was asked about and is meant as it stands.
    """

    key: UUID
    at: datetime
    input: str
    due: float
    text: str
    rung: str = ""
    kept: str = ""


@transaction.atomic
def start(specimen: Specimen, by, at: datetime, rung: str = "") -> Clock:
    """Start the clock, or start it again for the next load of a ladder.

    Raises :class:`InputError` when the specimen has its test or the clock runs for this load.
    """
    if Test.objects.filter(specimen=specimen).exists():
        raise InputError(f"{specimen.code} has its test already.", "clock")
    standing = Clock.objects.select_for_update().filter(specimen=specimen).first()
    if standing and (not rung or standing.rung == rung):
        raise InputError("The clock runs already.", "clock")
    clock, _ = Clock.objects.update_or_create(
        specimen=specimen, defaults={"started_at": at, "rung": rung, "by": by}
    )
    return clock


@transaction.atomic
def take(specimen: Specimen, by, taken: Taken) -> TimedReading:
    """Store one timed reading with the time it was really taken; once, however often it arrives.

    Raises :class:`InputError` when no clock runs, the text is no reading, or it was taken before.
    """
    known = TimedReading.objects.filter(entry_key=taken.key).first()
    if known:
        return known
    clock = Clock.objects.filter(specimen=specimen).first()
    if clock is None or clock.rung != taken.rung:
        raise InputError("Start the clock first: T.", "clock")
    spec = next((i for i in specimen.procedure.method.timed if i.key == taken.input), None)
    if spec is None:
        raise InputError("This is no reading of the method.", "clock")
    if not taken.text.strip():
        raise InputError(f"The {spec.label.lower()} is missing.", spec.key)
    if taken.due not in specimen.procedure.reading_times:
        raise InputError("This is no reading time of the procedure.", spec.key)
    try:
        value = parse(taken.text, spec.dimension, spec.unit)
    except InputError as error:
        raise error.at(spec.key) from None
    _ask_about(specimen, spec, taken, value.si)
    try:
        with transaction.atomic():
            return TimedReading.objects.create(
                specimen=specimen,
                entry_key=taken.key,
                key=taken.input,
                rung=taken.rung,
                due=taken.due,
                elapsed=max((taken.at - clock.started_at).total_seconds(), 0.0),
                text=f"{taken.text.strip()}{'' if not value.assumed else ' ' + spec.unit}",
                value=value.si,
                taken_at=taken.at,
                by=by,
            )
    except IntegrityError:
        raise InputError(
            "That reading is stored already; undo it to read again.", spec.key
        ) from None


def _ask_about(specimen: Specimen, spec: Input, taken: Taken, value: float) -> None:
    """Ask about a reading far from the one before it under the same load; once."""
    before = TimedReading.objects.filter(specimen=specimen, key=spec.key, rung=taken.rung).last()
    odd = odd_beside(value, before.value, spec.dimension, spec.unit) if before else ""
    if odd and taken.kept != taken.text:
        raise InputError(f"{odd} Enter again keeps it; or type it anew with its unit.", "kept")


def undo_take(specimen: Specimen) -> None:
    """Take back the last timed reading; without any, the clock itself."""
    last = TimedReading.objects.filter(specimen=specimen).last()
    if last:
        last.delete()
    else:
        Clock.objects.filter(specimen=specimen).delete()


def series_of(specimen: Specimen) -> dict[str, str]:
    """The timed readings as the series the method takes, each at the time it was really taken."""
    rows: dict[str, list[str]] = {}
    for r in TimedReading.objects.filter(specimen=specimen):
        at = f"{r.elapsed:.{_DIGITS}g} s"
        rows.setdefault(r.key, []).append(f"{r.rung + ' @ ' if r.rung else ''}{at}: {r.text}")
    return {key: "; ".join(lines) for key, lines in rows.items()}


@transaction.atomic
def finish(specimen: Specimen, by, entry: Entry) -> Recorded:
    """Record the test from its timed readings and stop the clock."""
    series = series_of(specimen)
    if not series and entry.outcome != "void":
        raise InputError("No reading is taken yet.", "clock")
    for spec in specimen.procedure.method.timed:
        if spec.key in series:
            read(spec, series[spec.key], {})
    whole = Entry(
        entry.key,
        entry.at,
        {**entry.inputs, **series},
        entry.outcome,
        entry.place,
        entry.mode,
        entry.reason,
        entry.note,
        entry.answers,
    )
    recorded = record_test(specimen, by, whole)
    Clock.objects.filter(specimen=specimen).delete()
    return recorded
