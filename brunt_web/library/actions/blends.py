"""A blend of several lots, as a lot of its own."""

from collections.abc import Sequence
from decimal import Decimal

from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.printing.blends import Ingredient, blend
from brunt_web.library.models import BlendPart, Lot, Material
from brunt_web.people.models import Workshop


@transaction.atomic
def mix(
    workshop: Workshop,
    name: str,
    parts: Sequence[tuple[Lot, float]],
    material: Material | None = None,
    called: str = "",
) -> Lot:
    """Mix lots, each with so many kg, into a new one; what they hold grows less.

    It is kept as a lot of ``material``, of the one material all parts are of, or of a new one
    ``called`` so, with the density and price of its proportions. Raises :class:`InputError` for less
    than two lots, one named twice, unlike forms, and more than a lot holds.
    """
    known = {
        x.pk: x
        for x in Lot.objects.select_for_update()
        .filter(workshop=workshop, pk__in=[lot.pk for lot, _ in parts])
        .select_related("material")
    }
    if len(known) != len(parts):
        raise InputError("One lot is named twice." if parts else "Name two lots at least.", "parts")
    lots = [(known[lot.pk], mass) for lot, mass in parts]
    mixed = blend([Ingredient(m, x.material.density, x.price_per_kg) for x, m in lots])
    if len({x.material.form for x, _ in lots}) > 1:
        raise InputError("Filament, resin and pellets do not mix.", "parts")
    for lot, mass in lots:
        if lot.remaining is not None and mass > lot.remaining + 1e-9:
            raise InputError(f"{lot} has {lot.remaining * 1e3:.0f} g left, less than {mass * 1e3:.0f} g.", "parts")  # fmt: skip
    kept_as = _material(workshop, lots, mixed.density, mixed.price and mixed.price / mixed.mass, material, called)  # fmt: skip
    if Lot.objects.filter(material=kept_as, name=name).exists():
        raise InputError(f"{kept_as} has a lot {name} already.", "name")
    made = Lot.objects.create(
        workshop=workshop,
        material=kept_as,
        name=name,
        bought=mixed.mass,
        remaining=mixed.mass,
        price=None if mixed.price is None else Decimal(f"{mixed.price:.2f}"),
        opened_at=max((x.opened_at for x, _ in lots if x.opened_at), default=None),
    )
    BlendPart.objects.bulk_create(BlendPart(lot=made, of=x, mass=m) for x, m in lots)
    for lot, mass in lots:
        if lot.remaining is not None:
            lot.remaining = max(lot.remaining - mass, 0.0)
            lot.save(update_fields=["remaining"])
    return made


def _material(
    workshop: Workshop,
    lots: Sequence[tuple[Lot, float]],
    density: float | None,
    price: float | None,
    material: Material | None,
    called: str,
) -> Material:
    form = lots[0][0].material.form
    if material is not None:
        if material.form != form:
            raise InputError(
                f"{material} is {material.get_form_display()}; this is not.", "material"
            )
        return material
    if len({x.material_id for x, _ in lots}) == 1 and not called:
        return lots[0][0].material
    if not called:
        raise InputError("Name the material that the blend is, or choose one.", "called")
    if Material.objects.filter(workshop=workshop, name=called).exists():
        raise InputError(f"There is a material {called} already: choose it above.", "called")
    most = max(lots, key=lambda part: part[1])[0].material
    names = ", ".join(f"{m * 1e3:.0f} g {x}" for x, m in lots)
    return Material.objects.create(
        workshop=workshop,
        name=called,
        family=most.family,
        form=form,
        filler=most.filler,
        density=density,
        price=None if price is None else Decimal(f"{price:.2f}"),
        note=f"Mixed of {names}."[:2000],
    )


@transaction.atomic
def unmix(lot: Lot) -> None:
    """Take a blend back that was made by mistake: what it was mixed of holds it again.

    Raises :class:`InputError` once some of it is used, or it stands in something.
    """
    lot = Lot.objects.select_for_update().get(pk=lot.pk)
    parts = list(lot.mixed_of.select_related("of"))
    if not parts:
        raise InputError(f"{lot} is not a blend.")
    used = (
        lot.remaining is not None and lot.bought is not None and lot.remaining < lot.bought - 1e-9
    )
    others = [r for r in lot._meta.related_objects if r.related_model is not BlendPart]
    stands = any(
        r.related_model._default_manager.filter(**{r.field.name: lot}).exists() for r in others
    )
    if used or stands or lot.mixed_into.exists():
        raise InputError(f"Some of {lot} has been used; it cannot be undone.")
    for part in parts:
        source = Lot.objects.select_for_update().get(pk=part.of_id)
        if source.remaining is not None:
            source.remaining += part.mass
            source.save(update_fields=["remaining"])
    lot.delete()
