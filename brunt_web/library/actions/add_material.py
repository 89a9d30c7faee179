"""Add a material to the library."""

from decimal import Decimal

from brunt_core.errors import InputError
from brunt_core.plausibility.bands import FAMILIES
from brunt_web.library.models import FORMS, Material
from brunt_web.people.models import Workshop


def add_material(
    workshop: Workshop,
    name: str,
    family: str,
    form: str = "filament",
    *,
    density: float | None = None,
    price: Decimal | None = None,
    note: str = "",
) -> Material:
    """Store a material. Density (kg/m³) and price may stay unknown; they are never taken as zero.

    Raises :class:`InputError` with the field for a name that is empty, too long or taken, and
    for a family or form that there is not.
    """
    name = " ".join(name.split())
    if not name:
        raise InputError("Give the material a name.", "name")
    if len(name) > 80:
        raise InputError(f"The name has {len(name)} characters; 80 is the most.", "name")
    if Material.objects.filter(workshop=workshop, name__iexact=name).exists():
        raise InputError(f"There is already a material called {name}.", "name")
    if family not in FAMILIES:
        raise InputError("Choose the polymer family.", "family")
    if form not in FORMS:
        raise InputError("Choose filament, resin or pellet.", "form")
    return Material.objects.create(
        workshop=workshop,
        name=name,
        family=family,
        form=form,
        density=density,
        price=price,
        note=note.strip(),
    )
