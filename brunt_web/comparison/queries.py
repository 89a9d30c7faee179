"""Reading what is compared, in a fixed number of queries."""

from collections import defaultdict
from dataclasses import dataclass, field

from django.db.models import Avg, Count, Q

from brunt_core.observations import Observation
from brunt_core.printing.checks import ASPECTS
from brunt_core.properties import Property
from brunt_core.quantities import in_unit
from brunt_web.campaigns.models import Campaign, Condition, Specimen
from brunt_web.library.models import Procedure
from brunt_web.printing.models import Grade
from brunt_web.testing.models import Result

SHOWN = {"unit": "unit", "best": "% of best", "reference": "% of reference"}
RATIO = "ratio"


@dataclass
class Group:
    """A condition's results under one procedure, in the property's unit."""

    condition: Condition
    values: list[Observation] = field(default_factory=list)
    codes: list[str] = field(default_factory=list)
    left_out: list[tuple[str, Observation, str]] = field(default_factory=list)
    void: int = 0
    waiting: int = 0
    stated: int = 0

    @property
    def with_all(self) -> list[Observation]:
        """The values with the excluded ones back in."""
        return self.values + [o for _, o, _ in self.left_out]


def property_of(procedure: Procedure) -> Property:
    """The property a procedure is ranked by."""
    return procedure.ranked_property


def groups_of(
    campaign: Campaign, procedures: list[Procedure], conditions: list[Condition]
) -> dict[int, dict[int, Group]]:
    """Groups by procedure and condition. Two queries however many specimens there are."""
    groups = {p.pk: {c.pk: Group(c) for c in conditions} for p in procedures}
    wanted = {p.pk: property_of(p) for p in procedures}
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
        )
    )
    for procedure, condition, prop, lower, upper, code, excluded, reason, stated in rows:
        if prop != wanted[procedure].key:
            continue
        group = groups[procedure][condition]
        value = _shown(Observation(lower, upper), wanted[procedure])
        group.stated += bool(stated)
        if excluded:
            group.left_out.append((code, value, reason))
        else:
            group.values.append(value)
            group.codes.append(code)
    _count_unfinished(campaign, groups)
    return groups


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
