"""Procedures and rigs: what there is, and one more."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from brunt_core.errors import InputError
from brunt_core.methods.registry import methods
from brunt_core.properties import PROPERTIES
from brunt_core.specimens.types import ORIENTATIONS, TYPES
from brunt_web.library.actions.procedures import RIG_DIMENSIONS, add_procedure, add_rig
from brunt_web.library.actions.standard_procedures import STARTERS, ensure_starter
from brunt_web.library.models import Rig, SpecimenVariant
from brunt_web.library.queries import procedures_of_workshop
from brunt_web.people.requests import SeatedRequest


@require_http_methods(["GET", "POST"])
def procedures(request: SeatedRequest) -> HttpResponse:
    """The workshop's procedures and rigs, and forms for one more."""
    error = None
    if request.method == "POST":
        try:
            messages.success(request, _add(request))
            return redirect("procedures")
        except InputError as problem:
            error = problem
    key = request.POST.get("method") or request.GET.get("method", "tension")
    chosen = methods().get(key, methods()["tension"])
    mine = procedures_of_workshop(request.workshop)
    names = {p.name for p in mine}
    return render(
        request,
        "library/procedures.html",
        {
            "procedures": mine,
            "rigs": Rig.objects.filter(workshop=request.workshop),
            "starters": [s for s in STARTERS if s.name not in names],
            "methods": methods().values(),
            "chosen": chosen,
            "yields": _yields(chosen),
            "fixed": [(i, request.POST.get(f"p-{i.key}", "")) for i in chosen.fixed],
            "types": TYPES.values(),
            "variants": SpecimenVariant.objects.filter(
                workshop=request.workshop, archived_at__isnull=True
            ),
            "orientations": ORIENTATIONS,
            "dimensions": RIG_DIMENSIONS.items(),
            "typed": request.POST,
            "error": error,
        },
        status=422 if error else 200,
    )


def _yields(method: Any) -> list:
    """The properties a method yields, each once; none to choose from when there is one."""
    keys = list(dict.fromkeys(r.property for r in method.results))
    return [PROPERTIES[key] for key in keys] if len(keys) > 1 else []


def _add(request: SeatedRequest) -> str:
    shop, post = request.workshop, request.POST
    if post.get("add") == "rig":
        return f"{add_rig(shop, post.dict())} is in the library."
    if post.get("add") == "starter":
        starter = next((s for s in STARTERS if s.name == post.get("starter")), None)
        if starter is None:
            raise InputError("There is no such procedure to start from.", "starter")
        rigs = {r.dimension: r for r in Rig.objects.filter(workshop=shop)}
        return f"{ensure_starter(shop, starter, rigs)} is in the library."
    return f"{add_procedure(shop, post.dict())} is in the library."
