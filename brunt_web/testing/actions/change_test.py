"""Undo, exclude and restore. History keeps who, when, before and after."""

from django.db import transaction
from django.db.models import Max

from brunt_core.errors import InputError
from brunt_web.campaigns.actions.change_plan import promote_spare
from brunt_web.campaigns.actions.plan_campaign import add_specimens
from brunt_web.campaigns.models import Specimen
from brunt_web.testing.actions.record_test import clear
from brunt_web.testing.models import Test


@transaction.atomic
def undo_last(campaign, procedure, by) -> Specimen:
    """Take back the person's last test of this procedure; the specimen waits again.

    Raises :class:`InputError` when there is nothing of theirs to take back.
    """
    last = (
        Test.objects.select_for_update(of=("self",))
        .filter(specimen__campaign=campaign, specimen__procedure=procedure, by=by)
        .select_related("specimen")
        .order_by("-recorded_at", "-id")
        .first()
    )
    if last is None:
        raise InputError("There is nothing of yours to undo in this procedure.")
    specimen = last.specimen
    clear(last)
    return specimen


@transaction.atomic
def exclude(test: Test, reason: str) -> Test:
    """Leave a test out of the mean, for a written reason. The reading stays."""
    if not reason.strip():
        raise InputError("Write why this specimen is left out; the reading itself stays.", "reason")
    if len(reason) > 300:
        raise InputError("Keep the reason under 300 characters.", "reason")
    if test.outcome == "void":
        raise InputError("A void test counts nowhere already.", "reason")
    test.excluded, test.exclusion_reason = True, reason.strip()
    test.save()
    return test


@transaction.atomic
def restore(test: Test) -> Test:
    """Count an excluded test again."""
    test.excluded, test.exclusion_reason = False, ""
    test.save()
    return test


def skip(specimen: Specimen) -> Specimen:
    """Put a specimen to the end of its queue; it still waits."""
    last = (
        Specimen.objects.filter(campaign=specimen.campaign, procedure=specimen.procedure)
        .aggregate(most=Max("skips"))
        .get("most")
    )
    specimen.skips = (last or 0) + 1
    specimen.save(update_fields=["skips"])
    return specimen


@transaction.atomic
def another_replicate(specimen: Specimen) -> Specimen:
    """One more specimen of the same condition and procedure: a spare if there is one, else a new one."""
    spare = promote_spare(specimen)
    if spare:
        return spare
    last = Specimen.objects.filter(
        condition=specimen.condition, procedure=specimen.procedure
    ).aggregate(last=Max("replicate"))["last"]
    return add_specimens(specimen.campaign, specimen.procedure, [(specimen.condition, last + 1)])[0]
