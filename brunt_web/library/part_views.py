"""A custom part: imported, laid, marked, copied."""

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_core.specimens.types import ORIENTATIONS
from brunt_web.interface.typed import kept
from brunt_web.jobs.handing import heavy
from brunt_web.library import part_forms
from brunt_web.library.actions.parts import add_part, copy_part, lay_part, mark_part
from brunt_web.library.actions.variants import copy_procedure
from brunt_web.library.models import PartMesh, Printer, Procedure, SpecimenVariant
from brunt_web.library.part_drawing import rest_pictures, section_picture, sheet
from brunt_web.library.queries import stands_in_a_plan
from brunt_web.library.type_forms import CopyForm, NamedForm
from brunt_web.people.requests import SeatedRequest


def _part(request: SeatedRequest, pk: int) -> SpecimenVariant:
    found = SpecimenVariant.objects.filter(
        workshop=request.workshop, pk=pk, part__isnull=False
    ).first()
    if found is None:
        raise Http404("There is no such part in this workshop.")
    return found


@require_http_methods(["GET", "POST"])
@heavy("Part from a mesh", file_bytes=4_000_000)
def new_part(request: SeatedRequest) -> HttpResponse:
    """Import a mesh file as a custom part."""
    posted = request.method == "POST"
    form = part_forms.PartForm(
        request.POST if posted else None, request.FILES if posted else None, auto_id="part-%s"
    )

    def store(name: str, unit: str, file: object) -> SpecimenVariant:
        upload = form.cleaned_data["file"]
        return add_part(request.workshop, name, upload.read(), upload.name or "", unit)

    made = kept(form, store) if posted else None
    if made:
        for remark in made.mesh.remarks:
            messages.info(request, remark)
        messages.success(request, f"{made.name} is in the library, on its largest face.")
        return redirect("part", made.pk)
    return render(request, "library/new_part.html", {"form": form}, status=422 if posted else 200)


@require_GET
def part(request: SeatedRequest, pk: int) -> HttpResponse:
    """One custom part: drawn from three sides, laid, marked."""
    return _page(request, _part(request, pk))


@require_POST
def lay(request: SeatedRequest, pk: int) -> HttpResponse:
    """Choose the face it rests on."""
    found = _part(request, pk)
    form = part_forms.LieForm(request.POST)
    laid = kept(form, lambda orientation, face: lay_part(found, orientation, face))
    if laid is None:
        return _page(request, found, refused=form)
    return redirect("part", pk)


@require_POST
def mark_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Mark the load, the section, the places; and what it carries."""
    found = _part(request, pk)
    marks, places = part_forms.bound(request.POST, found.part or {})
    if not (marks.is_valid() and places.is_valid()):
        return _page(request, found, forms=(marks, places))
    try:
        mark_part(found, marks.marks(part_forms.places_of(places)))
    except InputError as error:
        field = {"section": "section_at", "direction": "own_direction"}.get(
            error.field, error.field
        )
        marks.add_error(field if field in marks.fields else None, error.sentence)
        return _page(request, found, forms=(marks, places))
    messages.success(request, "Marked.")
    return redirect(f"{reverse('part', args=[pk])}?tool={_tool(request)}")


@require_POST
def copy(request: SeatedRequest, pk: int) -> HttpResponse:
    """The same part under another name."""
    found = _part(request, pk)
    form = NamedForm(request.POST)
    made = kept(form, lambda name: copy_part(found, name))
    if made is None:
        return _page(request, _part(request, pk), refused=form)
    messages.success(request, f"{made.name} is a copy that is not used in a plan yet.")
    return redirect("part", made.pk)


@require_POST
def part_procedure_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """A procedure like another, on this part."""
    found = _part(request, pk)
    form = CopyForm(request.POST, request.workshop)

    def store(procedure: Procedure, name: str) -> Procedure:
        return copy_procedure(request.workshop, procedure, name, found, f"own-{found.pk}")

    made = kept(form, store)
    if made is None:
        return _page(request, found, copying=form)
    messages.success(request, f"{made.name} can be chosen when a question is asked.")
    return redirect("part", pk)


@require_GET
def source(request: SeatedRequest, pk: int) -> HttpResponse:
    """The file the part came from, as it was."""
    mesh = PartMesh.objects.get(variant=_part(request, pk))
    name = mesh.source_name.replace('"', "")
    return HttpResponse(
        bytes(mesh.source),
        content_type="application/octet-stream",
        headers={
            "Content-Disposition": f'attachment; filename="{name.encode("ascii", "ignore").decode() or "part"}"'
        },  # fmt: skip
    )


def _page(
    request: SeatedRequest,
    found: SpecimenVariant,
    refused: object = None,
    forms: tuple[part_forms.MarksForm, object] | None = None,
    copying: CopyForm | None = None,
) -> HttpResponse:
    mesh = PartMesh.objects.defer("content", "source").get(variant=found)
    facts = found.part or {}
    marks, places = forms or part_forms.bound(None, facts)
    geometry = found.geometry
    beds = Printer.objects.filter(archived_at=None, workshop=request.workshop, kind="filament")
    section = facts.get("section") or {}
    context = {
        "variant": found,
        "geometry": geometry,
        "mesh": mesh,
        "facts": facts,
        "sheet": sheet(facts, mesh.views, found.sizes),
        "faces": rest_pictures(mesh.faces),
        "orientations": [(o, facts["rests"][o]) for o in ORIENTATIONS],
        "section": section,
        "section_picture": section_picture(section) if section.get("outlines") else None,
        "grams": geometry.mass(1240.0) * 1000,
        "beds": [(b, _fits(facts["boxes"], b)) for b in beds],
        "planned": stands_in_a_plan(found),
        "marks": marks,
        "places": places,
        "refused": refused,
        "tool": _tool(request),
        "name_form": NamedForm(None),
        "copy_form": copying or CopyForm(None, request.workshop),
    }
    bad = bool(refused or forms or copying)
    return render(request, "library/part.html", context, status=422 if bad else 200)


def _tool(request: SeatedRequest) -> str:
    """What is being marked: a load, a section or a place."""
    said = (request.POST if request.method == "POST" else request.GET).get("tool", "")
    return said if said in ("load", "section", "place") else "load"


def _fits(boxes: dict[str, list[float]], bed: Printer) -> list[str]:
    """The orientations in which it fits a bed, turned by a right angle where that helps."""
    sides = (bed.bed_width, bed.bed_depth)
    return [
        o
        for o, (w, d, _) in boxes.items()
        if any(a <= sides[0] and b <= sides[1] for a, b in ((w, d), (d, w)))
    ]
