"""Reading the library."""

from django.db.models import Count, QuerySet

from brunt_web.library.models import Material, Procedure


def materials_of(workshop) -> QuerySet[Material]:
    """The workshop's materials, by name."""
    return Material.objects.filter(workshop=workshop, archived_at__isnull=True)


def materials_with_use(workshop) -> QuerySet[Material]:
    """Materials with the number of conditions they stand in."""
    return materials_of(workshop).annotate(conditions=Count("condition", distinct=True),
                                           tested=Count("condition__specimens__test", distinct=True))


def procedures_of_workshop(workshop) -> list[Procedure]:
    """The workshop's procedures."""
    return list(Procedure.objects.filter(workshop=workshop, archived_at__isnull=True).select_related("rig"))
