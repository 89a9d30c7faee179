"""The points of a check standard: a day's mean each, from every campaign, with what the chart says of them."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from statistics import fmean

from django.db.models import Count, Q, QuerySet
from django.db.models.functions import TruncDate
from django.http import Http404
from django.utils import timezone

from brunt_core.comparability import comparability_key
from brunt_core.planning.deviations import speed_words
from brunt_core.quantities.rendering import number
from brunt_core.statistics.control import LEAST, ControlChart, control_chart
from brunt_web.campaigns.models import Turn
from brunt_web.campaigns.requirements import Requirements
from brunt_web.checks.models import CheckStandard
from brunt_web.library.models import Procedure
from brunt_web.people.models import Workshop
from brunt_web.results.models import COUNTED
from brunt_web.results.reading import Sample, samples

_ACTED_ON = ("settings", "design", "drying", "ticks")


@dataclass(frozen=True)
class CheckSpecimen:
    """One bar: its ID, value in the property's unit, campaign, and what it was made from."""

    code: str
    value: float
    campaign: str
    lot: str
    rig: str


@dataclass
class ChartPoint:
    """One day: the mean of the bars tested on it."""

    day: date
    bars: list[CheckSpecimen]

    @property
    def value(self) -> float:
        """Their mean."""
        return fmean(b.value for b in self.bars)

    @property
    def lots(self) -> str:
        """What they were made from."""
        return ", ".join(sorted({b.lot for b in self.bars if b.lot}))


@dataclass
class Stretch:
    """The days of one phase with their chart; none of fewer than four days."""

    points: list[ChartPoint]
    because: str = ""
    phase: int | None = None
    chart: ControlChart | None = None

    @property
    def level(self) -> float | None:
        """The level of the phase as it was at its end: that after a shift, where there was one."""
        if self.chart:
            return self.chart.shift.mean if self.chart.shift else self.chart.centre
        return fmean(p.value for p in self.points) if self.points else None

    @property
    def first_level(self) -> float:
        """The level it began with."""
        return self.chart.centre if self.chart else (self.level or 0.0)


@dataclass(frozen=True)
class LevelChange:
    """A day from which the level is another: by how much of what was before, and why it is said."""

    check: str
    before: date
    on: date
    by: float
    because: str = ""

    @property
    def words(self) -> str:
        """In one sentence."""
        how = f"by {number(abs(self.by) * 100, '.2g')} % {'up' if self.by > 0 else 'down'}"
        why = f" ({self.because})" if self.because else ""
        return f"the check standard “{self.check}” shifted {how} between {self.before:%-d %b %Y} and {self.on:%-d %b %Y}{why}"  # fmt: skip


@dataclass
class WatchedCheck:
    """A check standard with all its points."""

    check: CheckStandard
    stretches: list[Stretch] = field(default_factory=list)
    held: int = 0

    @property
    def points(self) -> list[ChartPoint]:
        """All days in order."""
        return [p for s in self.stretches for p in s.points]

    @property
    def changes(self) -> list[LevelChange]:
        """Where its level changed: phases begun for a reason, and shifts that rules told of."""
        found, before = [], None
        for s in self.stretches:
            if before and before.points and s.points and before.level and s.level:
                by = s.first_level / before.level - 1
                if s.because:
                    found.append(LevelChange(str(self.check), before.points[-1].day, s.points[0].day, by=by, because=s.because))  # fmt: skip
            shift = s.chart.shift if s.chart else None
            if s.chart and shift and shift.start > 0 and s.chart.centre:
                found.append(LevelChange(str(self.check), s.points[shift.start - 1].day, s.points[shift.start].day, by=shift.by / s.chart.centre))  # fmt: skip
            before = s
        return found


def check_of(workshop: Workshop, pk: int) -> CheckStandard:
    """One check standard of the workshop, or 404."""
    found = checks_of(workshop).filter(pk=pk).first()
    if found is None:
        raise Http404("There is no such check standard in this workshop.")
    return found


def checks_of(workshop: Workshop) -> QuerySet[CheckStandard]:
    """All check standards, those archived too."""
    return CheckStandard.objects.filter(workshop=workshop).select_related(
        "material", "procedure__rig", "procedure__variant"
    )


def watched(check: CheckStandard) -> WatchedCheck:
    """The check standard's days, phase by phase, each with its chart. Three queries."""
    days, held = _days(check)
    phases = list(check.phases.all())
    starts = [(p.starts_on, p.because, p.pk) for p in phases]
    found = WatchedCheck(check, held=held)
    edges: list[tuple[date, str, int | None]] = [(date.min, "", None), *starts]
    for i, (start, because, pk) in enumerate(edges):
        end = edges[i + 1][0] if i + 1 < len(edges) else date.max
        own = [p for p in days if start <= p.day < end]
        stretch = Stretch(own, because, pk)
        if len(own) >= LEAST:
            stretch.chart = control_chart([p.value for p in own], base=max(LEAST, min(len(own), 25)))  # fmt: skip
        if own or i:
            found.stretches.append(stretch)
    return found


def _days(check: CheckStandard) -> tuple[list[ChartPoint], int]:
    """The days with the bars tested on each, and how many held and are no points."""
    prop = check.procedure.ranked_property
    alike = _alike(check.procedure)
    where = Q(
        turn__campaign__workshop=check.workshop_id,
        turn__condition__material=check.material_id,
        turn__procedure__in=list(alike),
    )
    found = samples(where & COUNTED, {prop.key}, {pk: prop for pk in alike})
    facts = _facts([s.turn for s in found], check.procedure)
    by_day: dict[date, list[CheckSpecimen]] = defaultdict(list)
    held = 0
    for s in found:
        fact = facts.get(s.turn)
        if s.tested_at is None or fact is None:
            continue
        *made, noted = fact
        if not _as_the_check(check, alike[s.procedure], s, noted):
            continue
        if not s.observation.is_exact:
            held += 1
            continue
        day = timezone.localtime(s.tested_at).date()
        by_day[day].append(CheckSpecimen(s.code, s.observation.anchor, *made))
    return [ChartPoint(day, by_day[day]) for day in sorted(by_day)], held


def _alike(procedure: Procedure) -> dict[int, Procedure]:
    """The workshop's procedures of one method and property; which agree is for their facts to say."""
    rows = Procedure.objects.filter(workshop=procedure.workshop_id, method_key=procedure.method_key)
    found = rows.select_related("rig", "variant")
    key = procedure.ranked_property.key
    return {p.pk: p for p in found if p.ranked_property.key == key}


def _as_the_check(
    check: CheckStandard, procedure: Procedure, sample: Sample, noted: float | None
) -> bool:
    """Whether it was tested as the check standard is: speed as noted, and all that makes results comparable."""
    own = procedure.facts
    at = noted or sample.speed
    speed = speed_words(at) if at else own.speed
    facts = replace(own, speed=speed)
    return comparability_key(facts) == check.procedure.comparability_key


def _facts(
    turns: Sequence[int], procedure: Procedure
) -> dict[int, tuple[str, str, str, float | None]]:
    """Campaign, lot, rig and noted speed of each turn whose condition does nothing else to the material."""
    rows = Turn.objects.filter(pk__in=turns).values_list(
        "pk", "campaign__question", "specimen__made_as", "tested_as", "condition__requirements"
    )
    found = {}
    for pk, question, made, tested, required in rows:
        if _acted_on(required, procedure):
            continue
        found[pk] = (question, made.lot, tested.rig, tested.speed)
    return found


def _acted_on(required: Requirements, procedure: Procedure) -> bool:
    """Whether a condition asks for more than the plain material: a step that is outstanding, a setting, another way up."""
    turned = required.orientation not in ("", procedure.orientation)
    aged = required.age is not None and required.age.outstanding
    return turned or aged or bool(required.steps) or any(required.has(k) for k in _ACTED_ON)


def changes_for(workshop: Workshop, procedures: Iterable[Procedure]) -> list[LevelChange]:
    """Where the level of a check standard that is tested as one of these procedures changed."""
    keys = {p.comparability_key for p in procedures}
    found = []
    for check in checks_of(workshop).filter(archived_at=None):
        if check.procedure.comparability_key in keys:
            found += watched(check).changes
    return found


def likely(workshop: Workshop, count: int = 5) -> list[tuple[int, int, str, str, int]]:
    """What was tested on most days and is no check standard yet: material and procedure with their names, days."""
    have = set(CheckStandard.objects.filter(workshop=workshop).values_list("material", "procedure"))
    rows = (
        Turn.objects.filter(
            campaign__workshop=workshop, tested_at__isnull=False, condition__material__isnull=False
        )
        .order_by()
        .values_list(
            "condition__material", "procedure", "condition__material__name", "procedure__name"
        )
        .annotate(days=Count(TruncDate("tested_at"), distinct=True))
        .filter(days__gte=2)
        .order_by("-days", "condition__material__name")
    )
    found = [r for r in rows[: count + len(have)] if (r[0], r[1]) not in have]
    return found[:count]


def lacking(
    workshop: Workshop, procedures: Iterable[Procedure], materials: Iterable[int]
) -> list[CheckStandard]:
    """The check standards of procedures of which none of these materials is one: nothing ties a plan to the others."""
    own = set(materials)
    found = list(checks_of(workshop).filter(archived_at=None, procedure__in=list(procedures)))
    held = {c.procedure_id for c in found if c.material_id in own}
    return [c for c in found if c.material_id not in own and c.procedure_id not in held]
