"""Reading the library."""

from collections.abc import Iterable
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


def procedure_of(workshop: Workshop, pk: int) -> Procedure:
    """One of the workshop's procedures with its rig and type, else 404."""
    rows = Procedure.objects.filter(workshop=workshop, pk=pk).select_related("rig", "variant")
    found = rows.first()
    if found is None:
        raise Http404("There is no such procedure in this workshop.")
    return found


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
        .prefetch_related("dryings", "sealings", "mixed_of__of__material")
    )


def hours_open(lot: Lot, now: datetime) -> float | None:
    """Hours in the open since the last drying, else since it was opened; ``None`` when neither is known.

    Hours in a sealed box do not count, nor those of a drying that runs.
    """
    dryings = list(lot.dryings.all())
    ended = [d.ended_at for d in dryings if d.ended_at and d.ended_at <= now]
    last = max(ended, default=None) or lot.opened_at
    if last is None:
        return None
    running = [d.started_at for d in dryings if not d.ended_at and d.started_at]
    until = min([now, *(s for s in running if s >= last)])
    shut = [(s.since, s.until or now) for s in lot.sealings.all()]
    return open_seconds(last, until, shut) / 3600


def open_seconds(
    start: datetime, end: datetime, shut: Iterable[tuple[datetime, datetime]]
) -> float:
    """Seconds from start to end that lie in none of the spans, which may overlap.

    >>> at = datetime.fromisoformat
    >>> open_seconds(at("2026-01-01T08:00"), at("2026-01-01T18:00"),
    ...              [(at("2026-01-01T07:00"), at("2026-01-01T09:00")), (at("2026-01-01T08:30"), at("2026-01-01T10:00"))])
    28800.0
    """
    left, at = 0.0, start
    for since, until in sorted(shut):
        if until <= at or since >= end:
            continue
        left += max((since - at).total_seconds(), 0.0)
        at = max(at, min(until, end))
    return left + max((end - at).total_seconds(), 0.0)


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
