"""The library: materials as swatches, lots, recipes, printers, procedures."""

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from brunt_web.comparison.swatches import swatches
from brunt_web.library.models import Printer, Recipe, Rig
from brunt_web.library.queries import procedures_of_workshop
from brunt_web.people.requests import SeatedRequest


@require_GET
def library(request: SeatedRequest) -> HttpResponse:
    """What the workshop has, and what is known of it."""
    shop = request.workshop
    found = swatches(shop, timezone.now())
    context = {
        "swatches": found,
        "lots": [pair for one in found for pair in one.lots],
        "procedures": procedures_of_workshop(shop),
        "rigs": Rig.objects.filter(archived_at=None, workshop=shop),
        "printers": Printer.objects.filter(archived_at=None, workshop=shop),
        "recipes": Recipe.objects.filter(workshop=shop, archived_at__isnull=True),
    }
    return render(request, "library/library.html", context)
