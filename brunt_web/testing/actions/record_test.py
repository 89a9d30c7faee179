"""Record a specimen's test: what was read, what came of it, and the results computed."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from uuid import UUID

from django.db import IntegrityError, transaction
from simple_history.utils import bulk_create_with_history

import brunt_core
from brunt_core.computation import Computation, compute
from brunt_core.computation.compute import Reading as CoreReading
from brunt_core.computation.compute import read
from brunt_core.errors import InputError
from brunt_core.methods.base import Method
from brunt_web.campaigns.actions.change_plan import promote_spare
from brunt_web.campaigns.models import Specimen
from brunt_web.library.models import Procedure
from brunt_web.testing.instruments import instruments_for
from brunt_web.testing.models import Measurement, Reading, Result, Test


@dataclass(frozen=True)
class Entry:
    """One test as entered. ``key`` is made where it was entered and arrives with every retry."""

    key: UUID
    at: datetime
    inputs: Mapping[str, str] = field(default_factory=dict)
    outcome: str = "broke"
    place: str = ""
    reason: str = ""
    note: str = ""


@dataclass(frozen=True)
class Recorded:
    """The stored test; ``repeated`` when this entry had arrived before."""

    test: Test
    repeated: bool


def record_test(specimen: Specimen, by, entry: Entry, replace: bool = False) -> Recorded:
    """Store one test exactly once.

    Raises :class:`InputError` for readings that cannot be used, and when the specimen already has
    another test and ``replace`` is not set. An entry whose key is known is returned as stored.
    """
    known = Test.objects.filter(entry_key=entry.key, specimen=specimen).first()
    if known:
        return Recorded(known, repeated=True)
    done = None if entry.outcome == "void" else _computed(specimen.procedure, entry)
    _check(specimen.procedure.method, entry)
    try:
        return Recorded(_store(specimen, by, entry, done, replace), repeated=False)
    except IntegrityError:
        known = Test.objects.filter(entry_key=entry.key, specimen=specimen).first()
        if known:
            return Recorded(known, repeated=True)
        raise InputError(
            f"{specimen.code} got another reading at the same moment; open it to see which.",
            "specimen",
        ) from None


def _computed(procedure: Procedure, entry: Entry) -> Computation:
    return compute(procedure.method, entry.inputs, entry.outcome, instruments_for(procedure))


def _check(method: Method, entry: Entry) -> None:
    outcome = method.outcome(entry.outcome)
    if outcome is None:
        raise InputError(f"“{entry.outcome}” is not an outcome of {method.name}.", "outcome")
    if outcome.needs_reason and not entry.reason.strip():
        raise InputError("Say why it is void: slipped, cracked at assembly, mis-set …", "reason")
    if len(entry.reason) > 300:
        raise InputError(
            "Keep the reason under 300 characters; the note has room for more.", "reason"
        )
    if entry.place and method.place(entry.place) is None:
        raise InputError(f"“{entry.place}” is not a place on this specimen.", "place")


@transaction.atomic
def _store(specimen: Specimen, by, entry: Entry, done: Computation | None, replace: bool) -> Test:
    Specimen.objects.select_for_update().get(pk=specimen.pk)
    standing = Test.objects.filter(specimen=specimen).first()
    if standing and not replace:
        raise InputError(
            f"{specimen.code} already has a test, recorded by {standing.by} at "
            f"{standing.at:%H:%M on %d %b}. Open it to correct it.",
            "specimen",
        )
    if standing:
        clear(standing)
    test = Test.objects.create(
        specimen=specimen,
        entry_key=entry.key,
        outcome=entry.outcome,
        place=entry.place,
        reason=entry.reason.strip(),
        note=entry.note.strip(),
        by=by,
        at=entry.at,
    )
    if entry.outcome == "void":
        promote_spare(specimen)
    if done:
        _store_measurements(
            specimen, by, entry, [r for r in done.readings.values() if r.input.section]
        )
        bulk_create_with_history(
            [_reading(test, r) for r in done.readings.values() if not r.input.section],
            Reading,
            default_user=by,
        )
        Result.objects.bulk_create(_results(specimen, done))
    return test


def clear(test: Test) -> None:
    """Remove a test with its readings and results; history keeps them."""
    for reading in test.readings.all():
        reading.delete()
    Result.objects.filter(specimen=test.specimen).delete()
    test.delete()


def _reading(test: Test, reading: CoreReading) -> Reading:
    last = reading.typed.parts[-1]
    return Reading(
        test=test,
        key=reading.input.key,
        text=reading.typed.text,
        unit=last.unit_label,
        unit_assumed=last.assumed,
        lower=reading.observation.lower,
        upper=reading.observation.upper,
        uncertainty=reading.uncertainty,
    )


def _results(specimen: Specimen, done: Computation) -> list[Result]:
    return [
        Result(
            specimen=specimen,
            property_key=r.property.key,
            lower=r.observation.lower,
            upper=r.observation.upper,
            uncertainty=r.uncertainty,
            procedure=specimen.procedure,
            formula=r.formula,
            source=r.source,
            steps=[[s.formula, s.numbers, s.value] for s in r.steps],
            computed_by_version=brunt_core.__version__,
        )
        for r in done.results
    ]


def _store_measurements(specimen: Specimen, by, entry: Entry, readings: list[CoreReading]) -> None:
    known = {m.key: m for m in specimen.measurements.all()}
    for reading in readings:
        mark = known.get(reading.input.key) or Measurement(specimen=specimen, key=reading.input.key)
        if mark.pk and mark.text == reading.typed.text:
            continue
        mark.text, mark.value, mark.uncertainty = (
            reading.typed.text,
            reading.si,
            reading.uncertainty,
        )
        mark.by, mark.at = by, entry.at
        mark.save()


def measure(specimen: Specimen, by, at: datetime, texts: Mapping[str, str]) -> list[Measurement]:
    """Store dimensions measured before the test."""
    method = specimen.procedure.method
    readings = [read(method.input(key), text, {}) for key, text in texts.items() if text.strip()]
    _store_measurements(specimen, by, Entry(UUID(int=0), at), readings)
    return list(specimen.measurements.all())
