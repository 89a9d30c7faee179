"""Who has which turn at the bench, so that two testers do not take up the same one."""

from datetime import datetime, timedelta

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Q, QuerySet

from brunt_web.campaigns.models import Turn
from brunt_web.campaigns.queries import in_test_order, turns_fit_for_bench

HELD_FOR = timedelta(minutes=10)


def in_another_hand(user: User, now: datetime) -> Q:
    """Specimens that somebody else took up less than ten minutes ago."""
    return _held(user.pk, now - HELD_FOR)


def _held(user: int, since: datetime) -> Q:
    return Q(in_hand_since__gt=since) & ~Q(in_hand_of_id=user)


def take_up(turn: Turn, user: User, now: datetime) -> None:
    """This person has the specimen in hand from now on."""
    Turn.objects.filter(pk=turn.pk).update(in_hand_of=user, in_hand_since=now)


@transaction.atomic
def take_next(turn: Turn, user: User, now: datetime) -> tuple[str, int] | None:
    """Take up the next turn that is ready: at the same procedure, round the end, then at any other.

    One that somebody else has in hand is passed over. Returns its ID and the number
    of its test, ``None`` when none waits.
    """
    where = (turn.campaign_id, turn.pk, user.pk, now, now - HELD_FOR)
    found = _same(*where, turn.procedure_id, turn.run_order) or _any(*where)
    if not found:
        return None
    pk, code, step = found[0]
    Turn.objects.filter(pk=pk).update(in_hand_of=user, in_hand_since=now)
    return code, step + 1


def _waiting(campaign: int, but: int, user: int, now: datetime, since: datetime) -> QuerySet[Turn]:
    waiting = Turn.objects.filter(turns_fit_for_bench(now), campaign_id=campaign).exclude(pk=but)
    return waiting.exclude(_held(user, since))


def _first_free(waiting: QuerySet[Turn]) -> QuerySet[Turn, tuple[int, str, int]]:
    """The first that nobody is just taking."""
    free = waiting.select_for_update(of=("self",), skip_locked=True)
    return free.values_list("pk", "specimen__code", "step")[:1]


def _same(
    campaign: int, but: int, user: int, now: datetime, since: datetime, procedure: int, order: int
) -> QuerySet[Turn, tuple[int, str, int]]:
    same = _waiting(campaign, but, user, now, since).filter(procedure_id=procedure)
    same = same.annotate(behind=Q(run_order__lt=order))
    return _first_free(same.order_by("skips", "behind", "run_order"))


def _any(
    campaign: int, but: int, user: int, now: datetime, since: datetime
) -> QuerySet[Turn, tuple[int, str, int]]:
    waiting = _waiting(campaign, but, user, now, since)
    return _first_free(in_test_order(campaign).filter(pk__in=waiting))
