"""A material's own page."""

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from brunt_web.checks.models import CheckStandard
from brunt_web.comparison.material_view import HIGH, WIDE, blocks_of
from brunt_web.library.models import Material
from brunt_web.people.requests import SeatedRequest
from brunt_web.printing.ease import ease_of


@require_GET
def material(request: SeatedRequest, pk: int) -> HttpResponse:
    """All that was ever measured of a material."""
    found = Material.objects.filter(workshop=request.workshop, pk=pk).first()
    if found is None:
        raise Http404("There is no such material in this workshop.")
    context = {
        "material": found,
        "blocks": blocks_of(found),
        "lots": found.lots.order_by("-opened_at", "name"),
        "checks": CheckStandard.objects.filter(material=found, archived_at=None),
        "ease": ease_of(request.workshop, found.pk).get(found.pk),
        "size": {"wide": WIDE, "high": HIGH},
    }
    return render(request, "comparison/material.html", context)
