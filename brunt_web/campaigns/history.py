"""A specimen's history: everything that happened to it, in order, and the state that follows.

Printing, treatments and testing write to it through these functions; nobody else touches the state
columns of specimens and turns. What a room above needs known below is told here, never asked upwards.
"""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign, Condition, HistoryEvent, Specimen, Turn
from brunt_web.campaigns.outstanding import (
    making_deviations,
    outstanding_of,
    test_deviations,
)
from brunt_web.campaigns.recorded import MadeAs, RecordedDeviation, TestedAs
from brunt_web.campaigns.resolved import Recipes
from brunt_web.campaigns.resolved_parts import Resolved

SITTING = timedelta(minutes=10)
_STATE_COLUMNS = ("outstanding_steps", "outstanding", "ready_at", "deviations", "treated", "spent")


def note(
    specimens: Iterable[Specimen],
    kind: str,
    by: User,
    at: datetime,
    what: str,
    detail: Mapping[str, Any] | None = None,
) -> list[HistoryEvent]:
    """Write one event into the history of each."""
    rows = [
        HistoryEvent(
            specimen=s, kind=kind, by=by, at=at, what=what[:400], detail=dict(detail or {})
        )
        for s in specimens
    ]
    return HistoryEvent.objects.bulk_create(rows)


def sitting(
    specimen: Specimen, by: User, at: datetime, detail: Mapping[str, Any]
) -> HistoryEvent | None:
    """The moment of sizes that goes on: the last event, by the same person, within ten minutes."""
    last = (
        HistoryEvent.objects.filter(specimen=specimen, undone_at=None).order_by("at", "id").last()
    )
    goes_on = (
        last is not None
        and last.kind in ("measured", "weighed")
        and last.detail == dict(detail)
        and last.by == by
        and abs(at - last.at) <= SITTING
    )
    return last if goes_on else None


def say_more(moment: HistoryEvent, words: str, kind: str) -> None:
    """A moment of sizes holds more of them."""
    moment.what = f"{moment.what}, {words}"[:400]
    moment.kind = moment.kind if moment.kind == kind else "measured"
    moment.save(update_fields=["what", "kind"])


def update_event_text(event: HistoryEvent, what: str) -> None:
    """What the event holds was corrected: its text is written again from what it holds now."""
    event.what = what[:400]
    event.save(update_fields=["what"])


# -- planned and made ---------------------------------------------------------------------------


def planned(specimens: Sequence[Specimen], by: User, at: datetime, act: str = "") -> None:
    """Newly planned specimens: the first event of their histories; ``act`` where one press added them later."""
    note(specimens, "planned", by, at, "planned", {"added": act} if act else None)


def made(
    specimens: Sequence[Specimen],
    by: User,
    at: datetime,
    how: str,
    made_as: Mapping[int, MadeAs] | None = None,
) -> None:
    """They were made: ``how`` in a word (printed, cut, bought …), ``made_as`` facts by specimen."""
    for s in specimens:
        s.made, s.made_how, s.made_at = "made", how[:60], at
        s.made_as = (made_as or {}).get(s.pk, MadeAs())
    Specimen.objects.bulk_update(specimens, ["made", "made_how", "made_at", "made_as"])
    rows = [
        HistoryEvent(
            specimen=s,
            kind="printed" if how == "printed" else "made",
            by=by,
            at=at,
            what=_made_words(s, how)[:400],
            detail=s.made_as.stored,
        )
        for s in specimens
    ]
    HistoryEvent.objects.bulk_create(rows)
    settle(specimens)


def _made_words(specimen: Specimen, how: str) -> str:
    facts = specimen.made_as
    parts = [facts.plate, facts.printer, facts.lot, facts.recipe, facts.note]
    return ", ".join([how, *(p for p in parts if p)])


def unmade(specimens: Sequence[Specimen], by: User, at: datetime, why: str) -> None:
    """Undo that they were made."""
    for s in specimens:
        s.made, s.made_how, s.made_at, s.made_as = "planned", "", None, MadeAs()
    Specimen.objects.bulk_update(specimens, ["made", "made_how", "made_at", "made_as"])
    undo_events(specimens, ("printed", "made"), at)
    note(specimens, "unmade", by, at, why)
    settle(specimens)


def called(specimen: Specimen, name: str, by: User, at: datetime) -> None:
    """Its tester's ID for it; empty takes the name off."""
    was, specimen.own_id = specimen.own_id, name
    specimen.save(update_fields=["own_id"])
    note([specimen], "called", by, at, f"called “{name}”" if name else f"not called “{was}” now")


def undo_events(specimens: Iterable[Specimen], kinds: Iterable[str], at: datetime) -> None:
    """Mark events as undone."""
    HistoryEvent.objects.filter(
        specimen__in=list(specimens), kind__in=list(kinds), undone_at__isnull=True
    ).update(undone_at=at)


def record_print_outcome(
    specimen: Specimen, by: User, at: datetime, failed: bool, defects: Sequence[str], words: str
) -> None:
    """How a print came out: failed or not, with what defects."""
    was = specimen.made
    specimen.defects = list(defects)
    if failed:
        specimen.made = "failed"
    elif was == "failed":
        specimen.made = "made" if specimen.made_at else "planned"
    specimen.save(update_fields=["defects", "made"])
    kind = "print_failed" if failed else "came_out"
    note([specimen], kind, by, at, words or ("failed" if failed else "fine"))
    settle([specimen])


# -- treated, conditioned -----------------------------------------------------------------------


def carried_out(
    specimens: Sequence[Specimen],
    by: User,
    at: datetime,
    step: tuple[str, str],
    words: str = "",
) -> None:
    """A step outstanding (kind, what) was done on them; ``words`` is the note."""
    kind, what = step
    event = {"treatment": "treated", "state": "conditioned"}[kind]
    said = f"{what}: {words}" if words else what
    note(specimens, event, by, at, said, {"what": what, "note": words})
    settle(specimens)


def lay_in(specimens: Sequence[Specimen], words: str) -> None:
    """What is on holds them: ``words`` names it, empty when they are out again."""
    Specimen.objects.filter(pk__in=[s.pk for s in specimens]).update(lies_in=words)
    for s in specimens:
        s.lies_in = words


def left_state(specimens: Sequence[Specimen], by: User, at: datetime) -> None:
    """They were taken out of their state: the minutes to the test count from here."""
    note(specimens, "taken_out", by, at, "taken out of its state")


# -- tested -------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Tested:
    """A test as history keeps it: outcome and how it was really done."""

    outcome: str
    at: datetime
    place: str = ""
    words: str = ""
    untimely: str = ""
    stated: bool = False
    reading_outstanding: bool = False
    done_as: TestedAs = TestedAs()


def state_after(turn: Turn, outcome: str) -> tuple[str, bool]:
    """The turn's state after this outcome, and whether the specimen is destroyed."""
    method = turn.procedure.method
    spends = method.spends(outcome, turn.procedure.destroys)
    found = method.outcome(outcome)
    if found and found.bound == "void":
        return "void", False
    if spends:
        return "broken", True
    return ("held" if found and found.bound == "at_least" else "read"), False


def check_fit(turn: Turn, outcome: str, untimely: str, now: datetime) -> None:
    """Raise :class:`InputError` for a test that cannot be: not made, outstanding, spent.

    With a reason in ``untimely`` it may be done all the same while something is outstanding.
    """
    specimen = turn.specimen
    if turn.state == "gone" or (specimen.spent and not turn.spends):
        raise InputError(
            f"{turn.code} was destroyed by an earlier test; no further test is possible.",
            "specimen",
        )
    if specimen.made == "failed":
        raise InputError(f"The print of {turn.code} failed; reprint it.", "outstanding")
    if turn.state == "running" or untimely.strip():
        return
    if said := outstanding_words(turn, now):
        raise InputError(
            f"{turn.code} is not ready: {said}. Give a reason to test it anyway.", "outstanding"
        )


def outstanding_words(turn: Turn, now: datetime) -> str:
    """What a turn still waits for, in words; empty when nothing."""
    specimen = turn.specimen
    said = [o.says for o in specimen.outstanding_steps]
    if specimen.ready_at and specimen.ready_at > now:
        said.append(f"it is to be tested from {specimen.ready_at:%d %b %Y} on")
    if not turn.open and turn.state == "waiting":
        said.append("an earlier test of it comes first")
    spends = turn.procedure.method.spends("", turn.procedure.destroys)
    if specimen.lies_in and spends:
        said.append(f"it lies in {specimen.lies_in}, take it out first")
    return "; ".join(said)


def tested(turn: Turn, by: User, test: Tested) -> None:
    """Its test is recorded: state, spending, what is next, deviations, the event."""
    specimen = turn.specimen
    turn.state, turn.spends = state_after(turn, test.outcome)
    turn.outcome, turn.place = test.outcome, test.place
    turn.untimely, turn.stated = test.untimely.strip()[:300], test.stated
    turn.reading_outstanding = test.reading_outstanding
    turn.tested_at, turn.tested_as = test.at, test.done_as
    turn.excluded, turn.excluded_because = False, ""
    turn.save(
        update_fields=[
            *("state", "spends", "outcome", "place", "untimely", "stated", "tested_at"),
            *("tested_as", "excluded", "excluded_because", "reading_outstanding", "rig"),
        ]
    )
    others = Turn.objects.filter(specimen_id=specimen.pk, state="waiting").exclude(pk=turn.pk)
    if turn.spends:
        others.update(state="gone")
    else:
        others.filter(step=turn.step + 1).update(open=True)
    note([specimen], "tested", by, test.at, test.words or test.outcome, {"turn": turn.pk})
    _after_test(specimen, turn)


def _after_test(specimen: Specimen, turn: Turn) -> None:
    """What a test changes in its specimen; nothing is asked of the database unless it must."""
    found = test_deviations(specimen, turn)
    kept = [d for d in specimen.deviations if d.turn != turn.pk]
    rows = (*kept, *(RecordedDeviation.of(d, turn.pk) for d in found))
    spent = specimen.spent or turn.spends
    if rows != specimen.deviations or spent != specimen.spent:
        specimen.deviations, specimen.spent = rows, spent
        specimen.save(update_fields=["deviations", "spent"])


def taken_back(turn: Turn, by: User, at: datetime, words: str = "undone") -> None:
    """Its test is undone: it waits again, and so does what came after it."""
    specimen = turn.specimen
    _clear(turn)
    undo_tested([turn.pk], at)
    note([specimen], "taken_back", by, at, words, {"turn": turn.pk})
    settle([specimen])


def _clear(turn: Turn) -> None:
    turn.state, turn.outcome, turn.place, turn.spends = "waiting", "", "", False
    turn.excluded, turn.excluded_because, turn.stated = False, "", False
    turn.reading_outstanding = False
    turn.untimely, turn.tested_at, turn.tested_as = "", None, TestedAs()
    turn.save()


def undo_tested(turns: Sequence[int], at: datetime) -> None:
    """Mark the events of these turns' tests as undone."""
    HistoryEvent.objects.filter(
        kind="tested", detail__turn__in=list(turns), undone_at__isnull=True
    ).update(undone_at=at)


def set_excluded(turn: Turn, by: User, at: datetime, excluded: bool, why: str) -> None:
    """It is excluded of the mean, with its reason, or included again."""
    turn.excluded, turn.excluded_because = excluded, why
    turn.save(update_fields=["excluded", "excluded_because"])
    words = f"excluded from the mean: {why}" if excluded else "included again"
    note([turn.specimen], "excluded" if excluded else "counts", by, at, words, {"turn": turn.pk})


def set_running(turn: Turn, on: bool, untimely: str = "") -> None:
    """Timed test running, or has stopped without a test; ``untimely`` why, although it was not ready."""
    turn.state, turn.untimely = "running" if on else "waiting", untimely.strip()[:300]
    Turn.objects.filter(pk=turn.pk, state__in=("waiting", "running")).update(
        state=turn.state, untimely=turn.untimely
    )


# -- the state that follows ---------------------------------------------------------------------


def lock(specimen: Specimen) -> None:
    """Whoever writes into this history now waits; call it first, inside a transaction.

    Everybody takes the specimen before its turns, so that two who meet never wait for each other.
    """
    Specimen.objects.select_for_update(no_key=True).only("pk").get(pk=specimen.pk)


@transaction.atomic
def settle(specimens: Sequence[Specimen]) -> None:
    """Work out again what each still needs, when it is ready, and where it departs from its plan.

    The specimens are locked: a test that is stored meanwhile is seen, never overwritten.
    """
    if not specimens:
        return
    known = (
        Specimen.objects.filter(pk__in=[s.pk for s in specimens])
        .select_related(
            "condition__recipe", "condition__material", "procedure__variant", "campaign__recipe"
        )
        .order_by("pk")
        .select_for_update(of=("self",), no_key=True)
    )
    rows = list(known)
    done = _steps_done(specimens)
    turns: dict[int, list[Turn]] = defaultdict(list)
    for turn in Turn.objects.filter(specimen__in=specimens).select_related(
        "procedure", "condition"
    ):
        turns[turn.specimen_id].append(turn)
    recipes: dict[int, Recipes] = {}
    for specimen in rows:
        of = recipes.setdefault(specimen.campaign_id, Recipes.of(specimen.campaign))
        plan = of.resolved(specimen.condition, specimen.procedure)
        _settle_one(specimen, turns[specimen.pk], done[specimen.pk], plan)
    Specimen.objects.bulk_update(rows, _STATE_COLUMNS)
    Turn.objects.bulk_update([t for ts in turns.values() for t in ts], ["open", "state"])
    fresh = {s.pk: s for s in rows}
    for s in specimens:
        for column in _STATE_COLUMNS:
            setattr(s, column, getattr(fresh[s.pk], column))


def _steps_done(specimens: Sequence[Specimen]) -> dict[int, dict[str, list[str]]]:
    found: dict[int, dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
    rows = HistoryEvent.objects.filter(
        specimen__in=specimens, kind__in=("treated", "conditioned"), undone_at__isnull=True
    )
    for pk, kind, detail in rows.values_list("specimen_id", "kind", "detail"):
        found[pk][kind].append(str(detail.get("what", "")))
    return found


def _settle_one(
    specimen: Specimen, turns: Sequence[Turn], done: Mapping[str, list[str]], plan: Resolved
) -> None:
    required = specimen.condition.requirements
    specimen.outstanding_steps = outstanding_of(specimen.made, required, done)
    specimen.outstanding = specimen.outstanding_steps[0].kind if specimen.outstanding_steps else ""
    if specimen.made == "failed":
        specimen.outstanding = "failed"
    specimen.treated = bool(done.get("treated"))
    age = required.age
    specimen.ready_at = (
        specimen.made_at + timedelta(seconds=age.seconds)
        if age and age.outstanding and specimen.made_at
        else None
    )
    specimen.spent = any(t.spends for t in turns)
    ordered = sorted(turns, key=lambda t: t.step)
    for i, turn in enumerate(ordered):
        turn.open = all(t.state not in ("waiting", "running") for t in ordered[:i])
        if turn.state in ("waiting", "gone"):
            turn.state = "gone" if specimen.spent else "waiting"
    found = [RecordedDeviation.of(d, None) for d in making_deviations(specimen, plan)]
    for turn in ordered:
        if turn.done:
            found += [RecordedDeviation.of(d, turn.pk) for d in test_deviations(specimen, turn)]
    specimen.deviations = tuple(found)


def plan_changed(campaign: Campaign, conditions: Sequence[Condition] | None = None) -> None:
    """The plan behind specimens that are made has changed: check where they deviate from it."""
    found = Specimen.objects.filter(campaign=campaign).exclude(made="planned")
    if conditions is not None:
        found = found.filter(condition__in=conditions)
    settle(list(found))
