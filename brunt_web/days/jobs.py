"""Everything of a workshop that takes time: prints, runs, readings, weighings, tests, own jobs."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db.models import Count, Max, Q

from brunt_core.printing.checks import MOISTURE_LIMIT_H
from brunt_core.scheduling.room import Room
from brunt_web.campaigns.models import HistoryEvent, Turn
from brunt_web.days.models import OwnJob
from brunt_web.library.models import Drying, Lot, Printer, Procedure, Rig
from brunt_web.people.models import Workshop
from brunt_web.printing.cards import plate_minutes
from brunt_web.printing.models import Plate
from brunt_web.testing.models import Clock
from brunt_web.testing.timed_queries import timed_of
from brunt_web.treatments.models import PLANNED, RUNNING, Run, RunStep, Vessel
from brunt_web.treatments.water_view import DAILY_AFTER, OFTEN

TOLERANCE = 0.05
HANDS = "hands"


@dataclass
class Lane:
    """What jobs run on: a printer, an oven, a rig, the stand of clocks, or nothing but hands."""

    key: str
    name: str
    kind: str
    capacity: int = 1


@dataclass
class PlannedJob:
    """One job, running or to come.

    ``after`` the keys of those before it, each at most ``gap`` minutes before; ``heat`` in K;
    ``window`` how far from ``at`` a reading may be, in minutes; ``began`` when it runs already;
    ``fixed`` a moment it must happen at (readings); ``dry_hours`` how long its stock stays dry, from
    ``dry_from`` or the end of its drying on.
    """

    key: str
    lane: str
    label: str
    minutes: int
    attended: bool
    kind: str
    url: str = ""
    count: int = 0
    amount: int = 1
    after: tuple[str, ...] = ()
    holds: bool = False
    gap: int | None = None
    heat: float | None = None
    not_before: datetime | None = None
    due: datetime | None = None
    began: datetime | None = None
    fixed: datetime | None = None
    window: float = 0.0
    geometry: str = ""
    dry_hours: float = 0.0
    dry_from: datetime | None = None


def lanes_of(workshop: Workshop) -> list[Lane]:
    """Printers, vessels, rigs, the stand of clocks, hands."""
    found = [
        Lane(f"printer-{p.pk}", p.name, "printer")
        for p in Printer.objects.filter(
            Q(archived_at=None) | Q(batch__plates__printed_at=None, batch__isnull=False),
            workshop=workshop,
        ).distinct()
    ]
    found += [
        Lane(f"vessel-{v.pk}", v.name, v.kind, v.capacity)
        for v in Vessel.objects.filter(workshop=workshop)
    ]
    found += [Lane(f"rig-{r.pk}", r.name, "rig") for r in Rig.objects.filter(workshop=workshop)]
    return [
        *found,
        Lane("bench", "Bench without a rig", "rig"),
        Lane("clocks", "Timed readings", "clock", 99),
        Lane("scales", "Scales", "clock", 99),
        Lane(HANDS, "By hand", "hands", 99),
    ]


def jobs_of(workshop: Workshop, now: datetime) -> list[PlannedJob]:
    """Every job that is on or to come, whatever campaign it is of."""
    return [
        *_prints(workshop, now),
        *_runs(workshop),
        *_readings(workshop, now),
        *_weighings(workshop),
        *_inspections(workshop),
        *_tests(workshop),
        *_own(workshop),
    ]


def _prints(workshop: Workshop, now: datetime) -> Iterator[PlannedJob]:
    """Plates that wait; one of a thirsty lot ends within its dry hours."""
    plates = (
        Plate.objects.filter(
            batch__campaign__workshop=workshop,
            batch__campaign__archived_at__isnull=True,
            printed_at__isnull=True,
        )
        .select_related("batch__printer", "batch__lot__material", "batch__campaign")
        .prefetch_related("prints__specimen__condition", "prints__specimen__procedure__variant")
        .order_by("batch__number", "number")
    )
    drying = {
        r.lot_id: r.pk
        for r in Run.objects.filter(
            workshop=workshop, state__in=(PLANNED, RUNNING), lot__isnull=False
        )
    }
    for plate in plates:
        prints = list(plate.prints.all())
        lot = plate.batch.lot
        job = PlannedJob(
            f"plate-{plate.pk}",
            f"printer-{plate.batch.printer_id}",
            f"{lot.material if lot else plate.batch.campaign} · plate {plate.number}",
            minutes=plate_minutes(plate),
            attended=False,
            kind="print",
            url=f"/batches/{plate.batch_id}/",
            count=len(prints),
        )
        if lot:
            _keep_dry(job, lot, drying, now)
        yield job


def _keep_dry(job: PlannedJob, lot: Lot, drying: dict[int | None, int], now: datetime) -> None:
    limit = MOISTURE_LIMIT_H.get(lot.material.family)
    if limit is None or limit > 100:
        return
    job.dry_hours = limit
    if lot.pk in drying:
        job.after, job.gap = (f"run-{drying[lot.pk]}-last",), int(limit * 60)
        return
    last = Drying.objects.filter(lot=lot, ended_at__isnull=False).order_by("-ended_at").first()
    if last is None:
        job.dry_hours = 0.0
    elif last.ended_at:
        job.dry_from = last.ended_at
        job.due = last.ended_at + timedelta(hours=limit)


def _runs(workshop: Workshop) -> Iterator[PlannedJob]:
    """Each run by its steps: what somebody stands by, and what goes by itself."""
    runs = (
        Run.objects.filter(workshop=workshop, state__in=(PLANNED, RUNNING))
        .select_related("vessel", "own", "lot__material")
        .prefetch_related("steps")
        .annotate(within=Count("inside", filter=Q(inside__out_at__isnull=True)))
        .order_by("number")
    )
    for run in runs:
        lane = f"vessel-{run.vessel_id}" if run.vessel_id else HANDS
        before: str | None = None
        steps = [s for s in run.steps.all() if not s.ended_at]
        for i, step in enumerate(steps):
            last = i == len(steps) - 1
            key = f"run-{run.pk}-last" if last else f"run-{run.pk}-{step.position}"
            yield PlannedJob(
                key,
                lane,
                f"{run.what}: {step.label.lower()}",
                minutes=max(round(step.seconds / 60), 1),
                attended=step.attended,
                kind="run",
                url=f"/runs/{run.number}/",
                count=run.within,
                amount=Room(v.capacity, v.each).taken(run.within) if (v := run.vessel) else 1,
                after=(before,) if before else (),
                holds=bool(run.vessel_id) and not last,
                gap=0 if before and not step.attended else None,
                heat=step.heat,
                not_before=run.planned_for if i == 0 else None,
                began=step.started_at,
            )
            before = key


def _readings(workshop: Workshop, now: datetime) -> Iterator[PlannedJob]:
    """The next reading of each clock, and those within a week; elapsed time, whatever the clocks on
    the wall do."""
    clocks = (
        Clock.objects.filter(turn__campaign__workshop=workshop, turn__state="running")
        .select_related("turn__procedure", "turn__specimen", "turn__campaign")
        .prefetch_related("turn__timed_readings")
    )
    for clock in clocks:
        clock.turn.clock = clock
        timed = timed_of(clock.turn, now)
        for due in timed.dues if timed else ():
            at = clock.started_at + timedelta(seconds=due.due)
            if due.taken or due.passed or at > now + timedelta(days=8):
                continue
            yield PlannedJob(
                f"read-{clock.turn_id}-{due.input.key}-{due.load_step}-{due.due:g}"[:40],
                "clocks",
                f"{clock.turn.code} {due.label}",
                minutes=2,
                attended=True,
                kind="read",
                url=clock.turn.address,
                fixed=at,
                window=max(due.due * TOLERANCE / 60, 1.0),
            )


def _weighings(workshop: Workshop) -> Iterator[PlannedJob]:
    """What stands until its mass is steady is weighed every two hours at first, then daily."""
    steps = (
        RunStep.objects.filter(
            run__workshop=workshop,
            run__state=RUNNING,
            ends="settled",
            started_at__isnull=False,
            ended_at__isnull=True,
        )
        .select_related("run")
        .order_by("started_at")
    )
    for step in steps:
        assert step.started_at is not None
        weighed = HistoryEvent.objects.filter(
            specimen__runs__run=step.run, kind="weighed", undone_at__isnull=True
        ).aggregate(last=Max("at"))["last"]
        last = max(weighed or step.started_at, step.started_at)
        early = last - step.started_at < DAILY_AFTER
        yield PlannedJob(
            f"weigh-{step.run_id}",
            "scales",
            f"weigh run {step.run.number}",
            minutes=5,
            attended=True,
            kind="weigh",
            url=f"/runs/{step.run.number}/weigh/",
            fixed=last + (OFTEN if early else timedelta(days=1)),
            window=20.0 if early else 120.0,
        )


def _inspections(workshop: Workshop) -> Iterator[PlannedJob]:
    """What is exposed is looked at every so often: a photo, sag, colour."""
    runs = (
        Run.objects.filter(workshop=workshop, state=RUNNING, kind_key="exposure")
        .prefetch_related("steps")
        .order_by("number")
    )
    for run in runs:
        step, every = step_of(run), run.values.get("inspect")
        if step is None or step.started_at is None or not isinstance(every, float) or every <= 0:
            continue
        seen = HistoryEvent.objects.filter(
            specimen__runs__run=run,
            kind__in=("photo", "measured", "note"),
            at__gte=step.started_at,
            undone_at__isnull=True,
        ).aggregate(last=Max("at"))["last"]
        yield PlannedJob(
            f"look-{run.pk}",
            "clocks",
            f"look at run {run.number}, {run.what}",
            minutes=10,
            attended=True,
            kind="look",
            url=f"/runs/{run.number}/look/",
            fixed=max(seen or step.started_at, step.started_at) + timedelta(seconds=every),
            window=every / 60 * TOLERANCE,
        )


def _tests(workshop: Workshop) -> Iterator[PlannedJob]:
    """What can be broken now, a set for each campaign, procedure and speed: slow before fast."""
    rows = (
        Turn.objects.filter(
            campaign__workshop=workshop,
            campaign__archived_at__isnull=True,
            state="waiting",
            open=True,
            specimen__outstanding="",
            specimen__spare=False,
            specimen__made="made",
        )
        .values("campaign_id", "campaign__question", "procedure_id", "speed")
        .annotate(n=Count("id"))
        .order_by("campaign_id", "procedure_id", "speed")
    )
    procedures = Procedure.objects.select_related("rig").in_bulk({r["procedure_id"] for r in rows})
    slower: dict[tuple[int, int], str] = {}
    for row in rows:
        procedure = procedures[row["procedure_id"]]
        key = f"test-{row['campaign_id']}-{row['procedure_id']}-{row['speed'] or 0:.4g}"[:40]
        pair = (row["campaign_id"], row["procedure_id"])
        before = slower.get(pair)
        slower[pair] = key
        yield PlannedJob(
            key,
            f"rig-{procedure.rig_id}" if procedure.rig_id else "bench",
            f"{procedure.name}: {row['n']}",
            minutes=max(min(round(row["n"] * procedure.method.minutes), 180), 5),
            attended=True,
            kind="test",
            url=f"/campaigns/{row['campaign_id']}/bench/",
            count=row["n"],
            after=(before,) if before else (),
            geometry=row["campaign__question"],
        )


def _own(workshop: Workshop) -> Iterator[PlannedJob]:
    for job in OwnJob.objects.filter(workshop=workshop, done_at__isnull=True):
        yield PlannedJob(
            f"own-{job.pk}",
            job.lane,
            job.label,
            minutes=job.minutes,
            attended=job.attended,
            kind="own",
            not_before=job.not_before,
            due=job.due,
        )


def step_of(run: Run) -> RunStep | None:
    """The step a run is in."""
    return next((s for s in run.steps.all() if s.started_at and not s.ended_at), None)
