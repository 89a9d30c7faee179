"""Before and after: sizes, water, effect; and the measuring of what is in a run."""

from datetime import datetime
from typing import Any

from django.db.models import QuerySet
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import render as render_quantity
from brunt_core.treatments.change import SHAPE_SIZES
from brunt_core.treatments.looks import LOOK_SIZES
from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.campaigns.queries import campaign_of, progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.typed import whole
from brunt_web.people.requests import SeatedRequest
from brunt_web.testing.actions.record_test import measure
from brunt_web.testing.forms import MeasurementForm
from brunt_web.testing.marks import WEIGHED, latest, marks_at
from brunt_web.treatments.ageing_view import ageing
from brunt_web.treatments.change_view import FACTORS, measured_changes
from brunt_web.treatments.effect_view import effect_of, families, is_done_to, words_of
from brunt_web.treatments.looks_view import look_name, watches
from brunt_web.treatments.models import Inside, LogReading, Run
from brunt_web.treatments.moments import SHAPED, Subject, treated_with, untreated_from
from brunt_web.treatments.water_view import water


@require_GET
def change_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """One treatment of a campaign: sizes before and after, water by mass, treated against control."""
    campaign = campaign_of(request.workshop, pk)
    known = treatments_of(campaign)
    what = request.GET.get("what", "")
    what = what if what in known else next(iter(known), "")
    factor = whole(request.GET.get("times")) or 8
    factor = factor if factor in FACTORS else 8
    treated = treated_with(campaign, what) if what else []
    control = _controls(campaign, what, min((s.end for s in treated), default=None))
    now = timezone.now()
    i = FACTORS.index(factor)
    return render(
        request,
        "treatments/change.html",
        {
            "what": what,
            "known": known,
            "factor": factor,
            "less": FACTORS[i - 1] if i else None,
            "more": FACTORS[i + 1] if i + 1 < len(FACTORS) else None,
            "changes": measured_changes(treated, factor),
            "water": water(treated, control, now),
            "effect": effect_of(campaign, what, treated, control) if what else None,
            "ageing": ageing(campaign),
            "looks": watches(campaign, what) if what else [],
            "room": _room(campaign, what),
            "treated": treated,
            "runs": {s.run.number: s.run for s in treated if s.run}.values(),
            "now": now,
            **campaign_surroundings(campaign, "treat", progress(campaign)),
        },
    )


def _room(campaign: Campaign, what: str) -> list[str]:
    """The last humidity and temperature noted in a run of this treatment, in words."""
    said = []
    for kind, dimension, unit in (("humidity", "ratio", "%"), ("oven", "temperature", "°C")):
        last = (
            LogReading.objects.filter(run__campaign=campaign, run__what=what, what=kind)
            .select_related("run__own")
            .order_by("-at")
            .first()
        )
        if last and last.value is not None and (kind == "humidity" or last.run.heat is None):
            at = timezone.localtime(last.at)
            said.append(f"{render_quantity(last.value, dimension, unit)} on {at:%d %b %H:%M}")
    return said


def treatments_of(campaign: Campaign) -> list[str]:
    """Everything done or planned to specimens of a campaign, in the plan's order, then in time."""
    planned = [w for _, members in families(campaign) for c in members for w in words_of(c)]
    done = (
        Run.objects.filter(campaign=campaign).order_by("created_at").values_list("what", flat=True)
    )
    return list(dict.fromkeys([*planned, *done]))


def _controls(campaign: Campaign, what: str, since: datetime | None) -> list[Subject]:
    """The specimens of the control conditions, seen from the same moment on."""
    if since is None:
        return []
    bases = [
        base.pk for base, members in families(campaign) if any(is_done_to(c, what) for c in members)
    ]
    specimens = list(
        Specimen.objects.filter(condition__in=bases, made="made")
        .select_related(*SHAPED)
        .prefetch_related("turns")
    )
    return untreated_from(specimens, since)


@require_GET
def change_measuring_view(request: SeatedRequest, number: int) -> HttpResponse:
    """What lies in a run, a row each: sizes and mass before or after it."""
    run = _run(request, number)
    return _table(request, run, _moment(run), [r.specimen for r in _inside(run)], "measure")


@require_GET
def weighing(request: SeatedRequest, number: int) -> HttpResponse:
    """What was in a run and its control, a row each: the mass as it is now."""
    run = _run(request, number)
    found = [r.specimen for r in _inside(run)]
    beside_it = _controls(run.campaign, run.what, timezone.now()) if run.campaign else []
    specimens = {s.pk: s for s in (*found, *(c.specimen for c in beside_it)) if not s.spent}
    return _table(request, run, WEIGHED, list(specimens.values()), "weigh")


@require_GET
def looking(request: SeatedRequest, number: int) -> HttpResponse:
    """What is exposed, a row each: sag under its load and without it, the grade of its colour."""
    run = _run(request, number)
    return _table(request, run, look_name(run), [r.specimen for r in _inside(run)], "look")


def _inside(run: Run) -> list[Inside]:
    return list(run.inside.select_related("specimen__condition", "specimen__procedure__variant"))


def _table(
    request: SeatedRequest, run: Run, moment: str, specimens: list[Specimen], job: str
) -> HttpResponse:
    """A table to be filled by keyboard; a weighing or an inspection begins empty each time."""
    sizes = job == "measure"
    marks = marks_at(specimens)
    rows = []
    for s in specimens:
        here = latest(m for m in marks[s.pk] if sizes and m.moment.detail.get("moment") == moment)
        rows.append(
            {
                "specimen": s,
                "flags": [],
                "mass": here["mass"].text if "mass" in here else "",
                "fields": [
                    (k, here[k].text if k in here else "", s.geometry.nominal.get(k))
                    for k in _asked(s, job)
                ],
            }
        )
    title = {"measure": f"Sizes {moment}", "weigh": "Weigh", "look": "Look at them"}[job]
    context: dict[str, Any] = {
        "title": f"{title}: {run.what}",
        "back": reverse("run", args=[run.number]),
        "address": reverse(f"run-{job}-one", args=[run.number, "XX-XXX"]),
        "rows": rows,
        "looking": job == "look",
    }
    if run.campaign:
        context |= campaign_surroundings(run.campaign, "treat", progress(run.campaign))
    return render(request, "printing/measuring.html", context)


def _run(request: SeatedRequest, number: int) -> Run:
    found = (
        Run.objects.filter(workshop=request.workshop, number=number)
        .select_related("campaign", "own")
        .first()
    )
    if found is None:
        raise Http404("There is no such run in this workshop.")
    return found


def _moment(run: Run) -> str:
    """What a moment of sizes is called: before a run while it has not begun, after it later."""
    return f"before run {run.number}" if run.state == "planned" else f"after run {run.number}"


def sizes_of(specimen: Specimen) -> list[str]:
    """Length, section, bow, diagonals."""
    own = list(specimen.geometry.nominal)
    shape = [s.key for s in SHAPE_SIZES if s.key not in (*own, "hole")]
    return ["length", *own, *(k for k in shape if k != "length")]


def _asked(specimen: Specimen, job: str) -> list[str]:
    """The fields of one row."""
    if job == "measure":
        return sizes_of(specimen)
    return [s.key for s in LOOK_SIZES] if job == "look" else []


@require_POST
def change_measure_one_view(request: SeatedRequest, number: int, code: str) -> JsonResponse:
    """Store one row of sizes before or after a run."""
    run = _run(request, number)
    held = Specimen.objects.filter(workshop=request.workshop, code=code, runs__run=run)
    return _store(request, held, _moment(run), "measure")


@require_POST
def weigh_one(request: SeatedRequest, number: int, code: str) -> JsonResponse:
    """Store one mass, of what was in the run or stands beside it."""
    run = _run(request, number)
    held = Specimen.objects.filter(workshop=request.workshop, code=code, campaign=run.campaign)
    return _store(request, held, WEIGHED, "weigh")


@require_POST
def look_one(request: SeatedRequest, number: int, code: str) -> JsonResponse:
    """Store one inspection; only of what was put out."""
    run = _run(request, number)
    held = Specimen.objects.filter(workshop=request.workshop, code=code, runs__run=run)
    if run.started_at is None:
        said = "Nothing of this run is out yet; press it on first."
        return JsonResponse({"field": "", "error": said}, status=422)
    return _store(request, held, look_name(run), "look")


def _store(request: SeatedRequest, held: QuerySet[Specimen], moment: str, job: str) -> JsonResponse:
    specimen = held.select_related("condition", "procedure__variant").first()
    if specimen is None:
        raise Http404("There is no such specimen in this run.")
    form = MeasurementForm(request.POST, [*_asked(specimen, job), "mass"])
    if not form.is_valid():
        return JsonResponse({"field": "", "error": "That is longer than any reading."}, status=422)
    try:
        measure(specimen, request.user, timezone.now(), form.texts(), moment)
    except InputError as error:
        return JsonResponse({"field": error.field, "error": error.sentence}, status=422)
    return JsonResponse({"deviations": {}, "flags": []})
