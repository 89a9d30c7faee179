"""Reading what is compared, in a fixed number of queries."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from django.db.models import Avg, Count, Q

from brunt_core.methods.base import Method
from brunt_core.observations import Observation
from brunt_core.printing.checks import ASPECTS
from brunt_core.properties import Property
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import time_words, width_in_unit
from brunt_core.statistics.outliers import strange_one
from brunt_web.campaigns.models import Campaign, Condition, Specimen
from brunt_web.library.models import Procedure
from brunt_web.printing.models import Grade
from brunt_web.testing.models import Result
from brunt_web.testing.timed_queries import unlike

SHOWN = {"unit": "unit", "best": "% of best", "reference": "% of reference"}
RATIO = "ratio"


@dataclass
class Group:
    """A condition's results under one procedure, in the property's unit."""

    condition: Condition
    values: list[Observation] = field(default_factory=list)
    codes: list[str] = field(default_factory=list)
    outcomes: list[str] = field(default_factory=list)
    unlike: list[tuple[str, Observation, str]] = field(default_factory=list)
    times: list[float] = field(default_factory=list)
    left_out: list[tuple[str, Observation, str]] = field(default_factory=list)
    void: int = 0
    waiting: int = 0
    stated: int = 0
    known: float = 0.0

    @property
    def strange(self) -> str:
        """The ID of the specimen that stands apart by Grubbs' test, if one does."""
        pairs = zip(self.codes, self.values, strict=True)
        return strange_one({code: o.anchor for code, o in pairs if o.is_exact}, self.known)

    @property
    def with_all(self) -> list[Observation]:
        """The values with the excluded ones back in."""
        return self.values + [o for _, o, _ in self.left_out]


@dataclass
class Grouped:
    """Groups by procedure and condition, and the properties that have results, by procedure."""

    by_procedure: dict[int, dict[int, Group]]
    measured: dict[int, set[str]]


def groups_of(
    campaign: Campaign,
    procedures: list[Procedure],
    conditions: list[Condition],
    chosen: Mapping[int, str] | None = None,
) -> Grouped:
    """Groups by procedure and condition. Two queries however many specimens there are.

    ``chosen`` names a property by procedure where another than the ranked one is asked for.
    """
    groups = {p.pk: {c.pk: Group(c) for c in conditions} for p in procedures}
    measured: dict[int, set[str]] = {p.pk: set() for p in procedures}
    wanted = {
        p.pk: p.property_called((chosen or {}).get(p.pk) or p.ranked_property.key)
        for p in procedures
    }
    rows = (
        Result.objects.filter(specimen__campaign=campaign, procedure_id__in=wanted)
        .order_by("specimen__run_order")
        .values_list(
            "procedure_id",
            "specimen__condition_id",
            "property_key",
            "lower",
            "upper",
            "specimen__code",
            "specimen__test__excluded",
            "specimen__test__exclusion_reason",
            "specimen__test__stated",
            "specimen__test__outcome",
            "at_time",
            "uncertainty",
        )
    )
    for procedure, condition, prop, lower, upper, *rest in rows:
        measured[procedure].add(prop)
        if prop == wanted[procedure].key:
            value = _shown(Observation(lower, upper), wanted[procedure])
            *rest, known = rest
            _count_in(groups[procedure][condition], value, *rest)
            width = width_in_unit(known or 0.0, wanted[procedure].dimension, wanted[procedure].unit)
            groups[procedure][condition].known = max(groups[procedure][condition].known, width)
    _keep_kinds_apart(groups, {p.pk: p for p in procedures})
    _count_unfinished(campaign, groups)
    return Grouped(groups, measured)


def _count_in(
    group: Group,
    value: Observation,
    code: str,
    excluded: bool,
    reason: str,
    stated: bool,
    outcome: str,
    at_time: float | None,
) -> None:
    group.stated += bool(stated)
    if excluded:
        group.left_out.append((code, value, reason))
        return
    group.values.append(value)
    group.codes.append(code)
    group.outcomes.append(outcome)
    if at_time is not None:
        group.times.append(at_time)


def _keep_kinds_apart(
    groups: dict[int, dict[int, Group]], procedures: dict[int, Procedure]
) -> None:
    """Where a method's outcomes are never averaged together, a group keeps its most frequent one."""
    for pk, by_condition in groups.items():
        method = procedures[pk].method
        for group in by_condition.values():
            main = method.averaged_outcome(group.outcomes)
            if main:
                _keep_only(group, method, main)


def _keep_only(group: Group, method: Method, main: str) -> None:
    kept, rest = [], []
    for row in zip(group.codes, group.values, group.outcomes, strict=True):
        (kept if row[2] == main else rest).append(row)
    words = {o.key: o.label for o in method.outcomes}
    group.codes = [code for code, _, _ in kept]
    group.values = [value for _, value, _ in kept]
    group.outcomes = [main] * len(kept)
    group.unlike = [
        (code, value, f"{words[ends]}: never averaged with {words[main]}")
        for code, value, ends in rest
    ]


def remarks_of(groups: Sequence[Group], method: Method) -> list[str]:
    """What unlike reading times or unlike outcomes say against one ranking."""
    said = []
    times = [t for g in groups for t in g.times]
    if times and unlike(max(times), min(times)):
        said.append(
            f"Readings were taken at unlike times, {time_words(round(min(times), 1))} to "
            f"{time_words(round(max(times), 1))} after the start; creep tells in the difference."
        )
    ends = unlike_breaks(groups, method)
    if ends:
        said.append(
            f"The conditions broke in unlike ways ({', '.join(ends)}): set side by side, not ranked."
        )
    return said


def unlike_breaks(groups: Sequence[Group], method: Method) -> list[str]:
    """In words how the conditions broke, where the method keeps unlike ways apart and they differ."""
    ends = {g.outcomes[0] for g in groups if g.outcomes}
    return (
        [o.label for o in method.outcomes if o.key in ends]
        if method.apart and len(ends) > 1
        else []
    )


def grades_of(condition: int) -> list[tuple[str, float, int]]:
    """Printability of a condition: (aspect, mean grade, how many), from its specimens and their batches."""
    rows = (
        Grade.objects.filter(batch__prints__specimen__condition_id=condition)
        .filter(Q(specimen__isnull=True) | Q(specimen__condition_id=condition))
        .values("aspect")
        .annotate(mean=Avg("score"), n=Count("id", distinct=True))
        .order_by("aspect")
    )
    return [(ASPECTS[r["aspect"]][0], r["mean"], r["n"]) for r in rows]


def _shown(observation: Observation, prop: Property) -> Observation:
    return observation.through(lambda x: in_unit(x, prop.dimension, prop.unit))


def _count_unfinished(campaign: Campaign, groups: dict[int, dict[int, Group]]) -> None:
    counts: dict[tuple[int, int, str], int] = defaultdict(int)
    rows = Specimen.objects.filter(campaign=campaign).values_list(
        "procedure_id", "condition_id", "test__outcome"
    )
    for procedure, condition, outcome in rows:
        counts[procedure, condition, outcome or "waiting"] += 1
    for procedure, by_condition in groups.items():
        for condition, group in by_condition.items():
            group.void = counts[procedure, condition, "void"]
            group.waiting = counts[procedure, condition, "waiting"]
