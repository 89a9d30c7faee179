"""What the library sends: materials, lots, dryings, printers, rigs."""

from typing import Any

from django import forms
from django.http import QueryDict

from brunt_core.plausibility.bands import FAMILIES
from brunt_web.interface.typed import (
    NameField,
    PriceField,
    QuantityField,
    Typed,
    choosing,
    one_sentence,
)
from brunt_web.library.actions.procedures import RIG_DIMENSIONS
from brunt_web.library.models import FORMS, KINDS, Material
from brunt_web.people.models import Workshop


class MaterialForm(Typed):
    """One more material."""

    name = NameField(
        "Give the material a name.", help_text="as it stands on the spool or bottle", label="Name"
    )
    family = forms.ChoiceField(
        label="Polymer family",
        choices=[("", "choose …"), *((f.key, f.name) for f in FAMILIES.values())],
        error_messages=one_sentence("Choose the polymer family."),
    )
    form = forms.ChoiceField(
        label="Form",
        choices=list(FORMS.items()),
        error_messages={"invalid_choice": "Choose filament, resin or pellet."},
    )
    density = QuantityField(
        "density",
        least=50,
        most=10000,
        limits="{} is no density of a plastic; is the unit right?",
        label="Density",
        help_text="1.24 g/cm³ or 1240 kg/m³; empty if unknown",
    )
    price = PriceField(required=False, label="Price per kilogram", help_text="empty if unknown")


class LotForm(Typed):
    """One more spool, bottle or bag."""

    material = forms.ModelChoiceField(
        Material.objects.none(),
        label="Of material",
        empty_label="choose …",
        error_messages=one_sentence("Choose the material."),
    )
    name = NameField(
        "Name the lot as it stands on it, for example the date or the spool's number.",
        60,
        label="Lot",
    )
    colour = forms.CharField(required=False, max_length=40, label="Colour")
    bought = QuantityField("mass", "kg", least=0, label="Bought, kg")
    remaining = QuantityField("mass", "kg", least=0, label="Left, kg")
    price = PriceField(required=False, label="Price of the lot")
    opened = forms.BooleanField(required=False, label="opened now")

    def __init__(self, data: QueryDict | None, workshop: Workshop, **more: Any) -> None:
        super().__init__(data, **more)
        choosing(self, "material").queryset = Material.objects.filter(
            workshop=workshop, archived_at__isnull=True
        )


class PrinterForm(Typed):
    """One more printer, with its bed."""

    _BED = "A bed measures between 40 mm and 2 m."

    name = NameField("Give the printer a name of its own.", 60, label="Name")
    kind = forms.ChoiceField(
        label="Kind",
        choices=list(KINDS.items()),
        error_messages={"invalid_choice": "Choose filament or resin."},
    )
    bed_width = QuantityField(
        "length",
        "mm",
        least=0.04,
        most=2,
        limits=_BED,
        required=True,
        error_messages={"required": _BED},
        label="Bed width, mm",
    )
    bed_depth = QuantityField(
        "length",
        "mm",
        least=0.04,
        most=2,
        limits=_BED,
        required=True,
        error_messages={"required": _BED},
        label="Bed depth, mm",
    )


class WeighedForm(Typed):
    """What is left of a lot."""

    remaining = QuantityField(
        "mass",
        "g",
        least=0,
        limits="Type what is left, for example 640 g.",
        required=True,
        error_messages={"required": "Type what is left, for example 640 g."},
        label="What is left, g (without spool)",
    )


class DryingForm(Typed):
    """A drying that has just ended."""

    _HEAT = "The drying temperature lies between 20 and 200 °C."
    _TIME = "The drying time is more than zero and at most 14 days, for example 12 h."

    temperature = QuantityField(
        "temperature",
        "degC",
        least=293.15,
        most=473.15,
        limits=_HEAT,
        required=True,
        error_messages={"required": _HEAT},
        label="Temperature, °C",
    )
    duration = QuantityField(
        "time",
        "h",
        above=0,
        most=14 * 86400,
        limits=_TIME,
        required=True,
        error_messages={"required": _TIME},
        label="Time, h",
        help_text="12 h, or 2 h 30",
    )
    before = QuantityField("mass", "g", above=0, label="Mass before, g")
    after = QuantityField("mass", "g", above=0, label="Mass after, g")


class RigForm(Typed):
    """One more measuring device; capacity and step are read in the unit of what it measures."""

    name = NameField("Give it a name.", label="Name")
    dimension = forms.ChoiceField(
        label="Measures",
        choices=[(key, f"{key}, {unit}") for key, unit in RIG_DIMENSIONS.items()],
        error_messages={"invalid_choice": "Choose what the rig measures."},
    )
    capacity = QuantityField(
        "force", "N", above=0, label="Capacity", help_text="750 N or 20 N·m; empty if unknown"
    )
    resolution = QuantityField("force", "N", above=0, label="Step of the display")
    relative_error = QuantityField("ratio", "%", above=0, label="Limit of error, % of reading")

    def __init__(self, data: QueryDict | None = None, **more: Any) -> None:
        super().__init__(data, **more)
        dimension = str(self["dimension"].value() or "force")
        for key in ("capacity", "resolution"):
            field = self.fields[key]
            assert isinstance(field, QuantityField)
            if dimension in RIG_DIMENSIONS:
                field.dimension, field.unit = dimension, RIG_DIMENSIONS[dimension]
