"""Add a material to the library."""

from decimal import Decimal, InvalidOperation

from brunt_core.errors import InputError
from brunt_core.plausibility.bands import FAMILIES
from brunt_core.quantities import parse
from brunt_core.quantities.numbers import read_number
from brunt_web.library.models import FORMS, Material
from brunt_web.people.models import Workshop


def add_material(
    workshop: Workshop,
    name: str,
    family: str,
    form: str = "filament",
    density: str = "",
    price: str = "",
    note: str = "",
) -> Material:
    """Store a material. Density and price may stay unknown; they are never taken as zero.

    Raises :class:`InputError` with the field for a name that is empty or taken and for values
    that cannot be read.
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
        density=_density(density),
        price=_price(price),
        note=note.strip(),
    )


def _density(text: str) -> float | None:
    if not text.strip():
        return None
    try:
        value = parse(text, "density").si
    except InputError as error:
        raise error.at("density") from None
    if not 200 <= value <= 10000:
        raise InputError(
            f"{value / 1000:g} g/cm³ is no density of a plastic; is the unit right?", "density"
        )
    return value


def _price(text: str) -> Decimal | None:
    if not text.strip():
        return None
    try:
        value = Decimal(str(read_number(text.strip(" €$£"))))
    except (InputError, InvalidOperation):
        raise InputError(f"“{text.strip()}” is not a price per kilogram.", "price") from None
    if value < 0:
        raise InputError("A price cannot be negative.", "price")
    return value
