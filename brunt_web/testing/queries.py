"""Reading the bench: the queue, the specimen in hand, and an attempt at a computation."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from django.db.models import Count, prefetch_related_objects
from django.http import Http404

from brunt_core.computation import Computation, compute
from brunt_core.errors import InputError
from brunt_core.identifiers import nearest_codes
from brunt_core.methods.base import Input, Method
from brunt_core.observations import Observation
from brunt_core.plausibility.bands import band
from brunt_core.plausibility.slips import Slip, expected_range, find_slip
from brunt_core.properties import PROPERTIES
from brunt_core.quantities import in_unit
from brunt_web.campaigns.models import Specimen
from brunt_web.campaigns.queries import state_of, untested
from brunt_web.interface.scale import scale_for
from brunt_web.testing.instruments import instruments_for
from brunt_web.testing.models import Result

BEFORE, AFTER = 2, 7


def specimen_of(workshop, code: str) -> Specimen:
    """One specimen of the workshop with what the bench shows of it, or 404."""
    found = (
        Specimen.objects.filter(workshop=workshop, code=code)
        .select_related(
            "campaign",
            "condition__material",
            "procedure__rig",
            "procedure__variant",
            "test__by",
            "print__batch",
        )
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
    shown = mine.select_related("condition", "test", "print__batch")
    past = shown.filter(run_order__lt=specimen.run_order, test__isnull=False).order_by(
        "-run_order"
    )[:BEFORE]
    ahead = (
        shown.filter(run_order__gt=specimen.run_order, test__isnull=True, spare=False)
        .exclude(print__failed=True)
        .order_by("run_order")[:AFTER]
    )
    items = [*reversed(past), specimen, *ahead]
    prefetch_related_objects(items, "results")
    for one in items:
        one.state = state_of(one)
    return Queue(items, counts["done"], counts["total"])


def next_after(specimen: Specimen) -> Specimen | None:
    """The next untested specimen of the same procedure, round the end, then of any other."""
    waiting = (
        untested(specimen.campaign)
        .exclude(pk=specimen.pk)
        .select_related(
            "campaign",
            "condition__material",
            "procedure__rig",
            "procedure__variant",
            "print__batch",
        )
    )
    same = waiting.filter(procedure_id=specimen.procedure_id)
    return same.filter(run_order__gt=specimen.run_order).first() or same.first() or waiting.first()


def section_inputs(specimen: Specimen) -> list[Input]:
    """The dimensions to measure, after the specimen type's section."""
    keys = specimen.procedure.geometry.nominal
    return [i for i in specimen.procedure.method.inputs if i.key in keys]


def nominal_sizes(specimen: Specimen) -> dict[str, float]:
    """The specimen type's section in m."""
    return {key: size / 1000 for key, size in specimen.procedure.geometry.nominal.items()}


def known_texts(specimen: Specimen) -> dict[str, str]:
    """What was measured or read before, as typed."""
    texts = {m.key: m.text for m in specimen.measurements.all()}
    if getattr(specimen, "test", None):
        texts |= {r.key: r.text for r in specimen.test.readings.all()}
    return texts


def siblings_of(specimen: Specimen) -> list[tuple[str, Observation]]:
    """Results of the same condition and procedure, without this one: (ID, observation in SI)."""
    key = specimen.procedure.method.results[0].property
    rows = (
        Result.objects.filter(
            specimen__condition_id=specimen.condition_id,
            specimen__procedure_id=specimen.procedure_id,
            property_key=key,
            specimen__test__excluded=False,
        )
        .exclude(specimen_id=specimen.pk)
        .values_list("specimen__code", "lower", "upper")
    )
    return [(code, Observation(lower, upper)) for code, lower, upper in rows]


@dataclass
class Attempt:
    """What the fields come to right now: a computation, or the sentence that stops it."""

    method: Method
    computation: Computation | None = None
    error: InputError | None = None
    misread: bool = False
    became: dict[str, str] = field(default_factory=dict)
    slip: Slip | None = None
    over_capacity: str = ""
    siblings: list[tuple[str, float]] = field(default_factory=list)
    strip: dict | None = None
    load_part: float | None = None


def attempt(specimen: Specimen, texts: Mapping[str, str], outcome: str) -> Attempt:
    """Try to compute with what is typed so far; never raises for what a person typed."""
    method = specimen.procedure.method
    known = siblings_of(specimen)
    tried = Attempt(method, siblings=[(code, o.anchor) for code, o in known])
    tried.became, tried.error = _became(method, texts)
    tried.misread = tried.error is not None
    if tried.error is None:
        try:
            tried.computation = compute(
                method,
                texts,
                "broke" if outcome == "void" else outcome,
                instruments_for(specimen.procedure),
            )
        except InputError as error:
            tried.error = error
    if tried.computation:
        _judge(tried, specimen, texts, outcome, [o.anchor for _, o in known if o.is_exact])
    tried.strip = _strip(tried)
    return tried


def _became(method: Method, texts: Mapping[str, str]) -> tuple[dict[str, str], InputError | None]:
    """What each typed field was read as, and the first that could not be."""
    from brunt_core.computation.compute import read
    from brunt_core.computation.working import bounded_text

    said, first = {}, None
    for spec in method.inputs:
        text = (texts.get(spec.key) or "").strip()
        if not text:
            continue
        try:
            reading = read(spec, text, {})
        except InputError as error:
            first = first or error
            continue
        means = (
            f"mean of {len(reading.typed.parts)}: "
            if len(reading.typed.parts) > 1 and reading.observation.is_exact
            else ""
        )
        note = f" — {reading.typed.note}" if reading.typed.note else ""
        said[spec.key] = (
            f"= {means}{bounded_text(reading.observation, spec.dimension, spec.unit, 4)}{note}"
        )
    return said, first


def _judge(tried: Attempt, specimen: Specimen, texts, outcome: str, siblings: list[float]) -> None:
    done = tried.computation
    material = specimen.condition.material
    family_band = band(material.family, done.results[0].property.key) if material else None
    tried.slip = find_slip(
        done,
        texts,
        "broke" if outcome == "void" else outcome,
        expected_range(family_band, siblings),
        nominal_sizes(specimen),
    )
    rig, load = specimen.procedure.rig, done.readings[done.method.reading.key]
    if rig and rig.capacity and rig.dimension == load.input.dimension:
        tried.load_part = min(load.si / rig.capacity, 1.0)
        if load.si > rig.capacity:
            tried.over_capacity = f"More than {rig.name} can hold ({rig.capacity:g} N)."


def _strip(tried: Attempt) -> dict | None:
    """The reading drawn among its siblings."""
    own = tried.computation.results[0].observation.anchor if tried.computation else None
    values = [v for _, v in tried.siblings] + ([own] if own is not None else [])
    if len(values) < 2:
        return None
    prop = PROPERTIES[tried.method.results[0].property]
    scale = scale_for(
        [0.0, *(in_unit(v, prop.dimension, prop.unit) for v in values)], width=324, pad=12
    )
    x = {v: scale.x(in_unit(v, prop.dimension, prop.unit)) for v in values}
    return {
        "dots": [(x[v], code) for code, v in tried.siblings],
        "own": x.get(own) if own is not None else None,
        "ticks": scale.ticks,
    }
