"""Recipes: save one, copying it when it has been used; take settings from a G-code file."""

from collections.abc import Mapping

from django.db import transaction
from django.db.models import Max

from brunt_core.errors import InputError
from brunt_core.printing.recipes import FIELDS, read_setting
from brunt_web.library.models import KINDS, Recipe
from brunt_web.library.queries import recipe_used
from brunt_web.people.models import Workshop


def read_settings(kind: str, texts: Mapping[str, str]) -> tuple[dict, dict[str, str]]:
    """Settings that could be read, and a sentence for each that could not."""
    settings, errors = {}, {}
    for key in FIELDS[kind]:
        text = (texts.get(key) or "").strip()
        if not text:
            continue
        try:
            read = read_setting(kind, key, text)
            settings[key] = {"text": read.text, "value": read.value, "shown": read.shown}
        except InputError as error:
            errors[key] = error.sentence
    return settings, errors


@transaction.atomic
def save_recipe(
    workshop: Workshop, name: str, kind: str, settings: Mapping, recipe: Recipe | None = None
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
        recipe.settings = dict(settings)
        recipe.save(update_fields=["settings"])
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
    )
