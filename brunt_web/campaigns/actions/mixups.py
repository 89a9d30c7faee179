"""Mix-ups put right: swapped specimens, a test that belongs to another, a specimen in another role.

A test belongs to a turn, and sizes to an event of a history: correcting a mix-up is exchanging
whose they are. Each is reversible, with its reason in the history of both.
"""

from collections.abc import Iterable
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.actions.plan_campaign import next_replicate, one_more, set_for
from brunt_web.campaigns.models import Condition, HistoryEvent, Specimen, Turn

# What is done to the thing in hand, and so follows it when its label was wrong.
_FOLLOWS = (
    "measured",
    "weighed",
    "tested",
    "treated",
    "conditioned",
    "taken_out",
    "clock",
    "curve",
)


@transaction.atomic
def swap_labels(
    first: Specimen,
    second: Specimen,
    by: User,
    at: datetime,
    reason: str,
    since: datetime | None = None,
) -> None:
    """Their labels were exchanged: what was written of one from ``since`` on belongs to the other.

    Raises :class:`InputError` without a reason, for one and the same specimen, or when one has a
    test at a procedure that the other is not planned for.
    """
    _say_why(reason)
    if first.pk == second.pk:
        raise InputError("A specimen cannot be swapped with itself.", "other")
    if first.campaign_id != second.campaign_id:
        raise InputError(f"{second.code} belongs to another campaign.", "other")
    _lock(first, second)
    mine, theirs = _turns_since(first, since), _turns_since(second, since)
    for procedure in {*mine, *theirs}:
        _exchange_turns(_turn(first, procedure), _turn(second, procedure))
    _exchange_events(first, second, since)
    words = f"swapped with {{}}: {reason.strip()}"
    detail = {"reason": reason.strip(), "since": since.isoformat() if since else ""}
    for one, other in ((first, second), (second, first)):
        history.note(
            [one], "swapped", by, at, words.format(other.code), {**detail, "other": other.code}
        )
    history.settle(_fresh(first, second))


@transaction.atomic
def move_test(turn: Turn, to: Specimen, by: User, at: datetime, reason: str) -> Turn:
    """The test written down for one specimen was another's; the first one waits again.

    Raises :class:`InputError` without a reason, when there is no test to move, or when the other
    has its own or is not planned for this procedure.
    """
    _say_why(reason)
    if not turn.done and turn.state != "running":
        raise InputError(f"{turn.code} has no test that could be moved.", "other")
    if to.pk == turn.specimen_id:
        raise InputError("The test belongs to this specimen already.", "other")
    if to.campaign_id != turn.campaign_id:
        raise InputError(f"{to.code} belongs to another campaign.", "other")
    _lock(turn.specimen, to)
    other = _turn(to, turn.procedure_id)
    if other.done or other.state == "running":
        raise InputError(f"{to.code} has its own test; swap the two instead.", "other")
    was = turn.specimen
    _exchange_turns(turn, other)
    _exchange_test_event(turn.pk, to)
    words = f"its test, {turn.procedure.name}, {{}} {{}}: {reason.strip()}"
    detail = {"reason": reason.strip(), "turn": turn.pk}
    history.note(
        [was], "moved", by, at, words.format("was moved to", to.code), {**detail, "other": to.code}
    )
    history.note(
        [to],
        "moved",
        by,
        at,
        words.format("was moved here from", was.code),
        {**detail, "other": was.code},
    )
    history.settle(_fresh(was, to))
    return Turn.objects.get(pk=turn.pk)


@transaction.atomic
def change_role(
    specimen: Specimen,
    condition: Condition,
    by: User,
    at: datetime,
    reason: str,
    replace: bool = True,
) -> Specimen | None:
    """A specimen becomes one of another condition; one more is planned where it came from.

    Raises :class:`InputError` without a reason, or for its own condition. Returns the new specimen.
    """
    _say_why(reason)
    if condition.pk == specimen.condition_id:
        raise InputError(f"{specimen.code} is one of {condition} already.", "condition")
    if condition.campaign_id != specimen.campaign_id:
        raise InputError("That condition belongs to another campaign.", "condition")
    was = specimen.condition
    detail = {
        "reason": reason.strip(),
        "from": was.pk,
        "to": condition.pk,
        "replicate": specimen.replicate,
        "spare": specimen.spare,
    }
    _put_in(specimen, condition, next_replicate(condition, specimen.procedure), spare=False)
    made = (
        one_more(was, specimen.procedure, by, at=at)[0] if replace and not detail["spare"] else None
    )
    detail["instead"] = made.code if made else ""
    words = f"from now on one of {condition}, no longer of {was}: {reason.strip()}"
    history.note([specimen], "role", by, at, words, detail)
    history.settle(_fresh(specimen))
    return made


def _put_in(specimen: Specimen, condition: Condition, replicate: int, spare: bool) -> None:
    specimen.condition, specimen.replicate, specimen.spare = condition, replicate, spare
    specimen.save(update_fields=["condition", "replicate", "spare"])
    for turn in specimen.turns.select_related("procedure"):
        turn.condition = condition
        for key, value in set_for(condition.requirements, turn.procedure).items():
            setattr(turn, key, value)
        turn.save(update_fields=["condition", "speed", "conditioning"])


@transaction.atomic
def reverse(event: HistoryEvent, by: User, at: datetime) -> None:
    """Take a mix-up's correction back; it stays in the history, marked so.

    Raises :class:`InputError` for an event that is none, or that was undone before.
    """
    if event.kind not in ("swapped", "moved", "role") or event.undone_at:
        raise InputError("There is nothing to undo.", "event")
    specimen = event.specimen
    if event.kind == "role":
        _reverse_role(event, by, at)
        return
    other = Specimen.objects.get(workshop_id=specimen.workshop_id, code=event.detail["other"])
    reason = f"the correction “{event.what}” was undone"
    if event.kind == "swapped":
        since = event.detail.get("since")
        swap_labels(
            specimen, other, by, at, reason, datetime.fromisoformat(since) if since else None
        )
    else:
        turn = Turn.objects.select_related("specimen", "procedure").get(pk=event.detail["turn"])
        move_test(turn, specimen if turn.specimen_id == other.pk else other, by, at, reason)
    _mark_undone(event, other, at)


def _mark_undone(event: HistoryEvent, other: Specimen, at: datetime) -> None:
    """Mark the correction and its reversal as settled in both histories."""
    HistoryEvent.objects.filter(
        specimen__in=[event.specimen_id, other.pk],
        kind=event.kind,
        undone_at__isnull=True,
        detail__other__in=[event.specimen.code, other.code],
        noted_at__gte=event.noted_at,
    ).update(undone_at=at)


def _reverse_role(event: HistoryEvent, by: User, at: datetime) -> None:
    specimen, detail = event.specimen, event.detail
    back = Condition.objects.get(pk=detail["from"])
    taken = Specimen.objects.filter(
        condition=back, procedure=specimen.procedure, replicate=detail["replicate"]
    ).exists()
    number = next_replicate(back, specimen.procedure) if taken else detail["replicate"]
    _put_in(specimen, back, number, detail["spare"])
    instead = Specimen.objects.filter(
        workshop_id=specimen.workshop_id, code=detail.get("instead", ""), made="planned"
    ).first()
    if instead and not instead.events.exclude(kind="planned").exists():
        instead.delete()
    event.undone_at = at
    event.save(update_fields=["undone_at"])
    history.note([specimen], "role_back", by, at, f"one of {back} again: undone")
    history.settle(_fresh(specimen))


def _say_why(reason: str) -> None:
    if not reason.strip():
        raise InputError("Give a reason; it is kept in the history of both.", "reason")
    if len(reason) > 300:
        raise InputError("Keep the reason under 300 characters.", "reason")


def _lock(*specimens: Specimen) -> None:
    pks = sorted(s.pk for s in specimens)
    list(Specimen.objects.select_for_update().filter(pk__in=pks).order_by("pk").values_list("pk"))


def _fresh(*specimens: Specimen) -> list[Specimen]:
    return list(Specimen.objects.filter(pk__in=[s.pk for s in specimens]))


def _turn(specimen: Specimen, procedure: int) -> Turn:
    found = (
        Turn.objects.filter(specimen=specimen, procedure_id=procedure)
        .select_related("procedure", "condition", "specimen")
        .first()
    )
    if found is None:
        raise InputError(f"{specimen.code} is not planned for this test.", "other")
    return found


def _turns_since(specimen: Specimen, since: datetime | None) -> set[int]:
    """The procedures at which a specimen was tested from then on."""
    found = Turn.objects.filter(specimen=specimen).exclude(state__in=("waiting", "gone"))
    if since:
        found = found.filter(tested_at__gte=since)
    return set(found.values_list("procedure_id", flat=True))


_OF_SPECIMEN = ("specimen_id", "condition_id", "step", "speed", "conditioning", "run_order")


def _exchange_turns(one: Turn, other: Turn) -> None:
    """Each turn becomes the other specimen's; what was planned stays with the specimen."""
    spending = one.spends, other.spends
    Turn.objects.filter(pk__in=[one.pk, other.pk]).update(spends=False)
    for column in _OF_SPECIMEN:
        mine, theirs = getattr(one, column), getattr(other, column)
        setattr(one, column, theirs)
        setattr(other, column, mine)
    for turn, spends in zip((one, other), spending, strict=True):
        Turn.objects.filter(pk=turn.pk).update(
            **{c: getattr(turn, c) for c in _OF_SPECIMEN}, in_hand_of=None, in_hand_since=None
        )
        if spends:
            Turn.objects.filter(pk=turn.pk).update(spends=True)


def _exchange_events(first: Specimen, second: Specimen, since: datetime | None) -> None:
    def followers(specimen: Specimen) -> list[int]:
        found = HistoryEvent.objects.filter(specimen=specimen, kind__in=_FOLLOWS)
        if since:
            found = found.filter(at__gte=since)
        return list(found.values_list("pk", flat=True))

    mine, theirs = followers(first), followers(second)
    _give(mine, second)
    _give(theirs, first)


def _exchange_test_event(turn: int, to: Specimen) -> None:
    """The test's event, and the sizes taken at it, go with the test."""
    found = HistoryEvent.objects.filter(
        kind__in=("tested", "measured", "clock", "curve"), detail__turn=turn, undone_at__isnull=True
    )
    _give(found.values_list("pk", flat=True), to)


def _give(events: Iterable[int], to: Specimen) -> None:
    HistoryEvent.objects.filter(pk__in=list(events)).update(specimen=to)
