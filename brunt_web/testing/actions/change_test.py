"""Undo, exclude and restore. The specimen's history keeps who, when, before and after."""

from dataclasses import dataclass
from datetime import datetime
from uuid import uuid4

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Max
from django.utils.timezone import localtime

from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.actions.change_plan import promote_spare
from brunt_web.campaigns.actions.plan_campaign import one_more
from brunt_web.campaigns.models import Campaign, Specimen, Turn
from brunt_web.changes.reading import last_by
from brunt_web.interface.edit_conflicts import refuse_overtaken
from brunt_web.library.models import Procedure
from brunt_web.testing.actions.record_test import Entry, Recorded, record_test, take_back
from brunt_web.testing.models import Test


@dataclass(frozen=True)
class TakenBack:
    """A turn that waits again, and what was typed for the test that was undone."""

    turn: Turn
    typed: dict[str, str]


def _typed(test: Test) -> dict[str, str]:
    """A test as it was typed: readings, outcome, reason and note."""
    readings = {
        r.key: f"{r.text} {r.unit}" if r.unit_assumed and r.unit not in r.text else r.text
        for r in test.readings.all()
    }
    said = {k: getattr(test, k) for k in ("outcome", "place", "mode", "reason", "note")}
    return readings | {k: v for k, v in said.items() if v}


def reading_words(test: Test | None) -> dict[str, str]:
    """A test as it stands, by what each part of it is called: what somebody sees before they correct it."""
    if test is None:
        return {}
    labels = {i.key: i.label.lower() for i in test.turn.procedure.method.inputs}
    return {labels.get(k, k): v for k, v in _typed(test).items()}


@transaction.atomic
def correct(turn: Turn, by: User, entry: Entry, seen: str = "") -> Recorded:
    """Put a test in the place of the one that stands, where that is still the one that was seen."""
    history.lock(turn.specimen)
    test = Test.objects.filter(turn=turn).select_related("turn__procedure").first()
    standing = reading_words(test)
    if test is None or test.entry_key != entry.key:
        labels = {i.key: i.label.lower() for i in turn.procedure.method.inputs}
        said = {"outcome": entry.outcome, "place": entry.place, "mode": entry.mode}
        said |= {"reason": entry.reason, "note": entry.note}
        typed = {labels.get(k, k): v for k, v in (dict(entry.inputs) | said).items()}
        mine = (
            {k: typed.get(k, v) for k, v in standing.items()} if test else {"test": "a correction"}
        )
        refuse_overtaken(seen, standing, mine, lambda: _last(turn, test))
    return record_test(turn, by, entry, replace=True)


def _last(turn: Turn, test: Test | None) -> str:
    """Who touched a test last, and when."""
    told = last_by("campaigns_turn", [turn.pk])
    if told or test is None:
        return told
    return f"{test.by.get_username()}, {localtime(test.recorded_at):%H:%M}"


@transaction.atomic
def undo_last(campaign: Campaign, procedure: Procedure, by: User, at: datetime) -> TakenBack:
    """Undo the person's last test of this procedure; the specimen waits again, its text kept.

    Raises :class:`InputError` when there is nothing of theirs to undo, or when a later test of
    the same specimen stands on it.
    """
    last = (
        Test.objects.select_for_update(of=("self",))
        .filter(turn__campaign=campaign, turn__procedure=procedure, by=by)
        .select_related("turn__specimen", "turn__procedure", "turn__condition")
        .order_by("-recorded_at", "-id")
        .first()
    )
    if last is None:
        raise InputError("You have nothing to undo in this procedure.")
    later = Turn.objects.filter(
        specimen=last.turn.specimen, step__gt=last.turn.step, tested_at__isnull=False
    ).first()
    if later:
        raise InputError(
            f"{last.turn.code} was tested again afterwards ({later.procedure.name}); undo that first."
        )
    typed = _typed(last)
    return TakenBack(take_back(last, by, at), typed)


def counts_words(test: Test | None) -> dict[str, str]:
    """Whether a test counts, as it stands: what somebody sees before they change it."""
    if test is None:
        return {}
    return {
        "it": "excluded" if test.excluded else "counted",
        "the reason": test.exclusion_reason,
        "entered as": str(test.entry_key)[:8],
    }


def _as_seen(test: Test, seen: str, mine: dict[str, str]) -> Test:
    """The test locked and read again, where it still stands as somebody saw it."""
    history.lock(test.turn.specimen)
    found = Test.objects.filter(turn=test.turn).first()
    if found is None:
        raise InputError(
            "This test was undone in the meantime; there is nothing to include.", "reason"
        )
    standing = counts_words(found)
    refuse_overtaken(seen, standing, standing | mine, lambda: last_by("testing_test", [found.pk]))
    return found


@transaction.atomic
def exclude(test: Test, reason: str, by: User, at: datetime, seen: str = "") -> Test:
    """Leave a test out of the mean, for a written reason. The reading stays.

    ``seen`` is the mark of :func:`counts_words` as it was shown; what changed since is told first.
    """
    if not reason.strip():
        raise InputError(
            "Give a reason for excluding this specimen; the reading itself is kept.", "reason"
        )
    if len(reason) > 300:
        raise InputError("Keep the reason under 300 characters.", "reason")
    if test.outcome == "void":
        raise InputError("A void test is not counted anyway.", "reason")
    test = _as_seen(test, seen, {"it": "excluded", "the reason": reason.strip()})
    test.excluded, test.exclusion_reason = True, reason.strip()
    test.save()
    history.set_excluded(test.turn, by, at, True, test.exclusion_reason)
    return test


@transaction.atomic
def count_again(test: Test, by: User, at: datetime, seen: str = "") -> Test:
    """Count an excluded test again."""
    test = _as_seen(test, seen, {"it": "counted", "the reason": ""})
    test.excluded, test.exclusion_reason = False, ""
    test.save()
    history.set_excluded(test.turn, by, at, False, "")
    return test


def skip(turn: Turn) -> Turn:
    """Put a specimen to the end of its queue; it still waits."""
    last = Turn.objects.filter(campaign=turn.campaign, procedure=turn.procedure).aggregate(
        most=Max("skips")
    )
    turn.skips = (last["most"] or 0) + 1
    turn.save(update_fields=["skips"])
    return turn


@transaction.atomic
def another_replicate(specimen: Specimen, by: User, at: datetime | None = None) -> Specimen:
    """One more specimen of the same condition: a spare if there is one, else a new one.

    A new one gets a place by chance in the test order.
    """
    spare = promote_spare(specimen)
    return spare or one_more(specimen.condition, specimen.procedure, by, at=at, act=uuid4().hex)[0]
