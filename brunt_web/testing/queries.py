"""Reading the bench: the queue, the specimen in hand, and an attempt at a computation."""

from collections.abc import Mapping
from dataclasses import dataclass

from django.db.models import Count, Q
from django.http import Http404

from brunt_core.identifiers import nearest_codes
from brunt_core.methods.base import Input, Method
from brunt_core.observations import Observation
from brunt_web.campaigns.models import Specimen
from brunt_web.campaigns.queries import state_of, untested
from brunt_web.testing.curve_queries import curve_texts
from brunt_web.testing.inputs import level_texts
from brunt_web.testing.models import DismissedCaution, Result

BEFORE, AFTER = 2, 7
_SHOWN = (
    "campaign",
    "condition__material",
    "procedure__rig",
    "procedure__variant",
    "print__batch",
    "clock",
    "curve",
)


def specimen_of(workshop, code: str) -> Specimen:
    """One specimen of the workshop with what the bench shows of it, or 404."""
    found = (
        Specimen.objects.filter(workshop=workshop, code=code)
        .select_related(*_SHOWN, "test__by")
        .defer("curve__data")
        .first()
    )
    if found is None:
        near = nearest_codes(
            code, Specimen.objects.filter(workshop=workshop).values_list("code", flat=True)
        )
        raise Http404(
            f"There is no specimen {code} in this workshop."
            + (f" Nearest: {', '.join(near)}." if near else "")
        )
    found.state = state_of(found)
    return found


@dataclass
class Queue:
    """The specimens about the one in hand, and how far the procedure has come."""

    items: list[Specimen]
    done: int
    total: int


def queue_for(specimen: Specimen) -> Queue:
    """The queue of the specimen's procedure in test order."""
    mine = Specimen.objects.filter(
        campaign_id=specimen.campaign_id, procedure_id=specimen.procedure_id
    )
    counts = mine.aggregate(done=Count("test"), total=Count("id"))
    shown = mine.select_related("condition", "test", "print__batch", "clock").prefetch_related(
        "results"
    )
    past = shown.filter(test__isnull=False, run_order__lt=specimen.run_order).order_by(
        "-run_order"
    )[:BEFORE]
    ahead = (
        shown.filter(test__isnull=True, spare=False, clock__isnull=True)
        .exclude(Q(print__failed=True) | Q(pk=specimen.pk))
        .annotate(behind=Q(run_order__lt=specimen.run_order))
        .order_by("skips", "behind", "run_order")[:AFTER]
    )
    items = [*reversed(past), specimen, *ahead]
    for one in items:
        one.state = state_of(one)
    return Queue(items, counts["done"], counts["total"])


def next_after(specimen: Specimen) -> Specimen | None:
    """The next untested specimen of the same procedure, round the end, then of any other."""
    return (
        untested(specimen.campaign)
        .filter(clock__isnull=True)
        .exclude(pk=specimen.pk)
        .annotate(
            other=~Q(procedure_id=specimen.procedure_id),
            behind=Q(run_order__lt=specimen.run_order),
        )
        .order_by(
            "other",
            "procedure__campaignprocedure__position",
            "skips",
            "behind",
            "unprinted",
            "run_order",
        )
        .select_related(*_SHOWN)
        .defer("curve__data")
        .first()
    )


def section_inputs(specimen: Specimen) -> list[Input]:
    """What is measured of the specimen: its section, and sizes and masses the method asks for."""
    keys = specimen.procedure.geometry.nominal
    method = specimen.procedure.method
    return [i for i in method.inputs if (i.key in keys if i.section else i.role == "size")]


def further_inputs(specimen: Specimen) -> list[Input]:
    """What can be read besides the big number, and what the procedure leaves open."""
    procedure = specimen.procedure
    method = procedure.method
    return [
        i
        for i in method.inputs
        if i.key != procedure.reading.key
        and i not in method.timed
        and not i.section
        and (i.role == "reading" or (i.role == "fixed" and _left_open(i, procedure.parameters)))
    ]


def _left_open(spec: Input, parameters: Mapping[str, str]) -> bool:
    return spec.kind == "quantity" and not parameters.get(spec.key)


def nominal_sizes(specimen: Specimen) -> dict[str, float]:
    """The specimen type's section in m."""
    return {key: size / 1000 for key, size in specimen.procedure.geometry.nominal.items()}


def known_texts(specimen: Specimen) -> dict[str, str]:
    """What was measured or read before, as typed."""
    texts = level_texts(specimen) | {m.key: m.text for m in specimen.measurements.all()}
    if getattr(specimen, "test", None):
        texts |= {r.key: r.text for r in specimen.test.readings.all()}
    curve = getattr(specimen, "curve", None)
    return texts | (curve_texts(specimen) if curve else {})


def siblings_of(specimen: Specimen, outcome: str = "") -> list[tuple[str, Observation]]:
    """Results of the same condition and procedure, without this one: (ID, observation in SI).

    Where a method keeps unlike outcomes apart, only those that ended as ``outcome`` says.
    """
    rows = (
        Result.objects.filter(
            specimen__condition_id=specimen.condition_id,
            procedure_id=specimen.procedure_id,
            property_key=specimen.procedure.ranked_property.key,
            specimen__test__excluded=False,
        )
        .exclude(specimen_id=specimen.pk)
        .values_list("specimen__code", "lower", "upper")
    )
    if outcome and specimen.procedure.method.apart:
        rows = rows.filter(specimen__test__outcome=outcome)
    return [(code, Observation(lower, upper)) for code, lower, upper in rows]


def cautions_open(user, method: Method) -> bool:
    """Whether this person has not yet put these cautions away."""
    return not DismissedCaution.objects.filter(
        user=user, method_key=method.key, version=method.version
    ).exists()
