"""Recipes: save one, copying it when it has been used; take settings from a G-code file."""

from collections.abc import Mapping

from django.db import transaction
from django.db.models import Max

from brunt_core.errors import InputError
from brunt_core.printing.recipes import FIELDS, read_setting
from brunt_web.library.models import KINDS, Recipe
from brunt_web.library.queries import recipe_used
from brunt_web.people.models import Workshop


def kept_setting(kind: str, key: str, text: str) -> dict[str, object]:
    """One setting as a recipe keeps it. Raises :class:`InputError` for text that cannot be read."""
    read = read_setting(kind, key, text)
    return {"text": read.text, "value": read.value, "shown": read.shown}


def read_settings(kind: str, texts: Mapping[str, str]) -> dict[str, dict[str, object]]:
    """A recipe's settings from texts. Raises :class:`InputError` for the first that cannot be read."""
    return {k: kept_setting(kind, k, texts[k]) for k in FIELDS[kind] if texts.get(k, "").strip()}


@transaction.atomic
def save_recipe(
    workshop: Workshop,
    name: str,
    kind: str,
    settings: Mapping,
    recipe: Recipe | None = None,
    reason: str = "",
) -> Recipe:
    """Store a new recipe, change one that was never used, or make the next version of one that was.

    Raises :class:`InputError` for a name that is empty or taken, and when nothing changed.
    """
    name = " ".join(name.split())[:80]
    if not name:
        raise InputError("Give the recipe a name.", "name")
    if kind not in KINDS:
        raise InputError("Choose filament or resin.", "kind")
    if recipe is None:
        if Recipe.objects.filter(workshop=workshop, name=name).exists():
            raise InputError(
                f"There is already a recipe called {name}; open it and change it.", "name"
            )
        return Recipe.objects.create(
            workshop=workshop, name=name, kind=kind, settings=dict(settings)
        )
    if dict(settings) == recipe.settings:
        raise InputError("Nothing is different from the stored version.", "name")
    if not recipe_used(recipe):
        recipe.settings, recipe.reason = dict(settings), reason.strip()[:300] or recipe.reason
        recipe.save(update_fields=["settings", "reason"])
        return recipe
    last = Recipe.objects.filter(workshop=workshop, name=recipe.name).aggregate(
        last=Max("version")
    )["last"]
    return Recipe.objects.create(
        workshop=workshop,
        name=recipe.name,
        version=last + 1,
        kind=recipe.kind,
        settings=dict(settings),
        parent=recipe,
        reason=reason.strip()[:300],
    )
