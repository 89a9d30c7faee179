"""Feedstock: qualifications, their steps, particles from a picture."""

from collections.abc import Mapping
from functools import partial
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.http import FileResponse, Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.feedstock.particles import scale_between, spread_of
from brunt_core.feedstock.qualification import QUALIFICATIONS, Gate, gate_of, learnt_of
from brunt_core.printing.recipes import FIELDS
from brunt_core.quantities.rendering import number
from brunt_web.feedstock.actions import pictures, qualifications
from brunt_web.feedstock.forms import (
    GateForm,
    LimitsForm,
    QualificationForm,
    QualifiedRecipeForm,
    ScaleForm,
)
from brunt_web.feedstock.models import Attempt, Picture, Qualification
from brunt_web.interface.pictures import AT_ONCE, shown_file
from brunt_web.interface.scale import scale_for
from brunt_web.interface.typed import checked, kept, whole
from brunt_web.jobs.handing import heavy
from brunt_web.people.requests import SeatedRequest

OVER, UNDER = 5e-3, 5e-4


@require_GET
def feedstock(request: SeatedRequest) -> HttpResponse:
    """The workshop's qualifications, and one more."""
    return _list(request)


def _list(
    request: SeatedRequest, status: int = 200, form: QualificationForm | None = None
) -> HttpResponse:
    rows = []
    for qualification in Qualification.objects.filter(workshop=request.workshop).select_related(
        "material", "recipe"
    ):
        gates = QUALIFICATIONS[qualification.kind]
        now = qualifications.gate_now(qualification)
        at = len(gates) if not now else [g.key for g in gates].index(now)
        rows.append(
            (
                qualification,
                [("done" if i < at else "now" if i == at else "", g) for i, g in enumerate(gates)],
            )
        )
    context = {"rows": rows, "form": form or QualificationForm(None, request.workshop)}
    return render(request, "feedstock/list.html", context, status=status)


@require_POST
def feedstock_new_view(request: SeatedRequest) -> HttpResponse:
    """One more qualification."""
    form = QualificationForm(request.POST, request.workshop)
    made = kept(form, partial(qualifications.begin, request.workshop, request.user))
    return redirect("qualification", made.pk) if made else _list(request, 422, form)


def _qualification(request: SeatedRequest, pk: int) -> Qualification:
    found = (
        Qualification.objects.filter(workshop=request.workshop, pk=pk)
        .select_related("material", "lot", "recipe")
        .first()
    )
    if found is None:
        raise Http404("There is no such qualification in this workshop.")
    return found


@require_GET
def qualification(request: SeatedRequest, pk: int) -> HttpResponse:
    """One qualification, step over step."""
    return _page(request, _qualification(request, pk))


def _page(
    request: SeatedRequest,
    found: Qualification,
    form: GateForm | None = None,
    key: str = "",
    error: InputError | None = None,
) -> HttpResponse:
    now = qualifications.gate_now(found)
    attempts = list(found.attempts.select_related("by"))
    standing = [a for a in attempts if not a.undone_at]
    failed = standing[-1] if standing and not standing[-1].passed else None
    picture = found.pictures.first()
    return render(
        request,
        "feedstock/qualification.html",
        {
            "qualification": found,
            "steps": [
                _step(g, now, attempts, found, form if g.key == key else None, request.GET)
                for g in QUALIFICATIONS[found.kind]
            ],
            "now": now,
            "learnt": _named(found, learnt_of([(a.gate, a.passed, a.learnt) for a in standing])),
            "failed": (failed, gate_of(found.kind, failed.gate)) if failed else None,
            "picture": picture,
            "error": error,
        },
        status=422 if error or (form and form.errors) else 200,
    )


def _named(found: Qualification, learnt: dict[str, str]) -> list[tuple[str, str]]:
    """What was learnt, by the names of the recipe's settings."""
    fields = FIELDS["resin" if found.kind == "resin" else "filament"]
    return [(fields[key].label, text) for key, text in learnt.items()]


def _step(
    gate: Gate,
    now: str,
    attempts: list[Attempt],
    found: Qualification,
    form: GateForm | None,
    told: Mapping[str, str],
) -> dict[str, Any]:
    mine = [a for a in attempts if a.gate == gate.key]
    standing = [a for a in mine if not a.undone_at]
    order = [g.key for g in QUALIFICATIONS[found.kind]]
    below = not now or order.index(gate.key) < order.index(now)
    initial = dict(standing[-1].texts) if standing else {}
    if gate.key == "particles" and not standing:
        initial |= _from_picture(found)
    if gate.key == "particles":
        initial |= {k: told[k][:20] for k in ("over", "under") if told.get(k)}
    state = "now" if gate.key == now else "done" if below else "shut"
    return {
        "gate": gate,
        "state": state,
        "attempts": mine,
        "tries": len(standing),
        "last": standing[-1] if standing else None,
        "form": form or GateForm(None, gate, initial),
    }


def _from_picture(found: Qualification) -> dict[str, str]:
    """What the last picture says of the shares."""
    picture = found.pictures.filter(scale__isnull=False).first()
    if picture is None:
        return {}
    whole_ones = [p for _, p in pictures.particles_on(picture)]
    try:
        return pictures.particle_shares(whole_ones, OVER, UNDER)
    except InputError:
        return {}


@require_POST
def attempt_view(request: SeatedRequest, pk: int, gate: str) -> HttpResponse:
    """One attempt at a step."""
    found = _qualification(request, pk)
    try:
        form = GateForm(request.POST, gate_of(found.kind, gate))
    except InputError as error:
        raise Http404(error.sentence) from None
    if form.is_valid():
        texts = form.texts()
        note = texts.pop("note", "")
        try:
            made = qualifications.record_attempt(
                found, request.user, timezone.now(), gate, texts, note
            )
        except InputError as error:
            if error.field == "gate":
                return _page(request, found, error=error)
            field = error.field if error.field in form.fields else None
            form.add_error(field, error.sentence)
        else:
            say = messages.success if made.passed else messages.warning
            say(request, made.reason)
            return redirect("qualification", pk)
    return _page(request, found, form, gate)


@require_POST
def feedstock_back_view(request: SeatedRequest, pk: int, number: int) -> HttpResponse:
    """An attempt was undone."""
    qualifications.withdraw_attempt(_qualification(request, pk), number, timezone.now())
    return redirect("qualification", pk)


@require_POST
def feedstock_recipe_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """What was learnt becomes a recipe."""
    found = _qualification(request, pk)
    try:
        made = qualifications.make_recipe(found, checked(QualifiedRecipeForm(request.POST))["name"])
    except InputError as error:
        return _page(request, found, error=error)
    messages.success(request, f"{made} is in the library; complete it there.")
    return redirect("qualification", pk)


# -- pictures ---------------------------------------------------------------------------------------


@require_POST
@heavy("Photo of flakes", pixels=AT_ONCE)
def picture_new(request: SeatedRequest, pk: int) -> HttpResponse:
    """A photo of flakes."""
    found = _qualification(request, pk)
    file = request.FILES.get("photo")
    try:
        if file and str(file.name).lower().endswith((".csv", ".txt", ".tsv")):
            told = pictures.shares_in(file, OVER, UNDER)
            messages.success(
                request,
                f"{told['over']} too large, {told['under']} too fine: evaluate the step with these.",
            )
            return redirect(f"{reverse('qualification', args=[pk])}?{urlencode(told)}")
        made = pictures.add_picture(found, request.user, timezone.now(), file)
    except InputError as error:
        return _page(request, found, error=error)
    return redirect("particles", made.pk)


def _picture(request: SeatedRequest, pk: int) -> Picture:
    found = (
        Picture.objects.filter(qualification__workshop=request.workshop, pk=pk)
        .select_related("qualification")
        .first()
    )
    if found is None:
        raise Http404("There is no such picture in this workshop.")
    return found


@require_GET
def particles(request: SeatedRequest, pk: int) -> HttpResponse:
    """A picture with what was found on it."""
    return _particles(request, _picture(request, pk))


def _particles(
    request: SeatedRequest, found: Picture, error: InputError | None = None
) -> HttpResponse:
    limits = LimitsForm(request.GET if request.GET else None)
    told = limits.cleaned_data if request.GET and limits.is_valid() else {}
    over, under = told.get("over") or OVER, told.get("under") or UNDER
    counted = pictures.particles_on(found)
    context: dict[str, Any] = {
        "picture": found,
        "scale_form": ScaleForm(request.POST if error else None),
        "limits": limits,
        "over": over,
        "under": under,
        "error": error,
    }
    if found.scale:
        try:
            context["spread"] = spread_of([p for _, p in counted], over, under)
        except InputError as problem:
            context["problem"] = problem.sentence
        context["outlines"] = [
            _outline(i, f, i in found.strays, over, under) for i, f in enumerate(found.found)
        ]
        context["bars"] = _histogram([p.area * 1e6 for _, p in counted if not p.cut])
        context["shares"] = _from_picture(found.qualification)
    return render(request, "feedstock/particles.html", context, status=422 if error else 200)


def _outline(i: int, f: dict[str, Any], stray: bool, over: float, under: float) -> dict[str, Any]:
    state = (
        "stray"
        if stray
        else "cut"
        if f["cut"]
        else "large"
        if f["length"] > over
        else "fine"
        if f["width"] < under
        else "good"
    )
    points = " ".join(f"{x},{y}" for x, y in f["outline"])
    words = f"{number(f['area'] * 1e6, '.2f')} mm², {number(f['length'] * 1e3, '.2f')} by {number(f['width'] * 1e3, '.2f')} mm"
    return {"i": i, "points": points, "state": state, "words": words}


def _histogram(areas: list[float]) -> dict[str, Any] | None:
    """How the areas are spread, in twelve bins."""
    if len(areas) < 3:
        return None
    scale = scale_for(areas, 420, 30)
    width = (scale.high - scale.low) / 12
    counts = [
        sum(scale.low + i * width <= a < scale.low + (i + 1) * width for a in areas)
        for i in range(12)
    ]
    most = max(counts) or 1
    bars = []
    for i, n in enumerate(counts):
        left, right = scale.x(scale.low + i * width), scale.x(scale.low + (i + 1) * width)
        bars.append((left, round(right - left - 1, 1), round(90 * n / most, 1), n))
    return {"bars": bars, "ticks": scale.ticks}


@require_POST
def scale(request: SeatedRequest, pk: int) -> HttpResponse:
    """The picture's scale, from two points or as a number."""
    found = _picture(request, pk)
    try:
        told = checked(ScaleForm(request.POST))
        ruler = None if told["pixel"] else _ruler(told)
        scale = _between(told, ruler) if ruler else told["pixel"]
        pictures.set_scale(found, scale, ruler)
    except InputError as error:
        return _particles(request, found, error)
    return redirect("particles", pk)


def _ruler(told: dict[str, Any]) -> pictures.Ruler:
    points = [told[k] for k in ("x1", "y1", "x2", "y2")]
    if None in points:
        raise InputError(
            "Click two points of a ruler on the picture, or type mm for each pixel.", "scale"
        )
    return (points[0], points[1]), (points[2], points[3])


def _between(told: dict[str, Any], ruler: pictures.Ruler) -> float:
    if told["length"] is None:
        raise InputError("Type the length between the two points.", "length")
    return scale_between(*ruler, told["length"])


@require_POST
def stray(request: SeatedRequest, pk: int) -> JsonResponse:
    """A find is a stray, or is not after all."""
    found = _picture(request, pk)
    index = whole(request.POST.get("index"))
    try:
        pictures.toggle_stray(found, -1 if index is None else index)
    except InputError as error:
        return JsonResponse({"error": error.sentence}, status=422)
    return JsonResponse({"strays": found.strays})


@require_GET
def picture_file(request: SeatedRequest, pk: int) -> FileResponse:
    """The picture itself."""
    found = _picture(request, pk)
    return shown_file(pictures.FOLDER, found.file, "The picture's file is gone.", "image/png")
