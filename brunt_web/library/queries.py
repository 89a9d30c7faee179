"""Reading the library."""

from django.db.models import Count, QuerySet
from django.http import Http404

from brunt_web.library.models import Lot, Material, Procedure, Recipe


def materials_of(workshop) -> QuerySet[Material]:
    """The workshop's materials, by name."""
    return Material.objects.filter(workshop=workshop, archived_at__isnull=True)


def materials_with_use(workshop) -> QuerySet[Material]:
    """Materials with the number of conditions they stand in."""
    return materials_of(workshop).annotate(
        conditions=Count("condition", distinct=True),
        tested=Count("condition__specimens__test", distinct=True),
    )


def procedures_of_workshop(workshop) -> list[Procedure]:
    """The workshop's procedures."""
    return list(
        Procedure.objects.filter(workshop=workshop, archived_at__isnull=True).select_related(
            "rig", "variant"
        )
    )


def lots_of(workshop) -> QuerySet[Lot]:
    """The workshop's lots with their dryings."""
    return (
        Lot.objects.filter(workshop=workshop, archived_at__isnull=True)
        .select_related("material")
        .prefetch_related("dryings")
    )


def hours_open(lot: Lot, now) -> float | None:
    """Hours in the open since the last drying, else since it was opened; ``None`` when neither is known."""
    last = max([d.ended_at for d in lot.dryings.all()], default=None) or lot.opened_at
    return None if last is None else max((now - last).total_seconds() / 3600, 0.0)


def recipe_of(workshop, pk: int) -> Recipe:
    """One recipe of the workshop, or 404."""
    found = Recipe.objects.filter(workshop=workshop, pk=pk).first()
    if found is None:
        raise Http404("There is no such recipe in this workshop.")
    return found


def recipe_used(recipe: Recipe) -> bool:
    """Whether a batch was printed or a campaign planned with it: then it is never edited."""
    return recipe.batch_set.exists() or recipe.condition_set.exists()


def lot_of(workshop, pk: int) -> Lot:
    """One lot of the workshop, or 404."""
    found = lots_of(workshop).filter(pk=pk).first()
    if found is None:
        raise Http404("There is no such lot in this workshop.")
    return found
