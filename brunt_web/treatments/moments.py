"""The moments of treated specimens: when the heat was on, sizes before and after, masses since."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from brunt_web.campaigns.models import Campaign, HistoryEvent, Specimen
from brunt_web.testing.marks import marks_at
from brunt_web.testing.models import Measurement
from brunt_web.treatments.models import Inside, Run

DRY = "dry"
SHAPED = ("condition__material", "procedure__variant", "campaign")


@dataclass
class Subject:
    """One specimen that had a treatment, or stands beside it: when, where, what was measured.

    ``start`` and ``end`` bound the treatment itself (its heated steps); sizes in m, by key.
    """

    specimen: Specimen
    start: datetime
    end: datetime
    run: Run | None = None
    lost: str = ""
    before: dict[str, float] = field(default_factory=dict)
    after: dict[str, float] = field(default_factory=dict)
    masses: list[tuple[datetime, float]] = field(default_factory=list)
    dry: float | None = None

    @property
    def first_mass(self) -> float | None:
        """Its mass dry, where it was weighed so, else as made, kg: what shares are taken of."""
        return self.dry or (self.masses[0][1] if self.masses else None)


def treated_with(campaign: Campaign, what: str) -> list[Subject]:
    """The specimens that had this treatment, or are over its heat, with their sizes and masses."""
    found: dict[int, Subject] = {}
    rows = (
        Inside.objects.filter(run__campaign=campaign, run__what=what)
        .exclude(run__state="stopped")
        .select_related("run", *(f"specimen__{s}" for s in SHAPED))
        .prefetch_related("run__steps")
        .order_by("run__started_at")
    )
    for row in rows:
        spell = heat_of(row.run)
        if spell and (row.out_at is None or row.out_at >= spell[0]):
            end = min(spell[1], row.out_at) if row.out_at else spell[1]
            lost = row.reason if row.fate == "lost" else ""
            found[row.specimen_id] = Subject(row.specimen, spell[0], end, row.run, lost)
    for event in _noted(campaign, what):
        found.setdefault(event.specimen_id, Subject(event.specimen, event.at, event.at))
    return _measured(list(found.values()))


def heat_of(run: Run) -> tuple[datetime, datetime] | None:
    """From when to when a run did what it does: its heated steps, else all of it; ``None`` before."""
    steps = [s for s in run.steps.all() if s.started_at]
    hot = [s for s in steps if s.heat is not None] or steps
    if not hot or not hot[-1].ended_at:
        return None
    start = hot[0].started_at
    assert start is not None
    return start, hot[-1].ended_at


def _noted(campaign: Campaign, what: str) -> Iterable[HistoryEvent]:
    return (
        HistoryEvent.objects.filter(
            specimen__campaign=campaign,
            kind__in=("treated", "conditioned"),
            detail__what=what,
            undone_at__isnull=True,
        )
        .select_related(*(f"specimen__{s}" for s in SHAPED))
        .order_by("at")
    )


def untreated_from(specimens: Sequence[Specimen], start: datetime) -> list[Subject]:
    """Specimens that were not treated, seen from the same moment on."""
    return _measured([Subject(s, start, start) for s in specimens])


def _measured(subjects: list[Subject]) -> list[Subject]:
    marks = marks_at([s.specimen for s in subjects])
    for subject in subjects:
        rows = marks[subject.specimen.pk]
        subject.before = _latest(m for m in rows if m.moment.at <= subject.start)
        subject.after = _latest(m for m in rows if m.moment.at >= subject.end)
        subject.dry = next(
            (m.value for m in rows if m.key == "mass" and m.moment.detail.get("moment") == DRY),
            None,
        )
        subject.masses = [(m.moment.at, m.value) for m in rows if m.key == "mass"]
    return subjects


def _latest(rows: Iterable[Measurement]) -> dict[str, float]:
    return {m.key: m.value for m in rows}


def by_group(subjects: Iterable[Subject]) -> Mapping[tuple[int, str], list[Subject]]:
    """By condition and by how they stood."""
    groups: dict[tuple[int, str], list[Subject]] = {}
    for s in subjects:
        groups.setdefault((s.specimen.condition_id, s.specimen.orientation), []).append(s)
    return groups
