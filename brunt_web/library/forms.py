"""What the library sends: materials, lots, dryings, printers, rigs."""

from datetime import datetime, timedelta
from typing import Any

from django import forms
from django.http import QueryDict
from django.utils import timezone

from brunt_core.errors import InputError
from brunt_core.plausibility.bands import FAMILIES
from brunt_core.quantities import parse
from brunt_web.interface.typed import (
    NameField,
    NumberField,
    PriceField,
    QuantityField,
    TypedField,
    choosing,
    one_sentence,
)
from brunt_web.library.actions.procedures import RIG_DIMENSIONS
from brunt_web.library.models import FORMS, KINDS, Lot, Material
from brunt_web.people.models import Workshop


class MaterialForm(TypedField):
    """One more material."""

    name = NameField(
        "Give the material a name.", help_text="as on the spool or bottle", label="Name"
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
        limits="{} is not a plausible density of a plastic; check the unit.",
        label="Density",
        help_text="1.24 g/cm³ or 1240 kg/m³; empty if unknown",
    )
    price = PriceField(required=False, label="Price per kilogram", help_text="empty if unknown")


class LotForm(TypedField):
    """One more spool, bottle or bag."""

    material = forms.ModelChoiceField(
        Material.objects.none(),
        label="Of material",
        empty_label="choose …",
        error_messages=one_sentence("Choose the material."),
    )
    name = NameField(
        "Give the lot a name, for example the date or the spool number.",
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


class PrinterForm(TypedField):
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


class WeighedForm(TypedField):
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


class WhenField(forms.DateTimeField):
    """A moment in the workshop's zone, to the minute; not in the future."""

    def __init__(self, label: str, **more: Any) -> None:
        widget = forms.DateTimeInput({"type": "datetime-local"}, format="%Y-%m-%dT%H:%M")
        super().__init__(
            label=label,
            required=False,
            widget=widget,
            error_messages={"invalid": "Write day and time, for example 2026-03-02 09:30."},
            **more,
        )

    def clean(self, value: Any) -> datetime | None:
        """The moment, ``None`` for an empty field."""
        found: datetime | None = super().clean(value)
        if found and found > timezone.now() + timedelta(minutes=1):
            raise forms.ValidationError("This is in the future.")
        return found


class DryingForm(TypedField):
    """A drying: one that starts now or began then, or one that has ended."""

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
    started_at = WhenField("Started", help_text="empty: now, or the time before its end")
    ended_at = WhenField("Ended", help_text="empty: now")
    before = QuantityField("mass", "g", above=0, label="Mass before, g")
    after = QuantityField("mass", "g", above=0, label="Mass after, g")


class EndDryingForm(TypedField):
    """The drying that runs has ended."""

    ended_at = WhenField("Ended", help_text="now when empty")
    after = QuantityField("mass", "g", above=0, label="Mass after, g")


class SealForm(TypedField):
    """A lot goes into a sealed box."""

    since = WhenField("Since", help_text="now when empty")
    humidity = NumberField(0, 100, label="Humidity inside, %")


class AirForm(TypedField):
    """The room's air."""

    _NEEDED = "Type the relative humidity, for example 46."

    humidity = NumberField(
        0, 100, label="Relative humidity, %", required=True, error_messages={"required": _NEEDED}
    )
    temperature = QuantityField("temperature", "degC", label="Temperature, °C")


class PartOfBlendForm(TypedField):
    """So much of one lot."""

    lot = forms.ModelChoiceField(
        Lot.objects.none(), required=False, empty_label="choose …", label="Lot"
    )
    amount = forms.CharField(
        required=False, max_length=40, label="Amount", help_text="350 g, 300 ml"
    )

    def __init__(self, *given: Any, workshop: Workshop, **more: Any) -> None:
        super().__init__(*given, **more)
        choosing(self, "lot").queryset = Lot.objects.filter(
            workshop=workshop, archived_at__isnull=True
        ).select_related("material")

    def clean(self) -> dict[str, Any]:
        """An amount in kg; a volume by the material's density."""
        told = super().clean() or {}
        lot, text = told.get("lot"), str(told.get("amount") or "").strip()
        if bool(lot) != bool(text):
            self.add_error("amount", "Name both the lot and how much of it.")
        elif lot:
            try:
                told["mass"] = mass_of(text, lot.material.density)
            except InputError as error:
                self.add_error("amount", error.sentence)
        return told


def mass_of(text: str, density: float | None) -> float:
    """A mass, or a volume by its density, in kg. Raises :class:`InputError`."""
    try:
        return float(parse(text, "mass", "g").si)
    except InputError as error:
        try:
            volume = parse(text, "volume", None).si
        except InputError:
            raise error from None
    if not density:
        raise InputError("The material's density is not known: type grams.")
    return float(volume) * density


BlendParts = forms.formset_factory(PartOfBlendForm, extra=4, max_num=8)


class BlendForm(TypedField):
    """A blend of several lots."""

    name = NameField("Name the blend's lot, for example the date.", 60, label="Lot's name")
    material = forms.ModelChoiceField(
        Material.objects.none(),
        required=False,
        label="Kept as",
        empty_label="a new material, named below",
    )
    called = NameField("", required=False, label="Name of the new material")

    def __init__(self, data: QueryDict | None, workshop: Workshop) -> None:
        super().__init__(data, auto_id="blend-%s")
        choosing(self, "material").queryset = Material.objects.filter(
            workshop=workshop, archived_at__isnull=True
        )


class RigForm(TypedField):
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
