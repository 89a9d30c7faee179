"""Recipes: one, two side by side, and what a G-code file says."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_core.printing.gcode import FoundSetting
from brunt_core.printing.recipes import FIELDS, compare_recipes, read_setting
from brunt_web.interface.edit_conflicts import fingerprint
from brunt_web.interface.typed import checked, kept, whole
from brunt_web.jobs.handing import heavy
from brunt_web.jobs.lines import GCODE_AT_ONCE, gcode_facts
from brunt_web.library.actions.recipes import recipe_words, save_recipe
from brunt_web.library.models import Recipe
from brunt_web.library.queries import recipe_of, recipe_used
from brunt_web.library.recipe_cut import drawn_cut
from brunt_web.library.recipe_forms import BesideForm, GcodeForm, RecipeForm, RecipeKindForm
from brunt_web.people.requests import SeatedRequest


@require_http_methods(["GET", "POST"])
def new_recipe(request: SeatedRequest) -> HttpResponse:
    """A new recipe's settings as a form."""
    posted = request.method == "POST"
    kind = RecipeKindForm(request.POST if posted else request.GET).chosen
    form = RecipeForm(request.POST if posted else None, kind, {}, new=True)
    saved = posted and _save(request, form, None)
    return redirect("recipe", saved.pk) if saved else _recipe_page(request, None, form)


@require_http_methods(["GET", "POST"])
def recipe_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """A recipe's settings as a form; saving a used one makes its next version."""
    found, posted = recipe_of(request.workshop, pk), request.method == "POST"
    typed = {k: s["text"] for k, s in found.settings.items()}
    form = RecipeForm(request.POST if posted else None, found.kind, typed, new=False)
    saved = posted and _save(request, form, found)
    return redirect("recipe", saved.pk) if saved else _recipe_page(request, found, form)


def _save(request: SeatedRequest, form: RecipeForm, found: Recipe | None) -> Recipe | None:
    def store(**told: Any) -> Recipe:
        name = found.name if found else told["name"]
        reason = told.get("reason", "")
        seen = request.POST.get("seen", "")
        return save_recipe(
            request.workshop, name, form.kind, form.settings, recipe=found, reason=reason, seen=seen
        )

    saved = kept(form, store)
    if saved:
        copied = found and saved.pk != found.pk
        stays = " The earlier version is unchanged." if copied else ""
        messages.success(request, f"{saved} is stored.{stays}")
    return saved


def _recipe_page(request: SeatedRequest, found: Recipe | None, form: RecipeForm) -> HttpResponse:
    others = Recipe.objects.filter(workshop=request.workshop, kind=form.kind)
    beside = BesideForm(request.GET or None, request.workshop, form.kind, found)
    context = {
        "recipe": found,
        "kind": form.kind,
        "form": form,
        "seen": fingerprint(recipe_words(found)),
        "beside": beside,
        **_drawn(form, beside, found),
        "newer": found and found.children.order_by("version").first(),
        "versions": found
        and Recipe.objects.filter(workshop=request.workshop, name=found.name).order_by("version"),
        "used": found and recipe_used(found),
        "others": others.exclude(pk=found.pk) if found else others,
    }
    return render(request, "library/recipe.html", context, status=422 if form.errors else 200)


@require_POST
def cut_view(request: SeatedRequest) -> HttpResponse:
    """The drawing for what is typed so far; nothing is stored."""
    kind = RecipeKindForm(request.POST).chosen
    found = Recipe.objects.filter(
        workshop=request.workshop, pk=whole(request.POST.get("recipe")) or 0
    ).first()
    form = RecipeForm(request.POST, kind, {}, new=False)
    beside = BesideForm(request.POST, request.workshop, kind, found)
    return render(
        request, "library/_recipe_drawn.html", _drawn(form, beside, found) | {"live": True}
    )


def _drawn(form: RecipeForm, beside: BesideForm, found: Recipe | None) -> dict[str, Any]:
    """The recipe as typed, beside the version it is compared with."""
    if form.is_bound:
        form.is_valid()
        settings = form.settings
    else:
        settings = dict(found.settings) if found else {}
    other = beside.other
    problems = [str(errors[0]) for key, errors in form.errors.items() if key in FIELDS[form.kind]]
    return {
        "drawn": drawn_cut(
            form.kind, settings, other.settings if other else None, beside.section, beside.of
        ),
        "other": other,
        "problems": problems,
        "section": beside.section,
        "material": beside.of,
    }


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
@heavy("G-code", file_bytes=GCODE_AT_ONCE)
def gcode(request: SeatedRequest) -> HttpResponse:
    """Read a G-code file as a stream; answers with what it found and where. Stores nothing."""
    form = GcodeForm(request.POST, request.FILES)
    try:
        told = checked(form)
        facts = gcode_facts(told["gcode"])
    except InputError as error:
        return JsonResponse({"error": error.sentence}, status=422)
    kind = form.chosen
    return JsonResponse(
        {
            "found": [_found(kind, f) for f in facts.settings.values() if f.key in FIELDS[kind]],
            "lines": facts.lines,
            "filament_m": facts.filament_m,
            "seconds": facts.seconds,
        }
    )


def _found(kind: str, found: FoundSetting) -> dict[str, str]:
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
