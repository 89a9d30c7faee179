"""Record a specimen's test: what was read, what came of it, and the results computed."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from uuid import UUID

from django.db import IntegrityError, transaction

from brunt_core.computation import Computation, compute, read
from brunt_core.errors import InputError
from brunt_core.methods.base import Method
from brunt_web.campaigns.actions.change_plan import promote_spare
from brunt_web.campaigns.models import Specimen
from brunt_web.testing.actions.storing import store_measurements, store_readings, store_results
from brunt_web.testing.inputs import full_inputs
from brunt_web.testing.instruments import instruments_for
from brunt_web.testing.models import Clock, Measurement, Result, Test


@dataclass(frozen=True)
class Entry:
    """One test as entered. ``key`` is made where it was entered and arrives with every retry.

    ``answers`` keeps what was asked about a reading and what the tester answered. An empty
    ``outcome`` is the method's first. ``read_at`` is when a reading with a set time was taken,
    where that is not when it was entered.
    """

    key: UUID
    at: datetime
    inputs: Mapping[str, str] = field(default_factory=dict)
    outcome: str = ""
    place: str = ""
    mode: str = ""
    reason: str = ""
    note: str = ""
    answers: tuple[Mapping[str, str], ...] = ()
    read_at: datetime | None = None


@dataclass(frozen=True)
class Recorded:
    """The stored test; ``repeated`` when this entry had arrived before."""

    test: Test
    repeated: bool


def record_test(specimen: Specimen, by, entry: Entry, replace: bool = False) -> Recorded:
    """Store one test exactly once.

    Raises :class:`InputError` for readings that cannot be used, and when the specimen already has
    another test and ``replace`` is not set. An entry whose key is known is returned as stored.
    The database holds one test a specimen and one a key, whoever comes first.
    """
    try:
        _check(specimen.procedure.method, entry)
        done = None if entry.outcome == "void" else _computed(specimen, entry)
        return Recorded(_store(specimen, by, entry, done, replace), repeated=False)
    except (IntegrityError, InputError) as problem:
        standing = Test.objects.filter(specimen=specimen).select_related("by").first()
        if standing and standing.entry_key == entry.key:
            return Recorded(standing, repeated=True)
        if isinstance(problem, InputError) or standing is None:
            raise
        raise InputError(
            f"{specimen.code} already has a test, recorded by {standing.by} at "
            f"{standing.at:%H:%M on %d %b}. Open it to correct it.",
            "specimen",
        ) from None


def _computed(specimen: Specimen, entry: Entry) -> Computation:
    procedure = specimen.procedure
    inputs = full_inputs(specimen, entry.inputs)
    return compute(procedure.method, inputs, entry.outcome, instruments_for(procedure))


def _check(method: Method, entry: Entry) -> None:
    outcome = method.outcome(entry.outcome or method.outcomes[0].key)
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
    if entry.mode and method.mode(entry.mode) is None:
        raise InputError(f"“{entry.mode}” is not a failure mode of {method.name}.", "mode")


@transaction.atomic
def _store(specimen: Specimen, by, entry: Entry, done: Computation | None, replace: bool) -> Test:
    if replace:
        _make_room(specimen, entry.key)
    test = Test.objects.create(
        specimen=specimen,
        entry_key=entry.key,
        outcome=entry.outcome or specimen.procedure.method.outcomes[0].key,
        place=entry.place,
        mode=entry.mode,
        reason=entry.reason.strip(),
        note=entry.note.strip(),
        answers=[dict(a) for a in entry.answers],
        by=by,
        at=entry.at,
    )
    if entry.outcome == "void":
        promote_spare(specimen)
    if done:
        _store_numbers(specimen, by, entry, done, test)
    return test


def _make_room(specimen: Specimen, key: UUID) -> None:
    """Clear the test that stands, for one that takes its place; the same entry again finds its own."""
    Specimen.objects.select_for_update().only("pk").get(pk=specimen.pk)
    standing = Test.objects.filter(specimen=specimen).first()
    if standing and standing.entry_key != key:
        clear(standing)


def _store_numbers(specimen: Specimen, by, entry: Entry, done: Computation, test: Test) -> None:
    fixed = specimen.procedure.parameters
    sizes = [r for r in done.readings.values() if r.input.section or r.input.role == "size"]
    typed = [
        r
        for r in done.readings.values()
        if r not in sizes and entry.inputs.get(r.input.key, "").strip() and r.input.key not in fixed
    ]
    elapsed = _elapsed(specimen, entry)
    store_measurements(specimen, by, entry.at, sizes)
    store_readings(test, typed, by, elapsed)
    store_results(specimen, done, elapsed)
    if elapsed is not None:
        Clock.objects.filter(specimen=specimen).delete()


def _elapsed(specimen: Specimen, entry: Entry) -> float | None:
    """Seconds since the clock was started, for a method that reads once at a set time."""
    procedure = specimen.procedure
    if procedure.method.timed or not procedure.reading_times:
        return None
    clock = Clock.objects.filter(specimen=specimen).first()
    if clock is None:
        return None
    return max(((entry.read_at or entry.at) - clock.started_at).total_seconds(), 0.0)


def clear(test: Test) -> None:
    """Remove a test with its readings and results; history keeps them."""
    for reading in test.readings.all():
        reading.delete()
    Result.objects.filter(specimen=test.specimen).delete()
    test.delete()


def measure(specimen: Specimen, by, at: datetime, texts: Mapping[str, str]) -> list[Measurement]:
    """Store dimensions measured before the test."""
    method = specimen.procedure.method
    readings = [read(method.input(key), text, {}) for key, text in texts.items() if text.strip()]
    store_measurements(specimen, by, at, readings)
    return list(specimen.measurements.all())
