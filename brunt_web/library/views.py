"""The library: materials, lots, printers."""

from functools import partial
from typing import Any

from django.contrib import messages
from django.forms import Form
from django.http import HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_web.interface.typed import kept
from brunt_web.library.actions import lots as lot_actions
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.forms import LotForm, MaterialForm, PrinterForm
from brunt_web.library.models import Lot, Material
from brunt_web.people.requests import SeatedRequest


@require_GET
def adding(request: SeatedRequest) -> HttpResponse:
    """A form for one more material, lot or printer."""
    return _adding_page(request)


def _adding_page(request: SeatedRequest, **refused: Form) -> HttpResponse:
    forms: dict[str, Form] = {
        "material_form": _material_form(),
        "lot_form": _lot_form(request),
        "printer_form": _printer_form(),
        **refused,
    }
    return render(request, "library/adding.html", forms, status=422 if refused else 200)


def _material_form(data: QueryDict | None = None) -> MaterialForm:
    return MaterialForm(data, auto_id="material-%s")


def _lot_form(request: SeatedRequest, data: QueryDict | None = None) -> LotForm:
    return LotForm(data, request.workshop, auto_id="lot-%s")


def _printer_form(data: QueryDict | None = None) -> PrinterForm:
    return PrinterForm(data, auto_id="printer-%s")


@require_POST
def new_material(request: SeatedRequest) -> HttpResponse:
    """One more material."""
    form = _material_form(request.POST)
    made = kept(form, partial(add_material, request.workshop))
    return _added(request, made) if made else _adding_page(request, material_form=form)


@require_POST
def new_lot(request: SeatedRequest) -> HttpResponse:
    """One more lot."""

    def store(material: Material, name: str, opened: bool, **more: Any) -> Lot:
        opened_at = timezone.now() if opened else None
        return lot_actions.add_lot(request.workshop, material, name, opened_at=opened_at, **more)

    form = _lot_form(request, request.POST)
    made = kept(form, store)
    return _added(request, made) if made else _adding_page(request, lot_form=form)


@require_POST
def new_printer(request: SeatedRequest) -> HttpResponse:
    """One more printer."""
    form = _printer_form(request.POST)
    made = kept(form, partial(lot_actions.add_printer, request.workshop))
    return _added(request, made) if made else _adding_page(request, printer_form=form)


def _added(request: SeatedRequest, made: object) -> HttpResponse:
    messages.success(request, f"{made} is in the library.")
    return redirect("library")
