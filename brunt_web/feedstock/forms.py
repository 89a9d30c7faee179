"""What the feedstock pages send."""

from typing import Any

from django import forms
from django.http import QueryDict

from brunt_core.feedstock.judges import CHECKS, DONE
from brunt_core.feedstock.qualification import Gate
from brunt_core.methods.base import Input
from brunt_web.feedstock.models import KINDS
from brunt_web.interface.typed import NameField, QuantityField, TypedField, choosing, one_sentence
from brunt_web.library.models import Lot, Material
from brunt_web.people.models import Workshop


class QualificationForm(TypedField):
    """A new qualification."""

    name = NameField("Give it a name.", label="What is qualified", help_text="Reclaimed PP, bag 3")
    kind = forms.ChoiceField(
        label="Kind", choices=list(KINDS.items()), error_messages=one_sentence("Choose a kind.")
    )
    material = forms.ModelChoiceField(
        Material.objects.none(),
        required=False,
        label="Material",
        empty_label="not in the library yet",
    )
    lot = forms.ModelChoiceField(
        Lot.objects.none(), required=False, label="Lot", empty_label="none"
    )

    def __init__(self, data: QueryDict | None, workshop: Workshop) -> None:
        super().__init__(data)
        choosing(self, "material").queryset = Material.objects.filter(
            workshop=workshop, archived_at__isnull=True
        )
        choosing(self, "lot").queryset = Lot.objects.filter(
            workshop=workshop, archived_at__isnull=True
        )


class QualifiedRecipeForm(TypedField):
    """What the recipe is called."""

    name = NameField("Give the recipe a name.")


class GateForm(TypedField):
    """What a step asks."""

    note = forms.CharField(required=False, max_length=300, label="Note")

    def __init__(
        self, data: QueryDict | None, gate: Gate, initial: dict[str, str] | None = None
    ) -> None:
        super().__init__(data, initial=initial or {}, auto_id=f"{gate.key}-%s")
        for spec in gate.inputs:
            self.fields[spec.key] = _field(spec)
        self.order_fields([*(i.key for i in gate.inputs), "note"])

    def texts(self) -> dict[str, str]:
        """What was typed, by input."""
        found = {}
        for key, value in self.cleaned_data.items():
            found[key] = ", ".join(value) if isinstance(value, list) else str(value or "")
        return found


def _field(spec: Input) -> forms.Field:
    label = f"{spec.label}{f', {spec.unit}' if spec.unit else ''}"
    if spec.key == DONE.key:
        return forms.MultipleChoiceField(
            required=False,
            label=label,
            choices=[(c, c) for c in CHECKS],
            widget=forms.CheckboxSelectMultiple,
        )
    more: dict[str, Any] = {
        "required": False,
        "label": label,
        "help_text": spec.hint,
        "initial": spec.default,
    }
    return forms.CharField(max_length=2000, **more)


class ScaleForm(TypedField):
    """Two points on a ruler and the length between them, or the length of a pixel."""

    x1 = forms.FloatField(required=False)
    y1 = forms.FloatField(required=False)
    x2 = forms.FloatField(required=False)
    y2 = forms.FloatField(required=False)
    length = QuantityField("length", "mm", above=0, label="Length between the points")
    pixel = QuantityField("length", "mm", above=0, label="or mm for each pixel")


class LimitsForm(TypedField):
    """What is too large and what too fine."""

    over = QuantityField("length", "mm", above=0, label="Longer is too large")
    under = QuantityField("length", "mm", above=0, label="Narrower is too fine")
