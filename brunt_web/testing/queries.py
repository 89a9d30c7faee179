"""Reading the bench: the queue, the specimen in hand, and an attempt at a computation."""

from collections.abc import Mapping
from dataclasses import dataclass

from django.core.cache import cache
from django.db.models import Count, FilteredRelation, Q, prefetch_related_objects
from django.http import Http404

from brunt_core.identifiers import nearest_codes
from brunt_core.methods.base import Input, Method
from brunt_core.observations import Observation
from brunt_web.campaigns.models import Specimen
from brunt_web.campaigns.queries import state_from, state_of
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
    "test__by",
)
# The columns that the bench shows; the rest is read when asked for.
_COLUMNS = (
    *("id", "workshop_id", "code", "replicate", "run_order", "spare", "skips"),
    *("campaign__question", "campaign__replicates", "campaign__workshop_id"),
    *("condition__label", "condition__detail", "condition__campaign_id"),
    *("condition__material__name", "condition__material__family"),
    *(f"procedure__{k}" for k in ("name", "method_key", "orientation", "specimen_type", "speed")),
    *(f"procedure__{k}" for k in ("conditioning", "standard", "parameters", "preload")),
    *("procedure__reading_times", "procedure__ranked_by", "procedure__workshop_id"),
    *(f"procedure__rig__{k}" for k in ("name", "dimension", "capacity", "resolution")),
    "procedure__rig__relative_error",
    *("procedure__variant__name", "procedure__variant__shape", "procedure__variant__sizes"),
    *("print__failed", "print__defects", "print__note", "print__batch__printed_at"),
    *("clock__started_at", "clock__rung"),
    *("curve__name", "curve__points", "curve__picks", "curve__notes"),
    *(f"test__{k}" for k in ("outcome", "place", "mode", "answers", "reason", "note")),
    *("test__excluded", "test__exclusion_reason", "test__stated", "test__at", "test__entry_key"),
    "test__by__username",
)


def specimen_of(workshop, code: str) -> Specimen:
    """One specimen of the workshop with what the bench shows of it, or 404."""
    found = (
        Specimen.objects.filter(workshop=workshop, code=code)
        .select_related(*_SHOWN)
        .only(*_COLUMNS)
        .order_by()
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


def specimen_in_hand(workshop, code: str) -> Specimen:
    """The same, as it was when somebody took it up, for half a minute: for what is being typed.

    What is stored is checked by the database, so that an outdated one does no harm.
    """
    key = f"specimen-{workshop.pk}-{code}"
    found = cache.get(key)
    if found is None:
        found = specimen_of(workshop, code)
        cache.set(key, found, 30)
    return found


def let_go(specimen: Specimen) -> None:
    """Forget the specimen as it was in hand."""
    cache.delete(f"specimen-{specimen.workshop_id}-{specimen.code}")


@dataclass
class Queued:
    """One specimen in the queue: what its row shows."""

    code: str
    condition: str
    state: str
    place: str = ""
    excluded: bool = False
    result: Observation | None = None

    @property
    def waits(self) -> bool:
        """Whether it can be taken to the bench."""
        return self.state in ("planned", "printed")


@dataclass
class Queue:
    """The specimens about the one in hand, and how far the procedure has come."""

    items: list[Queued]
    done: int
    total: int


_ROW = (
    *("code", "condition__label", "condition__detail", "test__outcome", "test__place"),
    *("test__excluded", "print__failed", "print__batch__printed_at"),
    *("ranked__lower", "ranked__upper"),
)


def queue_for(specimen: Specimen) -> Queue:
    """The queue of the specimen's procedure in test order. Two narrow queries, however long it is."""
    mine = Specimen.objects.filter(
        campaign_id=specimen.campaign_id, procedure_id=specimen.procedure_id
    )
    counts = mine.aggregate(done=Count("test"), total=Count("id"))
    ranked = Q(results__property_key=specimen.procedure.ranked_property.key)
    rows = mine.annotate(ranked=FilteredRelation("results", condition=ranked)).exclude(
        pk=specimen.pk
    )
    past = rows.filter(test__isnull=False, run_order__lt=specimen.run_order)
    ahead = rows.filter(test__isnull=True, spare=False, clock__isnull=True)
    ahead = ahead.exclude(print__failed=True).annotate(behind=Q(run_order__lt=specimen.run_order))
    both = (
        past.order_by("-run_order")
        .values_list(*_ROW)[:BEFORE]
        .union(ahead.order_by("skips", "behind", "run_order").values_list(*_ROW)[:AFTER], all=True)
    )
    found = [_queued(row) for row in both]
    done = [q for q in found if not q.waits and q.state != "failed"]
    here = Queued(specimen.code, str(specimen.condition), specimen.state)
    if specimen.state in ("broken", "held", "void"):
        here.place, here.excluded = specimen.test.place, specimen.test.excluded
    items = [*reversed(done), here, *(q for q in found if q not in done)]
    return Queue(items, counts["done"], counts["total"])


def _queued(row: tuple) -> Queued:
    code, label, detail, outcome, place, excluded, failed, printed_at, *bounds = row
    made = None if failed is None else (failed, printed_at)
    known = Observation(*bounds) if bounds != [None, None] else None
    condition = f"{label}, {detail}" if detail else label
    return Queued(code, condition, state_from(outcome, made), place or "", bool(excluded), known)


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
    prefetch_related_objects([specimen], "measurements")
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
