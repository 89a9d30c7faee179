"""Reading the library."""

from datetime import datetime

from django.db.models import Count, QuerySet
from django.http import Http404

from brunt_web.library.models import Lot, Material, Procedure, Recipe, SpecimenVariant
from brunt_web.people.models import Workshop


def materials_of(workshop: Workshop) -> QuerySet[Material]:
    """The workshop's materials, by name."""
    return Material.objects.filter(workshop=workshop, archived_at__isnull=True)


def materials_with_use(workshop: Workshop) -> QuerySet[Material]:
    """Materials with the number of conditions they stand in."""
    return materials_of(workshop).annotate(conditions=Count("condition", distinct=True))


def procedures_of_workshop(workshop: Workshop) -> list[Procedure]:
    """The workshop's procedures."""
    return list(
        Procedure.objects.filter(workshop=workshop, archived_at__isnull=True).select_related(
            "rig", "variant"
        )
    )


def lots_of(workshop: Workshop) -> QuerySet[Lot]:
    """The workshop's lots with their dryings."""
    return (
        Lot.objects.filter(workshop=workshop, archived_at__isnull=True)
        .select_related("material")
        .prefetch_related("dryings")
    )


def hours_open(lot: Lot, now: datetime) -> float | None:
    """Hours in the open since the last drying, else since it was opened; ``None`` when neither is known."""
    ended = [d.ended_at for d in lot.dryings.all() if d.ended_at <= now]
    last = max(ended, default=None) or lot.opened_at
    return None if last is None else max((now - last).total_seconds() / 3600, 0.0)


def recipe_of(workshop: Workshop, pk: int) -> Recipe:
    """One recipe of the workshop, or 404."""
    found = Recipe.objects.filter(workshop=workshop, pk=pk).first()
    if found is None:
        raise Http404("There is no such recipe in this workshop.")
    return found


def recipe_used(recipe: Recipe) -> bool:
    """Whether anything was planned or printed with it: then it is never edited."""
    uses = (r for r in recipe._meta.related_objects if r.related_model is not Recipe)
    return any(
        r.related_model._default_manager.filter(**{r.field.name: recipe}).exists() for r in uses
    )


def lot_of(workshop: Workshop, pk: int) -> Lot:
    """One lot of the workshop, or 404."""
    found = lots_of(workshop).filter(pk=pk).first()
    if found is None:
        raise Http404("There is no such lot in this workshop.")
    return found


def stands_in_a_plan(variant: SpecimenVariant) -> bool:
    """Whether anything was planned with one of the workshop's own types: then it stays as it is."""
    own = variant._meta.app_label
    return any(
        related.related_model._default_manager.filter(**{related.field.name: row}).exists()
        for row in (variant, *Procedure.objects.filter(variant=variant))
        for related in row._meta.related_objects
        if related.related_model._meta.app_label != own
    )
