"""What is exposed, as it was looked at: sag over days, what springs back, the grade of colour."""

from dataclasses import dataclass, field
from datetime import datetime

from brunt_core.quantities.rendering import figures, number
from brunt_core.treatments.looks import LOOK_SIZES, sprung_back
from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.interface.scale import scale_for
from brunt_web.testing.marks import LOOKED, marks_at
from brunt_web.testing.models import Measurement
from brunt_web.treatments.models import Run, RunStep

WIDE, HIGH, DAY = 520.0, 150.0, 86400.0


@dataclass
class Look:
    """One inspection of one specimen: days out, sags in mm, the grade."""

    at: datetime
    days: float
    values: dict[str, float] = field(default_factory=dict)

    @property
    def sag(self) -> float | None:
        """Under its load, mm."""
        return self.values.get("sag_loaded")

    @property
    def rest(self) -> float | None:
        """Without it, mm."""
        return self.values.get("sag_unloaded")

    @property
    def grey(self) -> float | None:
        """The grade of the grey scale."""
        return self.values.get("grey_scale")


@dataclass
class WatchedRun:
    """One specimen with everything seen of it, its line, its last state in words."""

    specimen: Specimen
    looks: list[Look]
    line: str = ""
    dots: list[tuple[float, float, float | None, str]] = field(default_factory=list)
    words: str = ""


@dataclass
class Watch:
    """One run of exposure as it was looked at."""

    run: Run
    watched: list[WatchedRun]
    x_ticks: tuple[tuple[float, str], ...] = ()
    y_ticks: list[tuple[float, str]] = field(default_factory=list)
    next_at: datetime | None = None


def look_name(run: Run) -> str:
    """What the moments of its inspections are called."""
    return f"{LOOKED}, run {run.number}"


def watches(campaign: Campaign, what: str) -> list[Watch]:
    """The runs of exposure of a campaign that were looked at, the first first."""
    runs = Run.objects.filter(
        campaign=campaign, what=what, kind_key="exposure", started_at__isnull=False
    ).prefetch_related("steps", "inside__specimen__condition")
    return [w for r in runs.order_by("number") if (w := _watch(r)).watched]


def exposed_since(run: Run) -> datetime | None:
    """When it was put out: the end of the first step, else the start of the run."""
    steps: list[RunStep] = list(run.steps.all())
    return (steps[0].ended_at if steps else None) or run.started_at


def _watch(run: Run) -> Watch:
    since = exposed_since(run)
    assert since is not None
    specimens = [row.specimen for row in run.inside.all()]
    marks = marks_at(specimens)
    keys = {s.key for s in LOOK_SIZES}
    found = []
    for s in specimens:
        mine = [
            m
            for m in marks[s.pk]
            if m.key in keys and m.moment.detail.get("moment") == look_name(run)
        ]
        if mine:
            found.append(WatchedRun(s, _looks(mine, since)))
    watch = Watch(run, found)
    _draw(watch)
    return watch


def _looks(marks: list[Measurement], since: datetime) -> list[Look]:
    by_moment: dict[int, Look] = {}
    for m in marks:
        days = (m.moment.at - since).total_seconds() / DAY
        look = by_moment.setdefault(m.moment_id, Look(m.moment.at, max(days, 0.0)))
        look.values[m.key] = m.value if m.key == "grey_scale" else m.value * 1e3
    return list(by_moment.values())


def _draw(watch: Watch) -> None:
    every = [k for w in watch.watched for k in w.looks]
    sags = [v for k in every for key, v in k.values.items() if key != "grey_scale"]
    across = scale_for([0.0, *(k.days for k in every)], WIDE, 44)
    up = scale_for([0.0, *sags] if sags else [0.0, 1.0], HIGH, 16, 4)
    if sags:
        watch.y_ticks = [(round(HIGH - a, 1), b) for a, b in up.ticks]
    watch.x_ticks = across.ticks

    def y(value: float) -> float:
        return round(HIGH - up.x(value), 1)

    for w in watch.watched:
        for k in w.looks:
            sag, rest = k.sag, k.rest
            if sag is None:
                continue
            said = f"{w.specimen.code}, {figures(k.days)} d: {figures(sag)} mm"
            w.dots.append((across.x(k.days), y(sag), None if rest is None else y(rest), said))
        if len(w.dots) > 1:
            w.line = "M" + " L".join(f"{d[0]},{d[1]}" for d in w.dots)
        w.words = _words(w)


def _words(w: WatchedRun) -> str:
    last = w.looks[-1]
    said = []
    sag, rest, grey = last.sag, last.rest, last.grey
    if sag is not None:
        said.append(f"sags {figures(sag)} mm")
        back = None if rest is None else sprung_back(sag, rest)
        if back is not None:
            said.append(f"{back:.0%} springs back".replace("%", " %"))
    elif rest is not None:
        said.append(f"sags {figures(rest)} mm unloaded")
    if grey is not None:
        said.append(f"colour grade {number(grey, 'g')}" + (", no change" if grey == 5 else ""))
    return f"{', '.join(said)} after {figures(last.days)} d"
