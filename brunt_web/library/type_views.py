"""Specimen types: published ones and the tester's own."""

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.specimens import mesh
from brunt_core.specimens.drawing import (
    block_on_plate,
    remarks,
)
from brunt_core.specimens.types import ORIENTATIONS, TYPES, SpecimenType, specimen_type
from brunt_web.interface.typed import kept
from brunt_web.library.actions.variants import copy_procedure, save_variant
from brunt_web.library.drawing import drawn_type
from brunt_web.library.models import Procedure, SpecimenVariant
from brunt_web.library.type_forms import CopyForm, VariantForm
from brunt_web.people.models import Workshop
from brunt_web.people.requests import SeatedRequest


def _geometry(workshop: Workshop, key: str) -> tuple[SpecimenType, SpecimenVariant | None]:
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


@require_GET
def type_page(request: SeatedRequest, key: str) -> HttpResponse:
    """One type: drawing, orientation, figures, files; a form to make a variant of it."""
    geometry, variant = _geometry(request.workshop, key)
    if variant and variant.part:
        return redirect("part", variant.pk)
    return _page(request, geometry, geometry, VariantForm(None, geometry))


@require_POST
def draw_variant(request: SeatedRequest, key: str) -> HttpResponse:
    """The type drawn with the sizes as typed; nothing is stored."""
    geometry, _ = _geometry(request.workshop, key)
    form = VariantForm(request.POST, geometry)
    kept(form, lambda **_: form.geometry())
    return _page(request, geometry, _drawn(form, geometry), form)


@require_POST
def new_type(request: SeatedRequest, key: str) -> HttpResponse:
    """The type with the sizes as typed, stored as the workshop's own."""
    geometry, _ = _geometry(request.workshop, key)
    form = VariantForm(request.POST, geometry)

    def store(name: str, **_: object) -> SpecimenVariant:
        return save_variant(request.workshop, name, form.geometry())

    made = kept(form, store)
    if made is None:
        return _page(request, geometry, _drawn(form, geometry), form)
    messages.success(request, f"{made.name} is in the library.")
    return redirect("type", f"own-{made.pk}")


@require_POST
def type_procedure(request: SeatedRequest, key: str) -> HttpResponse:
    """A procedure like another, on this type."""
    geometry, variant = _geometry(request.workshop, key)
    form = CopyForm(request.POST, request.workshop)

    def store(procedure: Procedure, name: str) -> Procedure:
        return copy_procedure(request.workshop, procedure, name, variant, geometry.key)

    made = kept(form, store)
    if made is None:
        return _page(request, geometry, geometry, VariantForm(None, geometry), form)
    messages.success(request, f"{made.name} can be chosen when a question is asked.")
    return redirect("type", key)


def _drawn(form: VariantForm, geometry: SpecimenType) -> SpecimenType:
    """What is drawn: the sizes as typed where they make a specimen, else the type itself."""
    if set(form.errors) - {"name"}:
        return geometry
    try:
        return form.geometry()
    except InputError as error:
        form.add_error(None, error.sentence)
        return geometry


def _page(
    request: SeatedRequest,
    geometry: SpecimenType,
    shown: SpecimenType,
    form: VariantForm,
    copying: CopyForm | None = None,
) -> HttpResponse:
    density, infill = form.filling
    refused = bool(form.errors or (copying and copying.errors))
    context = {
        "geometry": geometry,
        "shown": shown,
        "form": form,
        "copy_form": copying or CopyForm(None, request.workshop),
        "density": density,
        "infill": infill,
        "grams": shown.mass(density, infill) * 1000,
        "drawing": drawn_type(shown),
        "remarks": remarks(shown),
        "room": mesh.has_room(shown),
        "blocks": [(w, letters, block_on_plate(shown, w)) for w, letters in ORIENTATIONS.items()],
    }
    return render(request, "library/type.html", context, status=422 if refused else 200)


@require_GET
def type_file(request: SeatedRequest, key: str, kind: str) -> HttpResponse:
    """An unmarked mesh of a type."""
    geometry, _ = _geometry(request.workshop, key)
    body = mesh.oriented(mesh.body(geometry), "flat", geometry.turns)
    data = mesh.stl(body) if kind == "stl" else mesh.three_mf([(geometry.name, body, (0, 0))])
    name = f"{key}-mm.stl" if kind == "stl" else f"{key}.3mf"
    return HttpResponse(
        data,
        content_type="model/stl" if kind == "stl" else "model/3mf",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
