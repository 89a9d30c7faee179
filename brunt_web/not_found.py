"""A page of another workshop, opened after its person went on to this one: it says so and offers the way back."""

from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.models import User
from django.db.models import Model
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import Resolver404, resolve

from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.checks.models import CheckStandard
from brunt_web.decisions.models import LoadCase
from brunt_web.interface import views
from brunt_web.library.models import Lot, Material, Procedure, Recipe, Rig, SpecimenVariant
from brunt_web.people.models import Workshop
from brunt_web.printing.models import Batch
from brunt_web.testing.names import TurnName

# What a page is of, by how its address begins, and the path from it to its workshop.
_OF: dict[str, tuple[type[Model], str]] = {
    "campaigns": (Campaign, "workshop"),
    "batches": (Batch, "campaign__workshop"),
    "load-cases": (LoadCase, "campaign__workshop"),
    "checks": (CheckStandard, "workshop"),
    "procedures": (Procedure, "workshop"),
    "library/materials": (Material, "workshop"),
    "library/lots": (Lot, "workshop"),
    "library/recipes": (Recipe, "workshop"),
    "library/rigs": (Rig, "workshop"),
    "library/procedures": (Procedure, "workshop"),
    "library/parts": (SpecimenVariant, "workshop"),
}


@login_not_required
def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """404; where the page is of a workshop that its person belongs to as well, with the way there."""
    shop = _workshop_of(request) if request.method == "GET" else None
    if shop is None:
        return views.not_found_view(request, exception)
    words = {
        "title": "A page of another workshop",
        "happened": f"This page belongs to the workshop “{shop}”; you are in “{request.workshop}” now.",  # type: ignore[attr-defined]
        "todo": "Switch back to open it, or stay here.",
        "switch_to": shop,
        "back": request.get_full_path(),
    }
    return render(request, "interface/sorry.html", words, status=404)


def _workshop_of(request: HttpRequest) -> Workshop | None:
    """The workshop, of those that are open to the person, in which the address names something."""
    if not isinstance(request.user, User) or not hasattr(request, "seat"):
        return None
    others = list(request.seat.also.all())
    if not others:
        return None
    try:
        given = resolve(request.path).kwargs
    except Resolver404:
        return None
    code = given.get("code") or getattr(given.get("at"), "code", None)
    if isinstance(given.get("at"), TurnName) or code:
        found = Specimen.objects.filter(workshop__in=others, code=code).first()
        return found.workshop if found else None
    parts = request.path.strip("/").split("/")
    kind = _OF.get("/".join(parts[:2])) or _OF.get(parts[0])
    if kind is None or "pk" not in given:
        return None
    model, path = kind
    rows = model._default_manager.filter(pk=given["pk"], **{f"{path}__in": others})
    pk = rows.values_list(path, flat=True).first()
    return next((s for s in others if s.pk == pk), None)
