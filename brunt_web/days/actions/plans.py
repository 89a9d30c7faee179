"""The plan is made, a job is moved, pinned, unpinned; hours, own jobs and calendar addresses."""

from datetime import datetime, time
from secrets import token_urlsafe
from zoneinfo import available_timezones

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.scheduling.solve import Plan
from brunt_web.days.hours import hours_of, known_zones
from brunt_web.days.models import Feed, Hours, OwnJob, Placement
from brunt_web.days.planning import (
    DayTable,
    knot_in_words,
    placed_starts,
    proposed,
    scheduling_problem,
    what_breaks,
)
from brunt_web.people.models import Workshop

MOST_MINUTES = 20_160


def make_plan(workshop: Workshop, now: datetime) -> Plan:
    """Place everything again; what runs and what is pinned stays.

    Raises :class:`InputError` that names the knot where nothing fits.
    """
    table = scheduling_problem(workshop, now)
    try:
        found = proposed(table)
    except InputError as error:
        raise InputError(knot_in_words(table, error), error.field) from None
    _store(workshop, table, found, now)
    return found


@transaction.atomic
def _store(workshop: Workshop, table: DayTable, found: Plan, now: datetime) -> None:
    kept = {p.key: p for p in Placement.objects.select_for_update().filter(workshop=workshop)}
    Placement.objects.filter(workshop=workshop).exclude(key__in=table.jobs).delete()
    for key, minute in found.starts.items():
        start = table.moment(minute)
        row = kept.get(key)
        if row is None:
            Placement.objects.create(workshop=workshop, key=key, start=start, planned_at=now)
        elif not row.pinned:
            row.was = row.start if row.start != start else None
            row.start, row.planned_at = start, now
            row.save(update_fields=["start", "was", "planned_at"])


@transaction.atomic
def move(workshop: Workshop, key: str, start: datetime, now: datetime) -> list[str]:
    """A job is nailed to a start; returns what that breaks, in sentences.

    Raises :class:`InputError` for a job that is not there, runs already, or a start that is over.
    """
    table = scheduling_problem(workshop, now)
    job = table.jobs.get(key)
    if job is None or job.fixed is not None:
        raise InputError("There is no such job to move.", "key")
    if job.began:
        raise InputError(f"“{job.label}” runs already; it cannot be moved.", "key")
    if start < now.replace(second=0, microsecond=0):
        raise InputError("That time is over.", "start")
    was = Placement.objects.filter(workshop=workshop, key=key).first()
    row, _ = Placement.objects.update_or_create(
        workshop=workshop,
        key=key,
        defaults={
            "start": start,
            "pinned": True,
            "planned_at": now,
            "was": was.start if was else None,
        },
    )
    table.placements[key] = row
    starts = {**placed_starts(table), key: table.minute(start)}
    return [said for k, said in what_breaks(table, starts)]


def last_move(workshop: Workshop) -> Placement | None:
    """The job that was moved last and is still pinned."""
    moved = Placement.objects.filter(workshop=workshop, pinned=True, was__isnull=False)
    return moved.order_by("-planned_at", "-id").first()


def take_back_move(workshop: Workshop) -> None:
    """The last move is undone: the job stands where it stood, without its nail.

    Raises :class:`InputError` where nothing was moved.
    """
    row = last_move(workshop)
    if row is None or row.was is None:
        raise InputError("There is no move to undo.", "key")
    row.start, row.was, row.pinned = row.was, None, False
    row.save(update_fields=["start", "was", "pinned"])


def unpin(workshop: Workshop, key: str) -> None:
    """The nail is drawn: the next plan may move it."""
    Placement.objects.filter(workshop=workshop, key=key).update(pinned=False)


def set_hours(workshop: Workshop, zone: str, week: list[str], people: int) -> Hours:
    """Working hours: a line a day from Monday, as ``9:00-12:30, 13:30-17:30``; empty: nobody.

    Raises :class:`InputError` for an unknown zone or a line that cannot be read.
    """
    if zone not in available_timezones():
        raise InputError(f"“{zone}” is no time zone; write one as Europe/Berlin.", "zone")
    hours = hours_of(workshop)
    hours.zone, hours.people = zone, people
    hours.week = {str(i): _spells(i, line) for i, line in enumerate(week)}
    hours.save()
    known_zones.clear()
    return hours


def _spells(day: int, line: str) -> list[list[str]]:
    found = []
    for part in filter(None, (p.strip() for p in line.replace("–", "-").split(","))):
        begin, dash, end = part.partition("-")
        try:
            if not dash:
                raise ValueError
            a, b = (time.fromisoformat(_two(x)) for x in (begin, end))
        except ValueError:
            raise InputError(
                f"“{part}” is not a time span; write it as 9:00-12:30.", f"day-{day}"
            ) from None
        if a == b:
            raise InputError(f"“{part}” ends when it starts.", f"day-{day}")
        found.append([f"{a:%H:%M}", f"{b:%H:%M}"])
    return found


def _two(text: str) -> str:
    hour, colon, minute = text.strip().partition(":")
    return f"{int(hour):02d}:{minute if colon else '00'}"


def add_own(
    workshop: Workshop,
    label: str,
    lane: str,
    minutes: float,
    attended: bool = True,
    not_before: datetime | None = None,
    due: datetime | None = None,
) -> OwnJob:
    """A job of one's own. Raises :class:`InputError` for a length that is none."""
    whole = round(minutes)
    if not 1 <= whole <= MOST_MINUTES:
        raise InputError("The duration must be between one minute and two weeks.", "length")
    if due and not_before and due <= not_before:
        raise InputError("It is due before it can begin.", "due")
    return OwnJob.objects.create(
        workshop=workshop,
        label=label,
        lane=lane,
        minutes=whole,
        attended=attended,
        not_before=not_before,
        due=due,
    )


def own_done(workshop: Workshop, pk: int, now: datetime) -> None:
    """It is done."""
    OwnJob.objects.filter(workshop=workshop, pk=pk, done_at__isnull=True).update(done_at=now)


def new_feed(workshop: Workshop, user: User, now: datetime) -> Feed:
    """A calendar address; an earlier one of the same person is revoked."""
    revoke_feeds(workshop, user, now)
    return Feed.objects.create(workshop=workshop, user=user, token=token_urlsafe(32))


def revoke_feeds(workshop: Workshop, user: User, now: datetime) -> None:
    """Nobody reads the plan at the old address any more."""
    Feed.objects.filter(workshop=workshop, user=user, revoked_at__isnull=True).update(
        revoked_at=now
    )
