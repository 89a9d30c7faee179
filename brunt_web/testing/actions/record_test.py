"""Record a specimen's test: what was read, what came of it, and the results computed."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from uuid import UUID

from django.contrib.auth.models import User
from django.db import IntegrityError, transaction

from brunt_core.computation import Computation, read_input
from brunt_core.computation.reading import inputs_in_own_unit
from brunt_core.computation.working import bounded_text
from brunt_core.errors import InputError
from brunt_core.methods.base import MASS, Method
from brunt_core.quantities import parse
from brunt_core.treatments.change import SHAPE_SIZES, distortion
from brunt_core.treatments.looks import LOOK_SIZES, check_look
from brunt_web.campaigns import history
from brunt_web.campaigns.actions.change_plan import promote_spare
from brunt_web.campaigns.models import Specimen, Turn
from brunt_web.campaigns.recorded import TestedAs
from brunt_web.campaigns.state import state_of
from brunt_web.changes.actions.correcting import correcting
from brunt_web.results.reading import of_turn
from brunt_web.results.storing import remove_results, store_computed
from brunt_web.testing.actions.storing import store_readings
from brunt_web.testing.day import daily_texts
from brunt_web.testing.inputs import assumed_for, computed, full_inputs
from brunt_web.testing.instruments import instruments_for
from brunt_web.testing.marks import AS_MADE, BEFORE_TEST, marks_for, marks_of, store_marks
from brunt_web.testing.models import Clock, Measurement, Reading, SpentEntryKey, Test


@dataclass(frozen=True)
class Entry:
    """One test as entered. ``key`` is made where it was entered and arrives with every retry.

    ``answers`` keeps what was asked about a reading and what the tester answered. An empty
    ``outcome`` is the method's first. ``read_at`` is when a reading with a set time was taken,
    where that is not when it was entered. ``untimely`` says why it is tested though it still needs
    something; ``speed`` is the rig's as noted, when it is not the set one; ``ticks`` names what of
    the plan was confirmed at the bench, ``None`` where nobody was asked. With ``reading_outstanding`` the
    specimen is tested and reading to be entered later: what is typed is kept, nothing is computed.
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
    untimely: str = ""
    speed: str = ""
    ticks: tuple[str, ...] | None = None
    reading_outstanding: bool = False


@dataclass(frozen=True)
class Recorded:
    """The stored test; ``repeated`` when this entry had arrived before.

    Without a ``test`` the entry was undone or corrected since: its late repeat changes nothing.
    """

    test: Test | None
    repeated: bool


def record_test(turn: Turn, by: User, entry: Entry, replace: bool = False) -> Recorded:
    """Store one test exactly once.

    Raises :class:`InputError` for readings that cannot be used, for a specimen that is not made, still needs
    something or is destroyed, and when the turn already has another test and ``replace`` is not set. An
    entry whose key is known is returned as stored. The database holds one test a turn and one a key,
    whoever comes first; the key of an entry that was undone or corrected is used up for good.
    """
    try:
        if is_spent(entry.key):
            return Recorded(None, repeated=True)
        _check(turn.procedure.method, entry)
        if not replace:
            history.check_fit(turn, entry.outcome, entry.untimely or turn.untimely, entry.at)
        to_follow = entry.reading_outstanding and not replace
        done = None if entry.outcome == "void" or to_follow else _computed(turn, entry)
        speed = _speed(entry.speed)
        return Recorded(_store(turn, by, entry, done, speed, replace), repeated=False)
    except (IntegrityError, InputError) as problem:
        standing = Test.objects.filter(turn=turn).select_related("by").first()
        if standing and standing.entry_key == entry.key:
            return Recorded(standing, repeated=True)
        if standing is None and isinstance(problem, IntegrityError):
            raise InputError(
                f"{turn.code} was destroyed by another test at the same time; nothing was saved.",
                "specimen",
            ) from None
        if isinstance(problem, InputError) or standing is None:
            raise
        raise InputError(
            f"{turn.code} already has a test, recorded by {standing.by} at "
            f"{standing.at:%H:%M on %d %b}. Open it to correct it.",
            "specimen",
        ) from None


def _computed(turn: Turn, entry: Entry) -> Computation:
    procedure = turn.procedure
    inputs = full_inputs(turn, entry.inputs)
    done = computed(turn, inputs, entry.outcome)
    ranked, reading = procedure.ranked_property, procedure.reading
    if reading.key not in done.readings and all(r.property.key != ranked.key for r in done.results):
        raise InputError(
            f"The {reading.label.lower()} is missing: {procedure.name} is ranked by "
            f"{ranked.name.lower()}.",
            reading.key,
        )
    return done


def _speed(text: str) -> float | None:
    if not text.strip():
        return None
    try:
        speed = parse(text, "speed", "mm/min").si
    except InputError as error:
        raise error.at("speed") from None
    if speed <= 0:
        raise InputError("The speed must be more than zero.", "speed")
    return speed


def _check(method: Method, entry: Entry) -> None:
    outcome = method.outcome(entry.outcome or method.outcomes[0].key)
    if outcome is None:
        raise InputError(f"“{entry.outcome}” is not an outcome of {method.name}.", "outcome")
    if outcome.needs_reason and not entry.reason.strip():
        raise InputError(
            "Give the reason for void: slipped, cracked at assembly, wrong setting …", "reason"
        )
    for name, text in (("reason", entry.reason), ("untimely", entry.untimely)):
        if len(text) > 300:
            raise InputError(
                "Keep the reason under 300 characters; the note has room for more.", name
            )
    if entry.place and method.place(entry.place) is None:
        raise InputError(f"“{entry.place}” is not a place on this specimen.", "place")
    if entry.mode and method.mode(entry.mode) is None:
        raise InputError(f"“{entry.mode}” is not a failure mode of {method.name}.", "mode")


@transaction.atomic
def _store(
    turn: Turn,
    by: User,
    entry: Entry,
    done: Computation | None,
    speed: float | None,
    replace_standing: bool,
) -> Test:
    history.lock(turn.specimen)
    if is_spent(entry.key):
        raise InputError("This entry was undone at the same moment; nothing was saved.", "specimen")
    before = numbers_of(turn) if replace_standing else {}
    standing = _make_room(turn, entry.key) if replace_standing else None
    outcome = entry.outcome or turn.procedure.method.outcomes[0].key
    test = Test.objects.create(
        turn=turn,
        entry_key=entry.key,
        outcome=outcome,
        place=entry.place,
        mode=entry.mode,
        reason=entry.reason.strip(),
        note=entry.note.strip(),
        answers=[*(standing.answers if standing else []), *(dict(a) for a in entry.answers)],
        speed=speed or (standing.speed if standing else None) or turn.speed,
        untimely=entry.untimely.strip() or turn.untimely,
        excluded=bool(standing and standing.excluded),
        exclusion_reason=standing.exclusion_reason if standing else "",
        assumed=_assumed(turn, done) if done else {},
        by=by,
        at=standing.at if standing else entry.at,
    )
    if done:
        _store_numbers(turn, by, entry, done, test)
    elif entry.reading_outstanding and outcome != "void":
        _store_what_is_read(turn, by, entry, test)
    excluded = (test.excluded, test.exclusion_reason)
    told = _as_history(turn, test, entry, by, corrected=bool(standing))
    if standing is not None:
        told = replace(told, words=f"{told.words}; {_before_and_after(before, numbers_of(turn))}")
    history.tested(turn, by, told)
    if excluded[0] and outcome != "void":
        history.set_excluded(turn, by, entry.at, *excluded)
    if outcome == "void" and not standing:
        promote_spare(turn.specimen)
    return test


def _as_history(turn: Turn, test: Test, entry: Entry, by: User, corrected: bool) -> history.Tested:
    """The test as the history keeps it."""
    method = turn.procedure.method
    outcome, place = method.outcome(test.outcome), method.place(test.place)
    label = outcome.label.strip(" …") if outcome else test.outcome
    to_follow = entry.reading_outstanding and not corrected and test.outcome != "void"
    parts = [
        f"{turn.procedure.name}{', corrected' if corrected else ''}: {label}",
        place.label if place else "",
        "reading to be entered later" if to_follow else "",
        test.reason,
        f"tested all the same: {test.untimely}" if test.untimely else "",
    ]
    rig = turn.on_rig
    ticks = turn.condition.requirements.ticks if entry.ticks is not None else ()
    due = rig.due_on if rig and rig.overdue(test.at.date()) else None
    done_as = TestedAs(
        speed=test.speed,
        rig=rig.name if rig else "",
        overdue=due.isoformat() if due else "",
        operator=by.get_username(),
        outstanding_steps=turn.specimen.outstanding_steps if test.untimely else (),
        state=state_of(turn.specimen, test.at).at_test(_doubt(turn)),
        unticked=tuple(t for t in ticks if t.name not in (entry.ticks or ())),
    )
    return history.Tested(
        outcome=test.outcome,
        at=test.at,
        place=test.place,
        words=", ".join(p for p in parts if p),
        untimely=test.untimely,
        reading_outstanding=to_follow,
        done_as=done_as,
    )


def _doubt(turn: Turn) -> str:
    """Why its strength is doubtful: bowed or out of square beyond the limit, as measured last."""
    sizes = {k: m.value for k, m in marks_for(turn).items()}
    shape = distortion(sizes)
    if not shape.doubtful:
        return ""
    said = [] if shape.bow is None else [f"bowed by {shape.bow * 100:.1f} % of its length"]
    return " and ".join(said + ([f"{shape.slant:.1f}° out of square"] if shape.slant else []))


def numbers_of(turn: Turn) -> dict[str, str]:
    """The readings and the ranked result of a turn's test in words, by what they are."""
    method, prop = turn.procedure.method, turn.procedure.ranked_property
    labels = {i.key: i.label.lower() for i in method.inputs}
    said = {
        labels.get(r.key, r.key): r.text if not r.unit_assumed else f"{r.text} {r.unit}"
        for r in Reading.objects.filter(test__turn=turn).order_by("id")
    }
    result = of_turn(turn, prop.key)
    if result:
        said[prop.name.lower()] = bounded_text(result.observation, prop.dimension, prop.unit, 4)
    return said


def _before_and_after(before: Mapping[str, str], after: Mapping[str, str]) -> str:
    """What a correction changed: ``peak load 500 N → 512 N``."""
    changed = [
        f"{name} {before.get(name, '–')} → {after.get(name, '–')}"
        for name in dict.fromkeys([*before, *after])
        if before.get(name) != after.get(name)
    ]
    return ", ".join(changed) or "the numbers stay"


def _make_room(turn: Turn, key: UUID) -> Test | None:
    """Clear the test that stands, for one that takes its place; the same entry again finds its own."""
    Turn.objects.select_for_update().only("pk").get(pk=turn.pk)
    standing = Test.objects.filter(turn=turn).first()
    if standing is None or standing.entry_key == key:
        return None
    kept = Test(
        answers=standing.answers,
        excluded=standing.excluded,
        exclusion_reason=standing.exclusion_reason,
        speed=standing.speed,
        at=standing.at,
    )
    correcting()
    _remove(standing)
    history.undo_tested([turn.pk], standing.recorded_at)
    return kept


def _store_numbers(turn: Turn, by: User, entry: Entry, done: Computation, test: Test) -> None:
    fixed = turn.procedure.parameters
    sizes = [
        r
        for r in done.readings.values()
        if (r.input.section or r.input.role == "size") and r.input.key not in test.assumed
    ]
    typed = [
        r
        for r in done.readings.values()
        if r not in sizes
        and r.input.key not in test.assumed
        and entry.inputs.get(r.input.key, "").strip()
        and r.input.key not in fixed
    ]
    elapsed = _elapsed(turn, entry)
    store_marks(turn.specimen, by, entry.at, sizes, BEFORE_TEST, turn)
    store_readings(test, typed, elapsed)
    store_computed(turn, done, elapsed)
    if elapsed is not None:
        Clock.objects.filter(turn=turn).delete()


def _store_what_is_read(turn: Turn, by: User, entry: Entry, test: Test) -> None:
    """Sizes and readings of a test whose main reading is to follow."""
    procedure = turn.procedure
    specs = {i.key: i for i in inputs_in_own_unit(procedure.method, procedure.parameters)}
    typed = {k: t for k, t in entry.inputs.items() if k in specs and t.strip()}
    readings = [
        read_input(specs[k], t, instruments_for(turn))
        for k, t in typed.items()
        if k not in turn.procedure.parameters
    ]
    sizes = [r for r in readings if r.input.section or r.input.role == "size"]
    store_marks(turn.specimen, by, entry.at, sizes, BEFORE_TEST, turn)
    store_readings(test, [r for r in readings if r not in sizes], None)


def _assumed(turn: Turn, done: Computation) -> dict[str, str]:
    """What a computation took that was not read of this specimen: unmeasured sizes, what is of the day."""
    return {
        key: text
        for key, text in (assumed_for(turn) | daily_texts(turn)).items()
        if key in done.readings and done.readings[key].typed.text == text
    }


def _elapsed(turn: Turn, entry: Entry) -> float | None:
    """Seconds since the clock was started, for a method that reads once at a set time."""
    procedure = turn.procedure
    if procedure.method.timed or not procedure.reading_times:
        return None
    clock = Clock.objects.filter(turn=turn).first()
    if clock is None:
        return None
    return max(((entry.read_at or entry.at) - clock.started_at).total_seconds(), 0.0)


def is_spent(key: UUID) -> bool:
    """Whether an entry of this key was stored and then undone or corrected."""
    return SpentEntryKey.objects.filter(pk=key).exists()


def _remove(test: Test, spend: bool = True) -> None:
    """Remove a test with its readings and results; history keeps them, its key is used up."""
    if spend:
        SpentEntryKey.objects.get_or_create(key=test.entry_key, defaults={"turn": test.turn})
    for reading in test.readings.all():
        reading.delete()
    remove_results([test.turn_id])
    test.delete()


def take_back(test: Test, by: User, at: datetime, spend: bool = True) -> Turn:
    """Take a test back: its turn waits again, and its history says so.

    Without ``spend`` its key may come again: that of an imported row names the line of a file, which
    somebody may import once more.
    """
    turn = test.turn
    _remove(test, spend)
    history.taken_back(turn, by, at, f"{turn.procedure.name}: undone")
    return turn


@transaction.atomic
def measure(
    specimen: Specimen, by: User, at: datetime, texts: Mapping[str, str], name: str = AS_MADE
) -> dict[str, Measurement]:
    """Store sizes and mass taken at a moment of its history; returns the latest of each.

    Raises :class:`InputError` for what cannot be read, or for a specimen that is not made.
    """
    if specimen.made == "planned":
        raise InputError(
            f"{specimen.code} is not made yet; there is nothing to measure.", "specimen"
        )
    known = (*SHAPE_SIZES, *LOOK_SIZES, *specimen.procedure.method.inputs)
    specs = {i.key: i for i in known} | {"mass": MASS}
    readings = [read_input(specs[key], text, {}) for key, text in texts.items() if text.strip()]
    check_look({r.input.key: r.si for r in readings})
    history.lock(specimen)
    store_marks(specimen, by, at, readings, name)
    return marks_of(specimen)
