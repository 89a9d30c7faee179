"""Shelves and what stands on them: the jobs on them, gates of readings, unattended times."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from brunt_core.quantities import in_unit
from brunt_web.campaigns.models import Turn
from brunt_web.days.jobs import Lane, PlannedJob
from brunt_web.days.planning import DayTable
from brunt_web.people.models import Workshop
from brunt_web.treatments.models import DONE, Run

WIDE, LEFT, HIGH, NIGHT = 940.0, 132.0, 44.0, 96.0
_MOST_FIGURES = 9
_HOUR = timedelta(hours=1)


@dataclass
class DayAxis:
    """From a moment to a place: the working part of the day wide, the night after it pleated."""

    begin: datetime
    dusk: datetime
    end: datetime

    def x(self, moment: datetime) -> float:
        """A place; what lies outside stands at the edge."""
        day = WIDE - LEFT - NIGHT
        if moment <= self.begin:
            return LEFT
        if moment <= self.dusk:
            return round(LEFT + day * ((moment - self.begin) / (self.dusk - self.begin)), 1)
        share = min((moment - self.dusk) / (self.end - self.dusk), 1.0)
        return round(LEFT + day + NIGHT * share, 1)

    def shows(self, start: datetime, end: datetime) -> bool:
        """Whether any of it is in the picture."""
        return start < self.end and end > self.begin


@dataclass
class DrawnJob:
    """One job as drawn on its shelf."""

    job: PlannedJob
    x: float
    wide: float
    y: float
    high: float
    state: str
    label: str
    heat: str
    figures: list[float]
    pinned: bool
    late: bool
    was: float | None
    start: datetime
    end: datetime
    why: str = ""
    movable: bool = True
    shape: str = ""


@dataclass
class ReadingGate:
    """A reading with its window."""

    job: PlannedJob
    x: float
    low: float
    high: float
    y: float
    late: bool
    nobody: bool


@dataclass
class Wedge:
    """How long a lot stays dry: full at the end of its drying, worn down to nothing at its limit."""

    start: datetime
    end: datetime
    label: str
    shape: str = ""


@dataclass
class Shelf:
    """A lane with what stands on it."""

    lane: Lane
    y: float
    drawn_jobs: list[DrawnJob] = field(default_factory=list)
    gates: list[ReadingGate] = field(default_factory=list)
    wedges: list[Wedge] = field(default_factory=list)


def shelves_of(
    workshop: Workshop,
    table: DayTable,
    axis: DayAxis,
    starts: dict[str, int],
    why: dict[str, str],
    now: datetime,
) -> list[Shelf]:
    """Every lane with its drawn jobs: placed, running, and what was done that day."""
    found = {lane.key: Shelf(lane, 0.0) for lane in table.lanes}
    for key, minute in starts.items():
        job = table.jobs[key]
        task = table.problem.by_id[key]
        start = job.began or table.moment(minute)
        end = table.moment(minute) + timedelta(minutes=task.minutes)
        if axis.shows(start, end) and task.resource in found:
            drawn_job = _drawn_job(table, axis, job, start, end)
            drawn_job.late = task.due is not None and minute + task.minutes > task.due
            drawn_job.why = why.get(key, "")
            found[task.resource].drawn_jobs.append(drawn_job)
        if job.dry_hours and task.resource in found:
            _wedge(table, axis, job, starts, found[task.resource])
    for lane, drawn_job in (*_runs_done(workshop, axis), *_tests_done(workshop, axis)):
        if lane in found:
            found[lane].drawn_jobs.append(drawn_job)
    return list(found.values())


def _wedge(
    table: DayTable, axis: DayAxis, job: PlannedJob, starts: dict[str, int], shelf: Shelf
) -> None:
    """The dry hours of a print's lot on its printer, once a lot."""
    begin = job.dry_from
    dried = next((k for k in job.after if k in starts), None)
    if begin is None and dried:
        begin = table.moment(starts[dried] + table.problem.by_id[dried].minutes)
    if begin is None:
        return
    end = begin + timedelta(hours=job.dry_hours)
    if axis.shows(begin, end) and not any(w.start == begin for w in shelf.wedges):
        shelf.wedges.append(Wedge(begin, end, job.label.split(" · ")[0]))


def _drawn_job(
    table: DayTable, axis: DayAxis, job: PlannedJob, start: datetime, end: datetime
) -> DrawnJob:
    x, right = axis.x(start), axis.x(end)
    row = table.placements.get(job.key)
    return DrawnJob(
        job=job,
        x=x,
        wide=max(right - x, 3.0),
        y=0.0,
        high=0.0,
        state="running" if job.began else "planned",
        label=job.label,
        heat="" if job.heat is None else f"{in_unit(job.heat, 'temperature', '°C'):.0f} °C",
        figures=_figures(job.count, x, right - x),
        pinned=bool(row and row.pinned),
        late=False,
        was=axis.x(row.was) if row and row.was and axis.shows(row.was, row.was + _HOUR) else None,
        start=start,
        end=end,
        movable=not job.began,
    )


def _figures(count: int, x: float, wide: float) -> list[float]:
    """Where the specimens of a drawn job stand: as many as there are, if they have room."""
    room = int((wide - 8) // 9)
    shown = max(min(count, _MOST_FIGURES, room), 0)
    return [round(x + 5 + 9 * i, 1) for i in range(shown)]


def _runs_done(workshop: Workshop, axis: DayAxis) -> list[tuple[str, DrawnJob]]:
    runs = Run.objects.filter(
        workshop=workshop, state=DONE, ended_at__gt=axis.begin, started_at__lt=axis.end
    ).select_related("vessel")
    found = []
    for run in runs:
        assert run.started_at is not None and run.ended_at is not None
        lane = f"vessel-{run.vessel_id}" if run.vessel_id else "hands"
        found.append(
            (lane, _done(axis, run.what, f"/runs/{run.number}/", run.started_at, run.ended_at))
        )
    return found


def _tests_done(workshop: Workshop, axis: DayAxis) -> list[tuple[str, DrawnJob]]:
    turns = (
        Turn.objects.filter(
            campaign__workshop=workshop, tested_at__gte=axis.begin, tested_at__lt=axis.end
        )
        .select_related("procedure")
        .order_by("procedure_id", "tested_at")
    )
    sets: dict[tuple[int, int], list[Turn]] = {}
    for turn in turns:
        sets.setdefault((turn.campaign_id, turn.procedure_id), []).append(turn)
    found = []
    for (campaign, _), members in sets.items():
        first, last = members[0].tested_at, members[-1].tested_at
        assert first is not None and last is not None
        procedure = members[0].procedure
        lane = f"rig-{procedure.rig_id}" if procedure.rig_id else "bench"
        drawn_job = _done(
            axis,
            f"{procedure.name}: {len(members)}",
            f"/campaigns/{campaign}/compare/",
            first - timedelta(minutes=procedure.method.minutes),
            last,
        )
        found.append((lane, drawn_job))
    return found


def _done(axis: DayAxis, label: str, url: str, start: datetime, end: datetime) -> DrawnJob:
    x, right = axis.x(start), axis.x(end)
    return DrawnJob(
        job=PlannedJob("", "", label, minutes=1, attended=False, kind="done", url=url),
        x=x,
        wide=max(right - x, 3.0),
        y=0.0,
        high=0.0,
        state="done",
        label=label,
        heat="",
        figures=[],
        pinned=False,
        late=False,
        was=None,
        start=start,
        end=end,
        movable=False,
    )


def stack_overlapping(shelf: Shelf, y: float, axis: DayAxis) -> None:
    """Heights: drawn jobs that overlap on a shelf stand above one another in thinner ones."""
    shelf.y = y
    rows: list[float] = []
    placed = []
    for drawn_job in sorted(shelf.drawn_jobs, key=lambda t: t.x):
        row = next((i for i, right in enumerate(rows) if drawn_job.x >= right - 0.5), len(rows))
        if row == len(rows):
            rows.append(0.0)
        rows[row] = drawn_job.x + drawn_job.wide
        placed.append((drawn_job, row))
    each = (HIGH - 10) / max(len(rows), 1)
    for drawn_job, row in placed:
        drawn_job.high = round(each - 2, 1)
        drawn_job.y = round(y + 6 + each * (len(rows) - 1 - row), 1)
        drawn_job.shape = _trapezoid(drawn_job) if drawn_job.heat else ""
    for wedge in shelf.wedges:
        wedge.shape = _worn(axis, wedge, y + HIGH - 4)
    for i, gate in enumerate(sorted(shelf.gates, key=lambda g: g.x)):
        gate.y = y + 10 * (i % 3)


def _worn(axis: DayAxis, wedge: Wedge, foot: float) -> str:
    """A wedge of eight units at its thick end, cut off where the picture ends."""

    def left(moment: datetime) -> float:
        return round(8.0 * ((wedge.end - moment) / (wedge.end - wedge.start)), 1)

    first, last = max(wedge.start, axis.begin), min(wedge.end, axis.end)
    a, b = axis.x(first), axis.x(last)
    return f"M{a},{foot} V{foot - left(first)} L{b},{foot - left(last)} V{foot} Z"


def _trapezoid(drawn_job: DrawnJob) -> str:
    """A heated job rises to its heat and falls from it."""
    slope = min(9.0, drawn_job.wide / 4)
    top, foot, right = drawn_job.y, drawn_job.y + drawn_job.high, drawn_job.x + drawn_job.wide
    return f"M{drawn_job.x},{foot} L{drawn_job.x + slope:.1f},{top} H{right - slope:.1f} L{right:.1f},{foot} Z"


def gates_on(
    shelves: Sequence[Shelf],
    table: DayTable,
    axis: DayAxis,
    now: datetime,
    there: Sequence[tuple[datetime, datetime]],
) -> None:
    """The timed readings and weighings of the picture, on the stand of clocks and the scales."""
    stands = {s.lane.key: s for s in shelves if s.lane.kind == "clock"}
    for job in table.jobs.values():
        if job.fixed is None:
            continue
        window = timedelta(minutes=job.window)
        if not axis.shows(job.fixed - window, job.fixed + window):
            continue
        stands[job.lane].gates.append(
            ReadingGate(
                job,
                axis.x(job.fixed),
                axis.x(job.fixed - window),
                axis.x(job.fixed + window),
                y=0.0,
                late=now > job.fixed + window,
                nobody=not anybody(job, there),
            )
        )


def anybody(job: PlannedJob, there: Sequence[tuple[datetime, datetime]]) -> bool:
    """Whether somebody is there at any moment of a reading's window."""
    assert job.fixed is not None
    window = timedelta(minutes=job.window)
    return any(a <= job.fixed + window and b >= job.fixed - window for a, b in there)


def shut_hours(
    axis: DayAxis, there: Sequence[tuple[datetime, datetime]]
) -> list[tuple[float, float]]:
    """Unattended times, as (x, width)."""
    found, at = [], axis.begin
    for a, b in [*there, (axis.end, axis.end)]:
        if b <= axis.begin or at >= axis.end:
            continue
        if a > at:
            found.append((axis.x(at), round(axis.x(min(a, axis.end)) - axis.x(at), 1)))
        at = max(at, b)
    return [(x, w) for x, w in found if w > 0.5]
