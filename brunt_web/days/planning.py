"""From jobs to a problem of the core and back: what runs stays, pinned ones stay, the rest is placed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from brunt_core.errors import InputError
from brunt_core.scheduling.solve import Plan, plan
from brunt_core.scheduling.tasks import Resource, SchedulingProblem, Task, broken
from brunt_web.days.hours import hours_of, spells
from brunt_web.days.jobs import Lane, PlannedJob, jobs_of, lanes_of
from brunt_web.days.models import Placement
from brunt_web.people.models import Workshop

DAYS = 30
ROUND = 5


@dataclass
class DayTable:
    """A problem with what it was made from. Minute 0 is ``start``."""

    problem: SchedulingProblem
    jobs: dict[str, PlannedJob]
    lanes: list[Lane]
    start: datetime
    placements: dict[str, Placement]

    def minute(self, moment: datetime) -> int:
        """A moment in whole minutes from the start, rounded down."""
        return int((moment - self.start).total_seconds() // 60)

    def moment(self, minute: int) -> datetime:
        """The moment of a minute."""
        return self.start + timedelta(minutes=minute)


def scheduling_problem(workshop: Workshop, now: datetime) -> DayTable:
    """The workshop's jobs as a problem from now on, rounded up to five minutes."""
    start = _rounded(now)
    jobs = {j.key: j for j in jobs_of(workshop, now)}
    lanes = lanes_of(workshop)
    hours = hours_of(workshop)
    placements = {p.key: p for p in Placement.objects.filter(workshop=workshop)}
    table = DayTable(SchedulingProblem((), ()), jobs, lanes, start, placements)
    there = [(max(table.minute(a), -720), table.minute(b)) for a, b in spells(hours, start, DAYS)]
    longest = max((b - a for a, b in there), default=0)
    for job in jobs.values():
        if job.kind == "test" and longest:
            job.minutes = min(job.minutes, longest)
    tasks = tuple(_task(table, j, now) for j in jobs.values() if j.fixed is None)
    known = {t.id for t in tasks}
    tasks = tuple(replace(t, after=tuple(a for a in t.after if a in known)) for t in tasks)
    table.problem = SchedulingProblem(
        tuple(Resource(x.key, x.capacity) for x in lanes), tasks, tuple(there), hours.people
    )
    return table


def _rounded(now: datetime) -> datetime:
    base = now.replace(second=0, microsecond=0)
    return base + timedelta(minutes=-base.minute % ROUND)


def _task(table: DayTable, job: PlannedJob, now: datetime) -> Task:
    lane = next((x for x in table.lanes if x.key == job.lane), None)
    placed = table.placements.get(job.key)
    minutes, pinned, attended = job.minutes, None, job.attended
    if job.began:
        spent = (now - job.began).total_seconds() / 60
        minutes, pinned, attended = max(round(job.minutes - spent), 1), 0, False
    elif placed and placed.pinned:
        pinned = max(table.minute(placed.start), 0)
    return Task(
        job.key,
        job.lane if lane else "hands",
        minutes,
        attended=attended,
        after=job.after,
        holds=job.holds,
        gap_max=None if job.began else job.gap,
        temperature=job.heat,
        not_before=max(table.minute(job.not_before), 0) if job.not_before else 0,
        due=table.minute(job.due) if job.due else None,
        pinned=pinned,
        amount=min(job.amount, lane.capacity) if lane else 1,
    )


def proposed(table: DayTable, seconds: float = 6.0) -> Plan:
    """A plan; attended jobs longer than any spell are parted first. Raises :class:`InputError`."""
    return plan(table.problem, seconds)


def placed_starts(table: DayTable) -> dict[str, int]:
    """Where the tasks stand now, of those that are placed or run."""
    found: dict[str, int] = {}
    for t in table.problem.tasks:
        row = table.placements.get(t.id)
        if t.pinned is not None:
            found[t.id] = t.pinned
        elif row:
            found[t.id] = table.minute(row.start)
    return found


def what_breaks(table: DayTable, starts: Mapping[str, int]) -> list[tuple[str, str]]:
    """What the tasks placed break among themselves, in the jobs' own words."""
    tasks = [t for t in table.problem.tasks if t.id in starts]
    cut = tuple(replace(t, after=tuple(a for a in t.after if a in starts)) for t in tasks)
    problem = SchedulingProblem(
        table.problem.resources, cut, table.problem.spells, table.problem.people
    )
    past = [t for t in tasks if starts[t.id] < 0 and t.pinned is None and not t.not_before]
    said = [
        (key, with_labels(table, sentence))
        for key, sentence in broken(problem, {**starts, **{t.id: 0 for t in past}})
        if key not in {t.id for t in past}
    ]
    if past:
        names = [f"“{table.jobs[t.id].label}”" for t in past]
        shown = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        one = len(past) == 1
        ask = "has passed and it has not begun" if one else "have passed and they have not begun"
        said.insert(0, (past[0].id, f"The start of {shown} {ask}: reschedule."))
    return said


def with_labels(table: DayTable, sentence: str) -> str:
    """Keys replaced by labels and lanes' names, the longest first."""
    names = {k: f"“{j.label}”" for k, j in table.jobs.items()}
    names |= {x.key: x.name for x in table.lanes}
    for key in sorted(names, key=len, reverse=True):
        sentence = sentence.replace(key, names[key])
    return sentence


def knot_in_words(table: DayTable, error: InputError) -> str:
    """The knot in the jobs' own words."""
    return with_labels(table, error.sentence)


def late_readings(jobs: Sequence[PlannedJob], now: datetime) -> list[PlannedJob]:
    """Readings whose window is over."""
    return [j for j in jobs if j.fixed and now > j.fixed + timedelta(minutes=j.window)]
