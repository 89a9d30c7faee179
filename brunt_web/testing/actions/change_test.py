"""Undo, exclude and restore. The specimen's life keeps who, when, before and after."""

from dataclasses import dataclass
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Max

from brunt_core.errors import InputError
from brunt_web.campaigns import life
from brunt_web.campaigns.actions.change_plan import promote_spare
from brunt_web.campaigns.actions.plan_campaign import one_more
from brunt_web.campaigns.models import Campaign, Specimen, Turn
from brunt_web.library.models import Procedure
from brunt_web.testing.actions.record_test import take_back
from brunt_web.testing.models import Test


@dataclass(frozen=True)
class TakenBack:
    """A turn that waits again, and what was typed for the test that was taken back."""

    turn: Turn
    typed: dict[str, str]


def _typed(test: Test) -> dict[str, str]:
    """A test as it was typed: readings, how it ended, reason and note."""
    readings = {
        r.key: f"{r.text} {r.unit}" if r.unit_assumed and r.unit not in r.text else r.text
        for r in test.readings.all()
    }
    said = {k: getattr(test, k) for k in ("outcome", "place", "mode", "reason", "note")}
    return readings | {k: v for k, v in said.items() if v}


@transaction.atomic
def undo_last(campaign: Campaign, procedure: Procedure, by: User, at: datetime) -> TakenBack:
    """Take back the person's last test of this procedure; the specimen waits again, its text kept.

    Raises :class:`InputError` when there is nothing of theirs to take back, or when a later test of
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
        raise InputError("There is nothing of yours to undo in this procedure.")
    later = Turn.objects.filter(
        specimen=last.turn.specimen, step__gt=last.turn.step, tested_at__isnull=False
    ).first()
    if later:
        raise InputError(
            f"{last.turn.code} was tested again afterwards ({later.procedure.name}); take that back first."
        )
    typed = _typed(last)
    return TakenBack(take_back(last, by, at), typed)


@transaction.atomic
def exclude(test: Test, reason: str, by: User, at: datetime) -> Test:
    """Leave a test out of the mean, for a written reason. The reading stays."""
    if not reason.strip():
        raise InputError("Write why this specimen is left out; the reading itself stays.", "reason")
    if len(reason) > 300:
        raise InputError("Keep the reason under 300 characters.", "reason")
    if test.outcome == "void":
        raise InputError("A void test counts nowhere already.", "reason")
    test.excluded, test.exclusion_reason = True, reason.strip()
    test.save()
    life.counted(test.turn, by, at, True, test.exclusion_reason)
    return test


@transaction.atomic
def restore(test: Test, by: User, at: datetime) -> Test:
    """Count an excluded test again."""
    test.excluded, test.exclusion_reason = False, ""
    test.save()
    life.counted(test.turn, by, at, False, "")
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
    return spare or one_more(specimen.condition, specimen.procedure, by, at=at)[0]
