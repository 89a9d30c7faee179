"""Recipes: one, two side by side, and what a G-code file says."""

import io
from itertools import groupby
from typing import Any

from django.contrib import messages
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_core.printing.gcode import read_gcode
from brunt_core.printing.recipes import FIELDS, compare_recipes, read_setting
from brunt_web.library.actions.recipes import read_settings, save_recipe
from brunt_web.library.models import Recipe
from brunt_web.library.queries import recipe_of, recipe_used
from brunt_web.people.requests import SeatedRequest

MOST_GCODE_BYTES = 210_000_000


@require_http_methods(["GET", "POST"])
def recipe(request: SeatedRequest, pk: int | None = None) -> HttpResponse:
    """A recipe's settings as a form; saving a used one makes its next version."""
    found = recipe_of(request.workshop, pk) if pk else None
    kind = found.kind if found else request.POST.get("kind") or request.GET.get("kind", "")
    kind = kind if kind in FIELDS else "filament"
    if request.method != "POST":
        typed = {k: s["text"] for k, s in found.settings.items()} if found else {}
        return _recipe_page(request, found, kind, typed, {})
    settings, errors = read_settings(kind, request.POST)
    if not errors:
        try:
            name = found.name if found else request.POST.get("name", "")
            saved = save_recipe(request.workshop, name, kind, settings, found)
            kept = " The one it came from stays as it was." if found and saved.pk != pk else ""
            messages.success(request, f"{saved} is stored.{kept}")
            return redirect("recipe", saved.pk)
        except InputError as error:
            errors[error.field] = error.sentence
    return _recipe_page(request, found, kind, request.POST, errors)


def _recipe_page(
    request: SeatedRequest, found: Recipe | None, kind: str, typed: Any, errors: dict[str, str]
) -> Any:
    rows = [
        {"field": f, "value": typed.get(k, ""), "error": errors.get(k, "")}
        for k, f in FIELDS[kind].items()
    ]
    rows.sort(key=lambda row: row["field"].group)
    others = Recipe.objects.filter(workshop=request.workshop, kind=kind)
    context = {
        "recipe": found,
        "kind": kind,
        "groups": [(g, list(r)) for g, r in groupby(rows, lambda row: row["field"].group)],
        "errors": errors,
        "name": typed.get("name", ""),
        "used": found and recipe_used(found),
        "others": others.exclude(pk=found.pk) if found else others,
    }
    return render(request, "library/recipe.html", context, status=422 if errors else 200)


@require_GET
def difference(request: SeatedRequest, pk: int, other: int) -> HttpResponse:
    """Two recipes side by side, what differs marked."""
    first, second = recipe_of(request.workshop, pk), recipe_of(request.workshop, other)
    rows = compare_recipes(first.kind, first.shown, second.shown)
    return render(
        request,
        "library/difference.html",
        {"first": first, "second": second, "rows": rows, "count": sum(r[4] for r in rows)},
    )


@require_POST
def gcode(request: SeatedRequest) -> HttpResponse:
    """Read a G-code file as a stream; answers with what it found and where. Stores nothing."""
    file = request.FILES.get("gcode")
    kind = request.POST.get("kind", "filament")
    if file is None or file.file is None or kind not in FIELDS:
        return JsonResponse({"error": "Choose a G-code file."}, status=422)
    if (file.size or 0) > MOST_GCODE_BYTES:
        return JsonResponse({"error": "The file has more than 200 MB."}, status=422)
    try:
        facts = read_gcode(io.TextIOWrapper(file.file, encoding="utf-8", errors="replace"))
    except InputError as error:
        return JsonResponse({"error": error.sentence}, status=422)
    return JsonResponse(
        {
            "found": [_found(kind, f) for f in facts.settings.values() if f.key in FIELDS[kind]],
            "lines": facts.lines,
            "filament_m": facts.filament_m,
            "seconds": facts.seconds,
        }
    )


def _found(kind: str, found: Any) -> dict:
    try:
        shown = read_setting(kind, found.key, found.text).shown
        problem = ""
    except InputError as error:
        shown, problem = found.text, error.sentence
    return {
        "key": found.key,
        "label": FIELDS[kind][found.key].label,
        "text": shown,
        "where": found.where,
        "problem": problem,
    }
