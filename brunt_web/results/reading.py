"""The one reader of results: exact, bounded, excluded, unlike kinds.

Rack, bench, planning, Compare and export all read from here, so that they cannot disagree.
"""

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from math import sqrt
from typing import Any

from django.db.models import Avg, Count, F, Q, QuerySet, StdDev
from django.db.models.fields.json import KeyTextTransform

from brunt_core.methods.base import Method
from brunt_core.observations import Observation
from brunt_core.properties import Property
from brunt_core.quantities import in_unit
from brunt_core.statistics.outliers import outlier
from brunt_core.statistics.summaries import Summary, summarise
from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.library.models import Procedure
from brunt_web.people.models import Workshop
from brunt_web.results.models import Result

_COLUMNS = (
    *("turn_id", "turn__specimen__code", "turn__condition_id", "turn__procedure_id"),
    *("property_key", "lower", "upper", "uncertainty", "rounding", "at_time"),
    *("turn__outcome", "turn__excluded", "turn__excluded_because", "turn__stated"),
    *("turn__untimely", "turn__conditioning", "turn__speed", "turn__tested_at"),
    # As text, which is quicker than read as JSON: there are thousands.
    *("turn__tested_as__state", KeyTextTransform("overdue", "turn__tested_as"), "turn__rig_id"),
)


@dataclass(slots=True)
class Sample:
    """One property from one turn, SI.

    ``state`` is what it was tested in: what ``happened`` to it, else the planned ``conditioning``;
    ``out`` seconds since it had left that; ``doubt`` why its shape makes its strength doubtful;
    ``overdue`` the day its rig's calibration had been due, where that was past; ``rig`` the one it was
    tested on where that was another than its procedure's.
    """

    turn: int
    code: str
    condition: int
    procedure: int
    property: str
    observation: Observation
    uncertainty: float
    rounding: float
    at_time: float | None
    outcome: str
    excluded: bool
    because: str
    stated: bool
    untimely: str
    conditioning: str
    speed: float | None
    tested_at: datetime | None
    state: str
    happened: str
    out: float | None
    doubt: str
    overdue: str = ""
    rig: int | None = None

    def in_unit(self, prop: Property) -> "Sample":
        """The same in the property's own unit."""
        times, start = _line(prop)
        return replace(
            self,
            observation=self.observation.through(lambda x: x * times + start),
            uncertainty=self.uncertainty * times,
            rounding=self.rounding * times,
        )


def samples(
    where: Q,
    properties: Collection[str] | None = None,
    shown: Mapping[int, Property] | None = None,
) -> list[Sample]:
    """Every sample that fits, in test order. One query.

    With ``shown``, a property by procedure: only those, in the property's own unit.
    """
    rows = Result.objects.filter(where)
    if properties is not None:
        rows = rows.filter(property_key__in=properties)
    found = rows.order_by("turn__run_order", "turn_id").values_list(*_COLUMNS)
    if shown is None:
        return [_sample(row) for row in found]
    lines = {pk: (p.key, *_line(p)) for pk, p in shown.items()}
    return [_sample(_shown(r, *lines[r[3]][1:])) for r in found if lines[r[3]][0] == r[4]]


def _line(prop: Property) -> tuple[float, float]:
    """What SI is multiplied by and what is added for the property's unit."""
    start = in_unit(0.0, prop.dimension, prop.unit)
    return in_unit(1.0, prop.dimension, prop.unit) - start, start


def _shown(row: Sequence[Any], times: float, start: float) -> Sequence[Any]:
    low, high, off, step = row[5:9]
    return (
        *row[:5],
        None if low is None else low * times + start,
        None if high is None else high * times + start,
        (off or 0.0) * times,
        (step or 0.0) * times,
        *row[9:],
    )


def rows(where: Q, *columns: str) -> QuerySet[Result, Any]:
    """Columns of the results that fit, whether they count or not; in no order, one query when it is read."""
    return Result.objects.filter(where).order_by().values_list(*columns)


def counted_rows(where: Q, *columns: str) -> QuerySet[Result, Any]:
    """Columns of the results that fit and count; in no order, one query when it is read."""
    return Result.objects.counted().filter(where).order_by().values_list(*columns)


def of_turn(turn: Turn, prop: str) -> Result | None:
    """A turn's result of one property; none where it has none. Those read with the turn are used."""
    return next((r for r in turn.results.all() if r.property_key == prop), None)


def measured(where: Q, procedures: Iterable[int]) -> dict[int, set[str]]:
    """The properties that have results, by procedure. One query."""
    found: dict[int, set[str]] = {pk: set() for pk in procedures}
    rows = Result.objects.filter(where).order_by().values_list("turn__procedure_id", "property_key")
    for procedure, key in rows.distinct():
        found.setdefault(procedure, set()).add(key)
    return found


def _sample(row: Sequence[Any]) -> Sample:
    # By place, in the order of the columns: thousands are made for one view.
    turn, code, condition, procedure, key, low, high, off, step, at_time = row[:10]
    outcome, excluded, because, stated, untimely, conditioning, speed, tested_at = row[10:18]
    told, overdue = row[18] or {}, row[19] or ""
    happened = told.get("conditioned", "")
    told_of: tuple[Any, ...] = (
        *(turn, code, condition, procedure, key, Observation(low, high)),
        *(off or 0.0, step or 0.0, at_time, outcome, excluded, because, stated, untimely),
        *(conditioning, speed, tested_at, happened or conditioning, happened),
        *(told.get("out"), told.get("doubt", ""), overdue, row[20]),
    )
    return Sample(*told_of)


def siblings(turn: Turn, prop: str, outcome: str = "") -> list[tuple[str, Observation]]:
    """IDs with their observations of one property, in test order, and nothing else. One query.

    Those of its condition and procedure that count, without itself; with ``outcome`` only what ended so.
    """
    found = (
        Result.objects.counted()
        .filter(
            turn__condition_id=turn.condition_id,
            turn__procedure_id=turn.procedure_id,
            property_key=prop,
        )
        .exclude(turn=turn)
    )
    if outcome:
        found = found.filter(turn__outcome=outcome)
    ordered = found.order_by("turn__run_order", "turn_id")
    bounds = ordered.values_list("turn__specimen__code", "lower", "upper")
    return [(code, Observation(lower, upper)) for code, lower, upper in bounds]


def of_campaign(campaign: Campaign, properties: Collection[str] | None = None) -> list[Sample]:
    """All samples of a campaign."""
    return samples(Q(turn__campaign=campaign), properties)


@dataclass
class Group:
    """One condition under one procedure: what counts, what is excluded, what ended otherwise."""

    method: Method | None = None
    counted: list[Sample] = field(default_factory=list)
    excluded: list[Sample] = field(default_factory=list)
    unlike: list[Sample] = field(default_factory=list)

    @property
    def values(self) -> list[Observation]:
        """The observations that count."""
        return [s.observation for s in self.counted]

    @property
    def in_time(self) -> list[Observation]:
        """The same in the order they were tested."""
        rows = enumerate(self.counted)
        ordered = sorted(rows, key=lambda r: (r[1].tested_at is None, r[1].tested_at or r[0], r[0]))
        return [s.observation for _, s in ordered]

    @property
    def everything(self) -> list[Observation]:
        """The observations with those excluded back in."""
        return self.values + [s.observation for s in self.excluded]

    @property
    def summary(self) -> Summary | None:
        """What counts, summarised."""
        return summarise(self.values, rounding=self.rounding) if self.counted else None

    @property
    def rounding(self) -> float:
        """What the display's step leaves open of each value, as a root mean square."""
        squares = [s.rounding**2 for s in self.counted]
        return sqrt(sum(squares) / len(squares)) if squares else 0.0

    @property
    def with_all(self) -> Summary | None:
        """The same with those excluded back in, where some are."""
        return summarise(self.everything) if self.excluded else None

    @property
    def known_to(self) -> float:
        """The largest standard uncertainty of one of them."""
        return max((s.uncertainty for s in self.counted), default=0.0)

    @property
    def outlier(self) -> str:
        """The ID of the specimen that stands apart from the others, if one does."""
        exact = {s.code: s.observation.anchor for s in self.counted if s.observation.is_exact}
        return outlier(exact, self.known_to, self.method.cv if self.method else None)


def grouped(
    found: Iterable[Sample],
    procedures: Iterable[Procedure],
    chosen: Mapping[int, str] | None = None,
) -> dict[tuple[int, int], Group]:
    """Samples by condition and procedure, of the property each procedure is ranked by.

    ``chosen`` names another property by procedure. Where a method never averages unlike outcomes,
    the most frequent one counts and the rest is listed separately.
    """
    known = {p.pk: p for p in procedures}
    wanted = {pk: (chosen or {}).get(pk) or p.ranked_property.key for pk, p in known.items()}
    groups: dict[tuple[int, int], Group] = defaultdict(Group)
    for sample in found:
        if wanted.get(sample.procedure) != sample.property:
            continue
        group = groups[sample.condition, sample.procedure]
        group.method = known[sample.procedure].method
        (group.excluded if sample.excluded else group.counted).append(sample)
    for group in groups.values():
        _keep_kinds_apart(group)
    return groups


def _keep_kinds_apart(group: Group) -> None:
    main = group.method.averaged_outcome([s.outcome for s in group.counted]) if group.method else ""
    if main:
        group.unlike = [s for s in group.counted if s.outcome != main]
        group.counted = [s for s in group.counted if s.outcome == main]


# So many tests tell the variation to within 1 % of itself (its standard error is 1/√(2 · freedom)).
NEWEST = 5000


@dataclass(frozen=True)
class Pooled:
    """A coefficient of variation pooled from so many groups, with its degrees of freedom."""

    value: float
    groups: int
    freedom: int


def pooled_cv(workshop: Workshop, procedure: Procedure) -> Pooled | None:
    """The workshop's own variation of one property by one procedure: √(Σ(n−1)·CV² / Σ(n−1)).

    Of the property the procedure is ranked by and no other, from groups of three or more exact
    results that count, of the newest :data:`NEWEST` tests: what a rig of ten years ago did tells little
    of the next plan. ``None`` without such a group, or where per cent of the mean mean nothing.
    """
    prop = procedure.ranked_property
    if prop.dimension == "temperature":
        return None
    newest = Turn.objects.filter(
        procedure=procedure, procedure__workshop=workshop, tested_at__isnull=False, excluded=False
    ).order_by("-tested_at")
    rows = (
        Result.objects.filter(
            turn__in=newest.values("pk")[:NEWEST],
            property_key=prop.key,
            lower=F("upper"),
        )
        .values("turn__condition_id")
        .annotate(n=Count("id"), mean=Avg("lower"), sd=StdDev("lower", sample=True))
        .filter(n__gte=3)
        .order_by()
    )
    groups = [(r["n"] - 1, r["sd"] / r["mean"]) for r in rows if r["mean"]]
    freedom = sum(n for n, _ in groups)
    if not groups:
        return None
    variance = sum(n * cv**2 for n, cv in groups) / freedom
    return Pooled(variance**0.5, len(groups), freedom) if variance > 0 else None
