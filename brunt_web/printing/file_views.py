"""What leaves the Print print stage: meshes, plates, labels, photos."""

from math import ceil
from typing import Any

from django.core.paginator import Paginator
from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from brunt_core.identifiers import label_text
from brunt_core.specimens import mesh
from brunt_core.specimens.marking import NOZZLE
from brunt_web.campaigns.models import Specimen
from brunt_web.campaigns.queries import campaign_of, progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.people.requests import SeatedRequest
from brunt_web.printing import queries
from brunt_web.printing.labels import SHEETS, code_svg
from brunt_web.printing.models import Grade, Print
from brunt_web.printing.queries import nozzle_of

MOST_LABELS = 600
MODEL_3MF = "model/3mf"


@require_GET
def plate_file(request: SeatedRequest, pk: int, plate: int) -> HttpResponse:
    """One whole plate as 3MF, each object named by its specimen's ID."""
    found = queries.batch_of(request.workshop, pk)
    chosen = next((p for p in queries.plates_of(found) if p.number == plate), None)
    if chosen is None:
        raise Http404("This batch has no such plate.")
    parts = [
        (
            p.specimen.code,
            _marked(p.specimen, nozzle_of(found, chosen.plate.settings)),
            (p.x, p.y),
        )
        for p in chosen.prints
        if not p.failed
    ]
    return _download(mesh.three_mf(parts), MODEL_3MF, f"batch-{found.number}-plate-{plate}.3mf")


@require_GET
def specimen_file(request: SeatedRequest, code: str, kind: str) -> HttpResponse:
    """One specimen with its ID, as STL (mm) or 3MF."""
    specimen = (
        Specimen.objects.filter(workshop=request.workshop, code=code)
        .select_related("procedure__variant", "condition")
        .first()
    )
    if specimen is None:
        raise Http404(f"There is no specimen {code} in this workshop.")
    placed = Print.objects.filter(specimen=specimen).select_related("plate__batch__recipe").first()
    body = _marked(
        specimen, nozzle_of(placed.plate.batch, placed.plate.settings) if placed else NOZZLE
    )
    if kind == "stl":
        return _download(mesh.stl(body), "model/stl", f"{code}-mm.stl")
    return _download(mesh.three_mf([(code, body, (0, 0))]), MODEL_3MF, f"{code}.3mf")


def _marked(specimen: Specimen, nozzle: float) -> Any:
    """A specimen with its ID, as it stands on the plate."""
    geometry = specimen.geometry
    cut = mesh.marked(geometry, specimen.code, nozzle)
    return mesh.oriented(cut, specimen.orientation, geometry.turns)


def _download(body: bytes, kind: str, name: str) -> HttpResponse:
    return HttpResponse(
        body, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@require_GET
def labels(request: SeatedRequest, pk: int) -> HttpResponse:
    """A4 sheet of ID labels with a scannable code."""
    campaign = campaign_of(request.workshop, pk)
    specimens = campaign.specimens.select_related("condition__material", "procedure").order_by(
        "procedure_id", "condition__position", "replicate"
    )
    sheet = SHEETS.get(request.GET.get("turn", ""), SHEETS["portrait"])
    stack = Paginator(specimens, sheet.holds * max(MOST_LABELS // sheet.holds, 1)).get_page(
        request.GET.get("page")
    )
    rows = [(s, code_svg(label_text(s.code, s.uuid)), _material_too(s)) for s in stack]
    return render(
        request,
        "printing/labels.html",
        {
            "rows": rows,
            "stack": stack,
            "sheet": sheet,
            "sheets": SHEETS.values(),
            "pages": ceil(len(rows) / sheet.holds),
            **campaign_surroundings(campaign, "print", progress(campaign)),
        },
    )


def _material_too(specimen: Specimen) -> str:
    """The material's name where the condition's does not say it."""
    material = specimen.condition.material
    return material.name if material and material.name not in str(specimen.condition) else ""


@require_GET
def print_photo_view(request: SeatedRequest, pk: int) -> FileResponse:
    """A grade's photo, to those of its workshop."""
    found = (
        Grade.objects.filter(pk=pk, batch__campaign__workshop=request.workshop)
        .exclude(photo="")
        .first()
    )
    if found is None:
        raise Http404("There is no such photo.")
    return FileResponse(found.photo.open(), content_type="image/jpeg")
