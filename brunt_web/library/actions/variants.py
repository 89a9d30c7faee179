"""The tester's own specimen types."""

from collections.abc import Mapping

from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.quantities import in_unit, parse
from brunt_core.quantities.numbers import read_number
from brunt_core.specimens.shapes import SHAPES
from brunt_core.specimens.types import SpecimenType, make_type
from brunt_web.library.models import Procedure, SpecimenVariant
from brunt_web.people.models import Workshop


def read_variant(shape: str, name: str, texts: Mapping[str, str]) -> SpecimenType:
    """A geometry from what was typed; raises :class:`InputError` naming the size."""
    if shape not in SHAPES:
        raise InputError("Choose a shape.", "shape")
    sizes = {}
    for key in SHAPES[shape].sizes:
        text = (texts.get(key) or "").strip()
        if text:
            try:
                sizes[key] = (
                    read_number(text.rstrip("° "))
                    if key == "notch_angle"
                    else in_unit(parse(text, "length", "mm").si, "length", "mm")
                )
            except InputError as error:
                raise error.at(key) from None
    return make_type("own", name or "own type", shape, sizes)


@transaction.atomic
def save_variant(
    workshop: Workshop, name: str, shape: str, texts: Mapping[str, str]
) -> SpecimenVariant:
    """Store an own specimen type under a new name."""
    name = " ".join(name.split())[:80]
    if not name:
        raise InputError("Give your specimen type a name.", "name")
    if SpecimenVariant.objects.filter(workshop=workshop, name=name).exists():
        raise InputError(f"There is already a type called {name}.", "name")
    geometry = read_variant(shape, name, texts)
    return SpecimenVariant.objects.create(
        workshop=workshop,
        name=name,
        shape=shape,
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
    name = " ".join(name.split())[:80]
    if not name or Procedure.objects.filter(workshop=workshop, name=name).exists():
        raise InputError("Give the procedure a name of its own.", "procedure_name")
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
        variant=variant,
        specimen_type=specimen_type,
        standard="Like " + base.name + ", on another specimen type",
    )
