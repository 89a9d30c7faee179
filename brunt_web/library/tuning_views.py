"""Bringing a recipe up: short prints that step one setting, and the version each leads to."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.printing.recipes import FIELDS
from brunt_core.printing.tuning import TRIALS, Judged
from brunt_web.interface.typed import kept
from brunt_web.library.actions.tuning import judged_trial, tuning
from brunt_web.library.models import Recipe, Tuning
from brunt_web.library.queries import recipe_of
from brunt_web.library.tuning_forms import TrialForm, chosen_trial
from brunt_web.people.requests import SeatedRequest


def _filament(request: SeatedRequest, pk: int) -> Recipe:
    found = recipe_of(request.workshop, pk)
    if found.kind != "filament":
        raise Http404("Towers are printed from filament; a resin is tuned by its exposure.")
    return found


@require_GET
def tuning_page_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """The trials there are, one of them open, and those done before."""
    recipe = _filament(request, pk)
    trial, setting = chosen_trial(recipe, request.GET)
    return _page(request, recipe, TrialForm(None, recipe, trial, setting))


@require_POST
def tuning_look_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """What the trial says so far; nothing is stored."""
    recipe = _filament(request, pk)
    trial, setting = chosen_trial(recipe, request.POST)
    form = TrialForm(request.POST, recipe, trial, setting)
    return render(request, "library/_trial_says.html", _says(recipe, form))


@require_POST
def adopt(request: SeatedRequest, pk: int) -> HttpResponse:
    """Keep the trial and make the version it says."""
    return _keep(request, pk, adopted=True)


@require_POST
def tuning_keep_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Keep the trial, and leave the recipe as it is."""
    return _keep(request, pk, adopted=False)


def _keep(request: SeatedRequest, pk: int, *, adopted: bool) -> HttpResponse:
    recipe = _filament(request, pk)
    trial, setting = chosen_trial(recipe, request.POST)
    form = TrialForm(request.POST, recipe, trial, setting)

    def store(**_: Any) -> Tuning:
        return tuning(recipe, request.user, timezone.now(), form.draft(), adopted)

    made = kept(form, store)
    if made is None:
        return _page(request, recipe, form)
    if made.made:
        messages.success(request, f"{made.words} {made.made} is stored.")
        return redirect("recipe", made.made.pk)
    stays = f"{recipe} says {made.chosen} already." if adopted else f"{recipe} is unchanged."
    messages.success(request, f"{made.words} {stays}")
    return redirect("tuning", pk)


def _says(recipe: Recipe, form: TrialForm) -> dict[str, Any]:
    """What the trial comes to, or what it still lacks."""
    says: Judged | None = None
    lacks = ""
    if form.is_bound and form.is_valid():
        try:
            says = judged_trial(recipe, form.draft())
        except InputError as error:
            lacks = error.sentence
    return {"says": says, "lacks": lacks, "unit": FIELDS[recipe.kind][form.setting].unit, "form": form}  # fmt: skip


def _page(request: SeatedRequest, recipe: Recipe, form: TrialForm) -> HttpResponse:
    done = Tuning.objects.filter(
        recipe__workshop=request.workshop, recipe__name=recipe.name
    ).select_related("recipe", "made", "lot__material", "by")
    context = {
        "recipe": recipe,
        "trials": TRIALS.values(),
        "trial": form.trial,
        "setting": form.setting,
        "settings": [
            (s, FIELDS[recipe.kind][s].label)
            for s in form.trial.settings
            if s in FIELDS[recipe.kind]
        ],
        "done": done,
        **_says(recipe, form),
    }
    return render(request, "library/tuning.html", context, status=422 if form.errors else 200)
