"""What the page of a specimen type sends."""

from collections.abc import Mapping
from typing import Any

from django import forms
from django.http import QueryDict

from brunt_core.quantities import in_unit
from brunt_core.specimens.shapes import SHAPES
from brunt_core.specimens.types import SpecimenType, make_type
from brunt_web.interface.typed import (
    NameField,
    NumberField,
    QuantityField,
    TypedField,
    choosing,
    one_sentence,
)
from brunt_web.library.models import Procedure
from brunt_web.people.models import Workshop


class VariantForm(TypedField):
    """A specimen type's sizes changed, and what it would weigh."""

    _FILLED = "Infill must be more than 0 and at most 100 %."

    density = QuantityField(
        "density",
        above=0,
        limits="The density is more than zero.",
        label="Density",
        help_text="1.24 g/cm³ when empty",
    )
    infill = NumberField(0.01, 100, label="Filled, %", help_text="100 when empty")
    name = NameField("", required=False, label="Name of your custom type")

    def __init__(self, data: QueryDict | None, geometry: SpecimenType) -> None:
        super().__init__(data, initial={k: f"{v:g}" for k, v in geometry.sizes.items()})
        self.shape = geometry.shape_key
        for key, label in SHAPES[self.shape].sizes.items():
            self.fields[key] = (
                NumberField(0, 180, label=label.capitalize())
                if key == "notch_angle"
                else QuantityField("length", "mm", label=label[:1].upper() + label[1:])
            )

    @property
    def sizes(self) -> list[forms.BoundField]:
        """The fields of the shape's sizes."""
        return [self[key] for key in SHAPES[self.shape].sizes]

    @property
    def filling(self) -> tuple[float, float]:
        """Density in kg/m³ and filled share, their usual values where nothing that can be read is typed."""
        told: Mapping[str, Any] = self.cleaned_data if self.is_bound else {}
        return told.get("density") or 1240.0, (told.get("infill") or 100.0) / 100

    def geometry(self) -> SpecimenType:
        """The geometry as typed, of a valid form. Raises :class:`InputError` naming the size that cannot be."""
        told = self.cleaned_data
        sizes = {
            k: told[k] if k == "notch_angle" else in_unit(told[k], "length", "mm")
            for k in SHAPES[self.shape].sizes
            if told[k] is not None
        }
        return make_type("own", told.get("name") or "custom type", self.shape, sizes)


class CopyForm(TypedField):
    """A procedure like another, on this specimen type."""

    procedure = forms.ModelChoiceField(
        Procedure.objects.none(),
        label="Based on procedure",
        empty_label=None,
        error_messages=one_sentence("Choose the procedure it is based on."),
    )
    name = NameField("Give the procedure a name of its own.", label="Name of the new procedure")

    def __init__(self, data: QueryDict | None, workshop: Workshop) -> None:
        super().__init__(data, auto_id="copy-%s")
        choosing(self, "procedure").queryset = Procedure.objects.filter(
            workshop=workshop, archived_at__isnull=True
        )


class NamedForm(TypedField):
    """A name of its own."""

    name = NameField("Give the copy a name of its own.", label="Name of the copy")
