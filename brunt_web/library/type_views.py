"""Specimen types: published ones and the tester's own."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.quantities.numbers import read_number
from brunt_core.specimens import mesh
from brunt_core.specimens.drawing import block_on_plate, dimension_lines, remarks
from brunt_core.specimens.shapes import SHAPES
from brunt_core.specimens.types import ORIENTATIONS, TYPES, SpecimenType, specimen_type
from brunt_web.library.actions.variants import copy_procedure, read_variant, save_variant
from brunt_web.library.models import Procedure, SpecimenVariant
from brunt_web.people.requests import SeatedRequest


def _geometry(workshop: Any, key: str) -> tuple[SpecimenType, SpecimenVariant | None]:
    if key.startswith("own-") and key[4:].isdigit():
        variant = SpecimenVariant.objects.filter(workshop=workshop, pk=int(key[4:])).first()
        if variant:
            return variant.geometry, variant
    if key not in TYPES:
        raise Http404(f"There is no specimen type {key} in this workshop.")
    return specimen_type(key), None


@require_GET
def types(request: SeatedRequest) -> HttpResponse:
    """All types, drawn."""
    own = [
        v.geometry
        for v in SpecimenVariant.objects.filter(workshop=request.workshop, archived_at__isnull=True)
    ]
    return render(request, "library/types.html", {"types": TYPES.values(), "own": own})


@require_http_methods(["GET", "POST"])
def type_page(request: SeatedRequest, key: str) -> HttpResponse:
    """One type: drawing, orientation, figures, files; a form to make a variant of it."""
    geometry, variant = _geometry(request.workshop, key)
    typed = {k: f"{v:g}" for k, v in geometry.sizes.items()}
    shown, filling, error = geometry, (1240.0, 1.0), None
    if request.method == "POST":
        typed = request.POST
        try:
            stored = _store(request, geometry, variant)
            if stored:
                return redirect("type", stored)
            filling = _filling(typed)
            shown = read_variant(geometry.shape_key, typed.get("name", ""), typed)
        except InputError as problem:
            error = problem
    context = _type_context(geometry, shown, filling, typed)
    context |= {"error": error, "bases": Procedure.objects.filter(workshop=request.workshop)}
    return render(request, "library/type.html", context, status=422 if error else 200)


def _store(request: SeatedRequest, geometry: SpecimenType, variant: SpecimenVariant | None) -> str:
    """Store what the form asks for; returns the type to show next, or nothing."""
    post, shop = request.POST, request.workshop
    if post.get("procedure"):
        chosen = post["procedure"]
        base = Procedure.objects.filter(workshop=shop, pk=chosen if chosen.isdigit() else 0).first()
        if base is None:
            raise InputError("Choose the procedure it is like.", "procedure_name")
        made = copy_procedure(shop, base, post.get("procedure_name", ""), variant, geometry.key)
        messages.success(request, f"{made.name} can be chosen when a question is asked.")
        return geometry.key
    if post.get("save"):
        saved = save_variant(shop, post.get("name", ""), geometry.shape_key, post)
        return f"own-{saved.pk}"
    return ""


def _type_context(geometry: SpecimenType, shown: SpecimenType, filling: Any, typed: Any) -> dict:
    density, infill = filling
    labels = SHAPES[geometry.shape_key].sizes.items()
    return {
        "geometry": geometry,
        "shown": shown,
        "density": density,
        "infill": infill,
        "grams": shown.mass(density, infill) * 1000,
        "drawing": _drawing(shown),
        "remarks": remarks(shown),
        "typed": typed,
        "sizes": [(k, label, typed.get(k, "")) for k, label in labels],
        "room": mesh.has_room(shown),
        "blocks": [(w, letters, block_on_plate(shown, w)) for w, letters in ORIENTATIONS.items()],
    }


def _filling(typed: Any) -> tuple[float, float]:
    """Density in kg/m³ and filled share as typed, with their usual values when empty."""
    density, infill = typed.get("density", "").strip(), typed.get("infill", "").strip().rstrip("% ")
    try:
        value = parse(density, "density").si if density else 1240.0
    except InputError as error:
        raise error.at("density") from None
    try:
        share = read_number(infill) / 100 if infill else 1.0
    except InputError as error:
        raise error.at("infill") from None
    if not 0 < share <= 1 or value <= 0:
        raise InputError(
            "Filled is more than 0 and at most 100 %, the density more than zero.", "infill"
        )
    return value, share


def _drawing(geometry: SpecimenType) -> dict:
    """The dimensioned front view in drawing units, the length lying across the sheet."""
    lines = dimension_lines(geometry)
    xs = [d.at for d in lines if d.axis == "y"] + [-geometry.wide / 2, geometry.wide / 2]
    ys = [d.at for d in lines if d.axis == "x"] + [0.0, geometry.overall]
    size = max(max(ys) - min(ys), (max(xs) - min(xs)) * 2) / 34
    pad = size * 2.5
    box = (min(ys) - pad, -max(xs) - pad, max(ys) - min(ys) + 2 * pad, max(xs) - min(xs) + 2 * pad)
    return {
        "outline": [(y, x) for x, y in geometry.outline],
        "size": size,
        "box": box,
        "lines": [_line(d, size) for d in lines],
    }


def _line(d: Any, size: float) -> dict:
    """A dimension line turned with the drawing: y runs across, x up."""
    if d.axis == "y":
        return {
            "path": f"M{d.start},{-d.at} H{d.end} M{d.start},{-d.at - size / 2} v{size} M{d.end},{-d.at - size / 2} v{size}",
            "x": (d.start + d.end) / 2,
            "y": -d.at - size * 0.5,
            "label": d.label,
        }
    return {
        "path": f"M{d.at},{-d.start} V{-d.end} M{d.at - size / 2},{-d.start} h{size} M{d.at - size / 2},{-d.end} h{size}",
        "x": d.at + (-size * 1.4 if d.at < 0 else size * (0.7 + 0.32 * len(d.label))),
        "y": -(d.start + d.end) / 2 + size * 0.4,
        "label": d.label,
    }


@require_GET
def type_file(request: SeatedRequest, key: str, kind: str) -> HttpResponse:
    """An unmarked mesh of a type."""
    geometry, _ = _geometry(request.workshop, key)
    body = mesh.oriented(mesh.body(geometry), "flat")
    data = mesh.stl(body) if kind == "stl" else mesh.three_mf([(geometry.name, body, (0, 0))])
    name = f"{key}-mm.stl" if kind == "stl" else f"{key}.3mf"
    return HttpResponse(
        data,
        content_type="model/stl" if kind == "stl" else "model/3mf",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
