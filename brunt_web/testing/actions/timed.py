"""Tests that run their own clock: start it, take the readings as they fall due, finish."""

from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

from django.contrib.auth.models import User
from django.db import IntegrityError, transaction

from brunt_core.computation import read_input
from brunt_core.errors import InputError
from brunt_core.methods.base import Input
from brunt_core.plausibility.sequence import odd_beside
from brunt_core.quantities import parse
from brunt_core.quantities.rendering import time_words
from brunt_web.campaigns import history
from brunt_web.campaigns.models import HistoryEvent, Turn
from brunt_web.testing.actions.record_test import Entry, Recorded, is_spent, record_test
from brunt_web.testing.models import Clock, SpentEntryKey, Test, TimedReading
from brunt_web.testing.timed_queries import series_of


@dataclass(frozen=True)
class Taken:
    """One timed reading as entered: which input, on which load step, when it was due, and the text.

    ``kept`` is the text that was asked about and is meant as it stands.
    """

    key: UUID
    at: datetime
    input: str
    due: float
    text: str
    load_step: str = ""
    kept: str = ""


@transaction.atomic
def start_clock(
    turn: Turn, by: User, at: datetime, load_step: str = "", untimely: str = ""
) -> Clock:
    """Start the clock, or start it again for the next load of a ladder.

    Raises :class:`InputError` when the turn has its test or the clock runs for this load.
    """
    if Test.objects.filter(turn=turn).exists():
        raise InputError(f"{turn.code} has its test already.", "clock")
    history.check_fit(turn, "", untimely, at)
    standing = Clock.objects.select_for_update().filter(turn=turn).first()
    if standing and (not load_step or standing.load_step == load_step):
        raise InputError("The clock runs already.", "clock")
    clock, _ = Clock.objects.update_or_create(
        turn=turn, defaults={"started_at": at, "load_step": load_step, "by": by}
    )
    words = f"clock started, {turn.procedure.name}" + (f", {load_step}" if load_step else "")
    said = f"{words}; not ready: {untimely.strip()}" if untimely.strip() else words
    history.note([turn.specimen], "clock", by, at, said, {"turn": turn.pk})
    history.set_running(turn, True, untimely or turn.untimely)
    return clock


@transaction.atomic
def take(turn: Turn, by: User, taken: Taken) -> TimedReading | None:
    """Store one timed reading with the time it was really taken; once, however often it arrives.

    Returns ``None`` for the late repeat of one that was undone since.

    Raises :class:`InputError` when no clock runs, the text is no reading, or it was taken before.
    """
    known = TimedReading.objects.filter(entry_key=taken.key).first()
    if known or is_spent(taken.key):
        return known
    clock = Clock.objects.filter(turn=turn).first()
    if clock is None or clock.load_step != taken.load_step:
        raise InputError("Start the clock first: T.", "clock")
    spec = next((i for i in turn.procedure.method.timed if i.key == taken.input), None)
    if spec is None:
        raise InputError("This is no reading of the method.", "clock")
    if not taken.text.strip():
        raise InputError(f"The {spec.label.lower()} is missing.", spec.key)
    if taken.due not in turn.procedure.reading_times:
        raise InputError("This is no reading time of the procedure.", spec.key)
    if taken.at < clock.started_at:
        raise InputError("That time is before the clock was started.", "read_at")
    try:
        value = parse(taken.text, spec.dimension, spec.unit)
    except InputError as error:
        raise error.at(spec.key) from None
    _ask_about(turn, spec, taken, value.si)
    try:
        with transaction.atomic():
            return TimedReading.objects.create(
                turn=turn,
                entry_key=taken.key,
                key=taken.input,
                load_step=taken.load_step,
                due=taken.due,
                elapsed=max((taken.at - clock.started_at).total_seconds(), 0.0),
                text=f"{taken.text.strip()}{'' if not value.assumed else ' ' + spec.unit}",
                value=value.si,
                taken_at=taken.at,
                by=by,
            )
    except IntegrityError:
        raise InputError(
            "That reading is already saved; undo it to read again.", spec.key
        ) from None


@transaction.atomic
def pass_over(turn: Turn, by: User, at: datetime, missed: tuple[str, str, float]) -> None:
    """Give up one reading that was missed (input, load step, due); given up twice, it is wanted again.

    Raises :class:`InputError` when no clock runs or it is no reading of the procedure.
    """
    clock = Clock.objects.select_for_update().filter(turn=turn).first()
    if clock is None:
        raise InputError("Start the clock first: T.", "clock")
    key, load_step, due = missed
    spec = next((i for i in turn.procedure.method.timed if i.key == key), None)
    if spec is None or due not in turn.procedure.reading_times:
        raise InputError("This is no reading of the procedure.", "clock")
    row = [key, load_step, due]
    again = row in clock.passed
    clock.passed = [p for p in clock.passed if p != row] if again else [*clock.passed, row]
    clock.save(update_fields=["passed"])
    when = "at once" if due == 0 else f"at {time_words(due)}"
    words = f"{spec.label.lower()} {when}: {'wanted again' if again else 'missed, skipped'}"
    history.note([turn.specimen], "clock", by, at, words, {"turn": turn.pk})


def _ask_about(turn: Turn, spec: Input, taken: Taken, value: float) -> None:
    """Ask about a reading far from the one before it under the same load; once."""
    before = TimedReading.objects.filter(turn=turn, key=spec.key, load_step=taken.load_step).last()
    odd = odd_beside(value, before.value, spec.dimension, spec.unit) if before else ""
    if odd and taken.kept != taken.text:
        raise InputError(
            f"{odd} Press Enter again to keep it, or type it again with its unit.", "kept"
        )


def undo_take(turn: Turn, by: User, at: datetime) -> None:
    """Undo the last timed reading; without any, the clock itself."""
    last = TimedReading.objects.filter(turn=turn).last()
    if last:
        SpentEntryKey.objects.get_or_create(key=last.entry_key, defaults={"turn": turn})
        last.delete()
    else:
        Clock.objects.filter(turn=turn).delete()
        history.set_running(turn, False)
        HistoryEvent.objects.filter(kind="clock", detail__turn=turn.pk).update(undone_at=at)
        history.note([turn.specimen], "clock_back", by, at, "clock undone", {"turn": turn.pk})


@transaction.atomic
def finish(turn: Turn, by: User, entry: Entry) -> Recorded:
    """Record the test from its timed readings and stop the clock."""
    series = series_of(Turn.objects.get(pk=turn.pk))
    if not series and entry.outcome != "void":
        raise InputError("No reading yet.", "clock")
    for spec in turn.procedure.method.timed:
        if spec.key in series:
            read_input(spec, series[spec.key], {})
    whole = replace(entry, inputs={**entry.inputs, **series})
    recorded = record_test(turn, by, whole)
    Clock.objects.filter(turn=turn).delete()
    return recorded
