"""Who has which turn at the bench, so that two testers do not take up the same one."""

from datetime import datetime, timedelta

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Q, QuerySet

from brunt_web.campaigns.models import Turn
from brunt_web.campaigns.queries import fit, in_test_order

HELD_FOR = timedelta(minutes=10)


def in_another_hand(user: User, now: datetime) -> Q:
    """Specimens that somebody else took up less than ten minutes ago."""
    return Q(in_hand_since__gt=now - HELD_FOR) & ~Q(in_hand_of=user)


def take_up(turn: Turn, user: User, now: datetime) -> None:
    """This person has the specimen in hand from now on."""
    Turn.objects.filter(pk=turn.pk).update(in_hand_of=user, in_hand_since=now)


@transaction.atomic
def take_next(turn: Turn, user: User, now: datetime) -> tuple[str, int] | None:
    """Take up the next turn that is ready: at the same procedure, round the end, then at any other.

    One that somebody else has in hand is passed over. Returns its ID and the number
    of its test, ``None`` when none waits.
    """
    waiting = Turn.objects.filter(fit(now), campaign_id=turn.campaign_id)
    waiting = waiting.exclude(pk=turn.pk).exclude(in_another_hand(user, now))
    behind = Q(run_order__lt=turn.run_order)
    same = waiting.filter(procedure_id=turn.procedure_id).annotate(behind=behind)
    found = _claim(same.order_by("skips", "behind", "run_order"), user, now)
    return found or _claim(in_test_order(turn.campaign).filter(pk__in=waiting), user, now)


def _claim(waiting: QuerySet[Turn], user: User, now: datetime) -> tuple[str, int] | None:
    """Take up the first that nobody is just taking."""
    free = waiting.select_for_update(of=("self",), skip_locked=True)
    found = next(iter(free.values_list("pk", "specimen__code", "step")[:1]), None)
    if found is None:
        return None
    Turn.objects.filter(pk=found[0]).update(in_hand_of=user, in_hand_since=now)
    return found[1], found[2] + 1
