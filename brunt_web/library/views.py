"""The library: materials, rigs, procedures."""

from django.contrib import messages
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from brunt_core.errors import InputError
from brunt_core.plausibility.bands import FAMILIES
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.actions.standard_procedures import ensure_standard_procedures
from brunt_web.library.models import FORMS, Rig
from brunt_web.library.queries import materials_with_use, procedures_of_workshop

_FIELDS = ("name", "family", "form", "density", "price", "note")


@require_http_methods(["GET", "POST"])
def library(request):
    """What the workshop has, and a form for one more material."""
    ensure_standard_procedures(request.workshop)
    typed = {key: request.POST.get(key, "") for key in _FIELDS}
    error = None
    if request.method == "POST":
        try:
            added = add_material(request.workshop, **typed)
            messages.success(request, f"{added.name} is in the library.")
            return redirect("library")
        except InputError as problem:
            error = problem
    return render(request, "library/library.html", {
        "materials": materials_with_use(request.workshop), "procedures": procedures_of_workshop(request.workshop),
        "rigs": Rig.objects.filter(workshop=request.workshop), "families": FAMILIES.values(), "forms": FORMS.items(),
        "typed": typed, "error": error}, status=422 if error else 200)
