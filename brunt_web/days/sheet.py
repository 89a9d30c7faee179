"""The day as it is drawn: lanes as shelves, jobs drawn as blocks, gates for readings, a beam for the people."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from brunt_core.quantities.rendering import count_of, time_words
from brunt_core.scheduling.reasons import reasons
from brunt_core.scheduling.tasks import SchedulingProblem
from brunt_web.days.drawn_jobs import (
    HIGH,
    LEFT,
    NIGHT,
    WIDE,
    DayAxis,
    Shelf,
    anybody,
    gates_on,
    shelves_of,
    shut_hours,
    stack_overlapping,
)
from brunt_web.days.hours import hours_of, spells, zone_of
from brunt_web.days.jobs import PlannedJob
from brunt_web.days.planning import DayTable, late_readings, placed_starts, with_labels
from brunt_web.people.models import Workshop

TOP = 26.0
FIRST, LAST = 7, 18
_HOUR = timedelta(hours=1)


@dataclass
class DueJob:
    """One thing due, late or next."""

    key: str
    label: str
    what: str
    left: float
    words: str
    url: str


@dataclass
class Day:
    """One day of the week ahead."""

    date: datetime
    shut: bool
    count: int
    readings: list[str]
    nobody: int
    today: bool


@dataclass
class DaySchedule:
    """The whole drawing."""

    date: datetime
    axis: DayAxis
    shelves: list[Shelf]
    hours: list[tuple[float, str]]
    nights: list[tuple[float, float]]
    now: float | None
    high: float
    beam: str
    booked: str
    due: list[DueJob]
    week: list[Day]
    headline: str
    blocked: list[tuple[str, str]]
    planned: bool
    zone: str
    broken: list[str]


def sheet_of(workshop: Workshop, table: DayTable, date: datetime, now: datetime) -> DaySchedule:
    """The sheet of one day, in the workshop's zone."""
    hours = hours_of(workshop)
    zone = zone_of(hours)
    local = date.astimezone(zone)
    begin = local.replace(hour=FIRST, minute=0, second=0, microsecond=0)
    axis = DayAxis(begin, begin.replace(hour=LAST), begin + timedelta(days=1))
    starts = placed_starts(table)
    why = _why(table, starts)
    shelves = shelves_of(workshop, table, axis, starts, why, now)
    there = spells(hours, begin - timedelta(days=1), 9)
    gates_on(shelves, table, axis, now, there)
    always = ("printer", "oven", "bath", "freezer", "rig")
    shelves = [s for s in shelves if s.drawn_jobs or s.gates or s.lane.kind in always]
    for i, s in enumerate(shelves):
        stack_overlapping(s, TOP + i * HIGH, axis)
    base = TOP + len(shelves) * HIGH
    beam, booked = _beam(shelves, there, axis, base, hours.people)
    late = _late(table, starts)
    return DaySchedule(
        date=local,
        axis=axis,
        shelves=shelves,
        hours=[
            (axis.x(begin + h * _HOUR), str((FIRST + h) % 24))
            for h in (*range(0, LAST - FIRST + 1), 15, 19, 23)
        ],
        nights=shut_hours(axis, there),
        now=axis.x(now) if begin <= now < axis.end else None,
        high=base + 62,
        beam=beam,
        booked=booked,
        due=due_list(list(table.jobs.values()), starts, table, now)[:7],
        week=_week(table, starts, begin, there, now),
        headline=_headline(table, late, why, starts, now),
        blocked=[(table.jobs[k].label, why.get(k, "")) for k in list(late)[:4]],
        planned=bool(table.placements),
        zone=f"{hours.zone} ({local:%Z})",
        broken=[],
    )


def _why(table: DayTable, starts: dict[str, int]) -> dict[str, str]:
    tasks = tuple(t for t in table.problem.tasks if t.id in starts)
    problem = SchedulingProblem(
        table.problem.resources,
        tuple(
            type(t)(**{**t.__dict__, "after": tuple(a for a in t.after if a in starts)})
            for t in tasks
        ),
        table.problem.spells,
        table.problem.people,
    )

    def clock(minute: int) -> str:
        local = timezone.localtime(table.moment(minute))
        same = local.date() == timezone.localtime(table.start).date()
        return f"{local:%H:%M}" if same else f"{local:%a %H:%M}"

    found = reasons(problem, starts, clock)
    return {k: with_labels(table, said) for k, said in found.items()}


def _late(table: DayTable, starts: dict[str, int]) -> dict[str, int]:
    found = {}
    for t in table.problem.tasks:
        if t.due is not None and t.id in starts and starts[t.id] + t.minutes > t.due:
            found[t.id] = starts[t.id] + t.minutes - t.due
    return found


def _headline(
    table: DayTable,
    late: dict[str, int],
    why: dict[str, str],
    starts: dict[str, int],
    now: datetime,
) -> str:
    if not table.jobs:
        return "Nothing is running and nothing is waiting."
    if missed := late_readings(list(table.jobs.values()), now):
        worst_read = min(missed, key=lambda j: j.fixed or now)
        much = time_words((now - (worst_read.fixed or now)).total_seconds(), 2)
        if len(missed) == 1:
            return f"“{worst_read.label}” is {much} late, past its window."
        return f"{count_of(len(missed), 'reading')} past the window, “{worst_read.label}” is {much} late."
    waiting = [t for t in table.problem.tasks if t.id not in starts]
    if waiting and not table.placements:
        return f"{count_of(len(waiting), 'job')} waiting; nothing is planned yet."
    if late:
        worst = max(late, key=lambda k: late[k])
        label, much = table.jobs[worst].label, time_words(late[worst] * 60.0, 2)
        return f"“{label}” is {much} late. {why.get(worst, '')}".strip()
    if waiting:
        return f"{count_of(len(waiting), 'job')} came up since the plan was made: reschedule."
    return "Nothing is late."


def _beam(
    shelves: Sequence[Shelf],
    there: Sequence[tuple[datetime, datetime]],
    axis: DayAxis,
    y: float,
    people: int,
) -> tuple[str, str]:
    """The people as a beam that sags under what is booked of their time today."""
    free = sum(
        (min(b, axis.end) - max(a, axis.begin)).total_seconds()
        for a, b in there
        if b > axis.begin and a < axis.end
    )
    booked = sum(
        (t.end - t.start).total_seconds()
        for s in shelves
        for t in s.drawn_jobs
        if t.state == "planned" and t.job.attended
    )
    share = min(booked / (free * people), 1.3) if free else 0.0
    left, right, sag = LEFT + 10, WIDE - NIGHT - 10, 30 * share
    middle = (left + right) / 2
    path = f"M{left},{y + 18} Q{middle},{y + 18 + 2 * sag:.1f} {right},{y + 18}"
    hours = (
        f"{time_words(booked, 2)} of {time_words(free * people, 2)}" if free else "unattended today"
    )
    return path, hours


def due_list(
    jobs: Sequence[PlannedJob], starts: dict[str, int], table: DayTable | None, now: datetime
) -> list[DueJob]:
    """What is due, late and next, the most urgent first: readings, ends of steps, planned starts."""
    found = []
    for job in jobs:
        moment, what = _due_moment(job, starts, table)
        if moment is None:
            continue
        left = (moment - now).total_seconds()
        if left > 24 * 3600:
            continue
        late = left < -60
        words = f"{time_words(abs(left), 2)} late" if late else time_words(max(left, 0.0), 2)
        found.append(
            DueJob(job.key, job.label, what, left, words if abs(left) >= 60 else "now", job.url)
        )
    return sorted(found, key=lambda d: d.left)


def _due_moment(
    job: PlannedJob, starts: dict[str, int], table: DayTable | None
) -> tuple[datetime | None, str]:
    if job.fixed is not None:
        return job.fixed, {"weigh": "weigh it", "look": "a photo, sag, colour"}.get(
            job.kind, "read it"
        )
    if job.began is not None:
        return job.began + timedelta(minutes=job.minutes), "over"
    if table and job.key in starts and job.attended:
        return table.moment(starts[job.key]), "begin"
    return None, ""


def _week(
    table: DayTable,
    starts: dict[str, int],
    begin: datetime,
    there: Sequence[tuple[datetime, datetime]],
    now: datetime,
) -> list[Day]:
    first = timezone.localtime(now, begin.tzinfo).replace(hour=0, minute=0, second=0, microsecond=0)
    found = []
    for i in range(7):
        day = first + timedelta(days=i)
        end = day + timedelta(days=1)
        moments = [table.moment(m) for m in starts.values()]
        read = [j for j in table.jobs.values() if j.fixed and day <= j.fixed < end]
        found.append(
            Day(
                date=day,
                shut=not any(a < end and b > day for a, b in there),
                count=sum(day <= m < end for m in moments),
                readings=[j.label for j in read][:3],
                nobody=sum(not anybody(j, there) for j in read),
                today=day.date() == begin.date(),
            )
        )
    return found
