"""The library: materials, lots, printers, procedures, rigs."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from brunt_core.errors import InputError
from brunt_core.plausibility.bands import FAMILIES
from brunt_core.printing.checks import damp
from brunt_web.library.actions import lots as lot_actions
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.actions.standard_procedures import ensure_standard_procedures
from brunt_web.library.models import FORMS, Material, Printer, Recipe, Rig
from brunt_web.library.queries import (
    hours_open,
    lot_of,
    lots_of,
    materials_with_use,
    procedures_of_workshop,
)
from brunt_web.people.requests import SeatedRequest

_FIELDS = ("name", "family", "form", "density", "price", "note")


@require_http_methods(["GET", "POST"])
def library(request: SeatedRequest) -> HttpResponse:
    """What the workshop has, and a form for one more of each."""
    ensure_standard_procedures(request.workshop)
    error = None
    if request.method == "POST":
        try:
            messages.success(request, _add(request))
            return redirect("library")
        except InputError as problem:
            error = problem
    now = timezone.now()
    return render(
        request,
        "library/library.html",
        {
            "materials": materials_with_use(request.workshop),
            "procedures": procedures_of_workshop(request.workshop),
            "rigs": Rig.objects.filter(workshop=request.workshop),
            "families": FAMILIES.values(),
            "forms": FORMS.items(),
            "lots": [
                (lot, damp(lot.material.family, hours_open(lot, now)))
                for lot in lots_of(request.workshop)
            ],
            "printers": Printer.objects.filter(workshop=request.workshop),
            "recipes": Recipe.objects.filter(workshop=request.workshop, archived_at__isnull=True),
            "typed": request.POST,
            "adding": request.POST.get("add", "material"),
            "error": error,
        },
        status=422 if error else 200,
    )


def _add(request: SeatedRequest) -> str:
    """Add what the form names; returns what to say."""
    post, shop = request.POST, request.workshop
    if post.get("add") == "lot":
        key = post.get("material", "")
        material = Material.objects.filter(
            workshop=shop, pk=int(key) if key.isdigit() else 0
        ).first()
        typed = {
            **post.dict(),
            "name": post.get("lot_name", ""),
            "price": post.get("lot_price", ""),
        }
        return f"{lot_actions.add_lot(shop, material, typed, timezone.now())} is in the library."
    if post.get("add") == "printer":
        made = lot_actions.add_printer(
            shop,
            post.get("printer_name", ""),
            post.get("printer_kind", "filament"),
            post.get("bed_width", ""),
            post.get("bed_depth", ""),
        )
        return f"{made} is in the library."
    return f"{add_material(shop, **{key: post.get(key, '') for key in _FIELDS})} is in the library."


@require_http_methods(["GET", "POST"])
def lot(request: SeatedRequest, pk: int) -> HttpResponse:
    """One lot: what is left, its dryings, hours in the open."""
    found = lot_of(request.workshop, pk)
    error = None
    if request.method == "POST":
        try:
            if request.POST.get("weigh"):
                lot_actions.set_remaining(found, request.POST.get("remaining", ""))
            else:
                lot_actions.log_drying(found, request.user, request.POST, timezone.now())
            return redirect("lot", pk)
        except InputError as problem:
            error = problem
    hours = hours_open(found, timezone.now())
    return render(
        request,
        "library/lot.html",
        {
            "lot": found,
            "hours": hours,
            "warning": damp(found.material.family, hours),
            "error": error,
            "typed": request.POST,
        },
        status=422 if error else 200,
    )
