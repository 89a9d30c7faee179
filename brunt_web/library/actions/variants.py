"""The tester's custom specimen types."""

from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.specimens.types import SpecimenType
from brunt_web.library.models import Procedure, SpecimenVariant
from brunt_web.people.models import Workshop


@transaction.atomic
def save_variant(workshop: Workshop, name: str, geometry: SpecimenType) -> SpecimenVariant:
    """Store an own specimen type under a new name."""
    if not name:
        raise InputError("Give your specimen type a name.", "name")
    if SpecimenVariant.objects.filter(workshop=workshop, name=name).exists():
        raise InputError(f"There is already a type called {name}.", "name")
    return SpecimenVariant.objects.create(
        workshop=workshop,
        name=name,
        shape=geometry.shape_key,
        sizes={k: round(v, 6) for k, v in geometry.sizes.items()},
    )


@transaction.atomic
def copy_procedure(
    workshop: Workshop,
    base: Procedure,
    name: str,
    variant: SpecimenVariant | None,
    specimen_type: str,
) -> Procedure:
    """A procedure like another, on another specimen type."""
    name = " ".join(name.split())
    if not name or Procedure.objects.filter(workshop=workshop, name=name).exists():
        raise InputError("Give the procedure a name of its own.", "name")
    return Procedure.objects.create(
        workshop=workshop,
        name=name,
        method_key=base.method_key,
        orientation=base.orientation,
        rig=base.rig,
        speed=base.speed,
        preload=base.preload,
        conditioning=base.conditioning,
        parameters=base.parameters,
        reading_times=base.reading_times,
        ranked_by=base.ranked_by,
        destroys=base.destroys,
        sizes=base.sizes,
        variant=variant,
        specimen_type=specimen_type,
        standard="Like " + base.name + ", on another specimen type",
    )
