"""Recipes: save one, copying it when it has been used; take settings from a G-code file."""

from collections.abc import Mapping

from django.db import transaction
from django.db.models import Max

from brunt_core.errors import InputError
from brunt_core.printing.recipes import FIELDS, read_setting
from brunt_web.changes.reading import last_by
from brunt_web.interface.edit_conflicts import refuse_overtaken
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


_NEWEST = "the newest version"


def _versions(recipe: Recipe) -> list[int]:
    found = Recipe.objects.filter(workshop_id=recipe.workshop_id, name=recipe.name)
    return list(found.order_by("version").values_list("pk", flat=True))


def recipe_words(recipe: Recipe | None) -> dict[str, str]:
    """A recipe as it stands, by what each setting is called, with the version its name has come to."""
    if recipe is None:
        return {}
    found = Recipe.objects.filter(workshop_id=recipe.workshop_id, name=recipe.name)
    labels = {k: f.label.lower() for k, f in FIELDS[recipe.kind].items()}
    said = {labels.get(k, k): str(s["text"]) for k, s in recipe.settings.items()}
    newest = found.order_by("-version").values_list("version", flat=True).first()
    return said | {_NEWEST: str(newest)}


@transaction.atomic
def save_recipe(
    workshop: Workshop,
    name: str,
    kind: str,
    settings: Mapping,
    recipe: Recipe | None = None,
    reason: str = "",
    seen: str = "",
) -> Recipe:
    """Store a new recipe, change one that was never used, or make the next version of one that was.

    ``seen`` is the mark of :func:`recipe_words` as it was shown.
    Raises :class:`InputError` for a name that is empty or taken, when nothing changed, and when
    somebody else has changed it or made its next version meanwhile.
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
    recipe = Recipe.objects.select_for_update().get(pk=recipe.pk)
    standing = recipe_words(recipe)
    labels = {k: f.label.lower() for k, f in FIELDS[kind].items()}
    mine = {labels[k]: str(s["text"]) for k, s in settings.items() if k in labels}
    newer = {k: v for k, v in standing.items() if k == _NEWEST}
    refuse_overtaken(
        seen, standing, mine | newer, lambda: last_by("library_recipe", _versions(recipe))
    )
    if dict(settings) == recipe.settings:
        raise InputError("Nothing differs from the saved version.", "name")
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
