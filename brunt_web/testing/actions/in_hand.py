"""Who has which specimen at the bench, so that two testers do not take up the same one."""

from datetime import datetime, timedelta

from django.db import transaction
from django.db.models import Q, QuerySet

from brunt_web.campaigns.models import Specimen
from brunt_web.campaigns.queries import in_test_order

HELD_FOR = timedelta(minutes=10)


def in_another_hand(user, now: datetime) -> Q:
    """Specimens that somebody else took up less than ten minutes ago."""
    return Q(in_hand_since__gt=now - HELD_FOR) & ~Q(in_hand_of=user)


def take_up(specimen: Specimen, user, now: datetime) -> None:
    """This person has the specimen in hand from now on."""
    Specimen.objects.filter(pk=specimen.pk).update(in_hand_of=user, in_hand_since=now)


@transaction.atomic
def take_next(specimen: Specimen, user, now: datetime) -> str:
    """Take up the next untested specimen: of the same procedure, round the end, then of any other.

    One that somebody else has in hand is passed over. Returns its ID, empty when none waits.
    """
    waiting = Specimen.objects.filter(
        campaign_id=specimen.campaign_id, test__isnull=True, clock__isnull=True, spare=False
    ).exclude(print__failed=True)
    waiting = waiting.exclude(pk=specimen.pk).exclude(in_another_hand(user, now))
    behind = Q(run_order__lt=specimen.run_order)
    same = waiting.filter(procedure_id=specimen.procedure_id).annotate(
        behind=behind, unprinted=Q(print__batch__printed_at__isnull=True)
    )
    code = _claim(same.order_by("skips", "behind", "unprinted", "run_order"), user, now)
    return code or _claim(in_test_order(specimen.campaign).filter(pk__in=waiting), user, now)


def _claim(waiting: QuerySet[Specimen], user, now: datetime) -> str:
    """Take up the first that nobody is just taking; its ID."""
    free = waiting.select_for_update(of=("self",), skip_locked=True)
    found = next(iter(free.values_list("pk", "code")[:1]), None)
    if found:
        Specimen.objects.filter(pk=found[0]).update(in_hand_of=user, in_hand_since=now)
    return found[1] if found else ""
