"""What the page of procedures sends."""

import re
from typing import Any

from django import forms
from django.http import QueryDict

from brunt_core.computation import read_input
from brunt_core.errors import InputError
from brunt_core.methods.base import Input, Method
from brunt_core.methods.registry import methods
from brunt_core.plausibility.fixed import odd_fixed
from brunt_core.properties import PROPERTIES
from brunt_core.quantities import parse
from brunt_core.specimens.types import ORIENTATIONS, TYPES
from brunt_web.interface.typed import NameField, QuantityField, TypedField, choosing, one_sentence
from brunt_web.library.actions.procedures import ProcedureDraft
from brunt_web.library.actions.standard_procedures import STARTERS
from brunt_web.library.models import SIZES, Rig, SpecimenVariant
from brunt_web.people.models import Workshop

_MOST_TIMES = 40


class TimesField(forms.CharField):
    """Reading times in s, rising: ``1 s; 30 s; 1 min``."""

    def clean(self, value: Any) -> list[float]:
        """The times; an empty list for none."""
        pieces = [p for p in re.split(r"[;,\n]", super().clean(value) or "") if p.strip()]
        if len(pieces) > _MOST_TIMES:
            raise forms.ValidationError(f"Set at most {_MOST_TIMES} reading times.")
        try:
            times = [parse(p, "time", "s").si for p in pieces]
        except InputError as error:
            raise forms.ValidationError(error.sentence) from None
        if any(t < 0 for t in times) or sorted(set(times)) != times:
            raise forms.ValidationError("Write the reading times in ascending order, each once.")
        return times


class FixedField(forms.CharField):
    """What a procedure fixes of its method's inputs, kept as text with its unit."""

    def __init__(self, spec: Input) -> None:
        self.spec = spec
        label = spec.label + (f", {spec.unit}" if spec.unit else "")
        hints = {"placeholder": spec.hint} if spec.hint else {}
        chosen = spec.default if spec.choices else None
        widget = forms.Select(choices=spec.choices) if spec.choices else forms.TextInput(hints)
        super().__init__(
            required=spec.required,
            label=label + (" (needed)" if spec.required else ""),
            widget=widget,
            initial=chosen,
            max_length=400,
            error_messages={"required": f"The {spec.label.lower()} is missing."},
        )

    def clean(self, value: Any) -> str:
        """The text with its unit; empty where nothing is fixed."""
        text = str(super().clean(value) or "").strip()
        if not text:
            return ""
        try:
            reading = read_input(self.spec, text, {})
        except InputError as error:
            raise forms.ValidationError(error.sentence) from None
        assumed = reading.plain and reading.typed.parts[-1].assumed
        return f"{text} {self.spec.unit}".strip() if assumed else reading.word or text


class ProcedureForm(TypedField):
    """One more procedure: a method, and what is fixed of it."""

    name = NameField("Give it a name.", label="Name")
    specimen_type = forms.ChoiceField(
        label="Specimen type",
        error_messages=one_sentence("Choose a specimen type."),
    )
    orientation = forms.ChoiceField(
        label="Printed",
        choices=[(o, o) for o in ORIENTATIONS],
        error_messages={"invalid_choice": "Choose how the specimen is printed."},
    )
    rig = forms.ModelChoiceField(
        Rig.objects.none(),
        required=False,
        label="Rig",
        empty_label="none named",
        error_messages={"invalid_choice": "There is no such rig in this workshop."},
    )
    speed = QuantityField(
        "speed", "mm/min", above=0, label="Speed", help_text="5 mm/min; empty if by hand"
    )
    preload = QuantityField(
        "force", "N", above=0, label="Preload", help_text="1 lbf before zeroing is common"
    )
    conditioning = forms.CharField(
        required=False, max_length=120, label="Conditioning", help_text="23 °C, 50 % RH, 88 h"
    )
    reading_times = TimesField(
        required=False,
        max_length=400,
        label="Reading times",
        help_text="5 s · 1 s; 30 s; 1 min · 1 h; 1 d; 7 d",
    )
    destroys = forms.TypedChoiceField(
        required=False,
        label="The specimen afterwards",
        coerce=lambda key: {"no": False, "yes": True}[key],
        empty_value=None,
    )
    sizes = forms.ChoiceField(required=False, label="Sizes", choices=SIZES)
    sure = forms.BooleanField(required=False, label="Checked: the value is correct")
    standard = forms.CharField(
        required=False, max_length=400, label="Which standard it follows, or where it departs"
    )

    def __init__(self, data: QueryDict | None, workshop: Workshop, method: Method) -> None:
        super().__init__(data)
        self.method = method
        self.odd = False
        own = SpecimenVariant.objects.filter(workshop=workshop, archived_at__isnull=True)
        types = self.fields["specimen_type"]
        assert isinstance(types, forms.ChoiceField)
        types.choices = [
            ("", "choose …"),
            *((f"own-{v.pk}", v.name) for v in own),
            *((t.key, t.name) for t in TYPES.values()),
        ]
        choosing(self, "rig").queryset = Rig.objects.filter(workshop=workshop)
        spent = "is destroyed" if method.destroys else "is undamaged"
        after = self.fields["destroys"]
        assert isinstance(after, forms.ChoiceField)
        after.choices = [
            ("", f"as the method says: it {spent}"),
            ("no", "is undamaged and can be tested again"),
            ("yes", "is destroyed"),
        ]
        for spec in method.fixed:
            self.fields[f"p-{spec.key}"] = FixedField(spec)
        properties = list(dict.fromkeys(r.property for r in method.results))
        if len(properties) > 1:
            self.fields["ranked_by"] = forms.ChoiceField(
                required=False,
                label="Ranked by",
                choices=[(key, _property_name(key)) for key in properties],
                error_messages={"invalid_choice": f"{method.name} does not give that property."},
            )

    def clean(self) -> dict[str, Any]:
        """What is fixed must be possible together, before anything is tested with it."""
        told = super().clean() or {}
        known = {}
        for spec in self.method.fixed:
            if spec.plain and (text := told.get(f"p-{spec.key}")):
                known[spec.key] = read_input(spec, text, {}).si
        texts = {k[2:]: str(t) for k, t in told.items() if k.startswith("p-") and t}
        try:
            self.method.possible(known)
            self.method.sensible(texts)
        except InputError as error:
            self.add_error(f"p-{error.field}", error.sentence)
        if not self.errors and not told.get("sure"):
            for key, sentence in odd_fixed(self.method, texts):
                self.add_error(f"p-{key}", sentence)
                self.odd = True
        return told

    @property
    def fixed(self) -> list[forms.BoundField]:
        """The fields of what the method fixes."""
        return [self[name] for name in self.fields if name.startswith("p-")]

    def draft(self) -> ProcedureDraft:
        """The procedure as written; of a valid form."""
        told = dict(self.cleaned_data)
        told.pop("sure")
        parameters = {k[2:]: told.pop(k) for k in list(told) if k.startswith("p-")}
        return ProcedureDraft(
            method=self.method.key, parameters={k: v for k, v in parameters.items() if v}, **told
        )


def _property_name(key: str) -> str:
    found = PROPERTIES[key]
    return f"{found.name}, {found.unit}" if found.unit else found.name


class MethodForm(TypedField):
    """Which method a procedure is written for; tension when none that there is is named."""

    method = forms.ChoiceField(
        label="Method", choices=[(m.key, f"{m.name}: {m.question}") for m in methods().values()]
    )

    @property
    def chosen(self) -> Method:
        """The method."""
        return methods().get(str(self["method"].value()), methods()["tension"])


class StarterForm(TypedField):
    """A ready-made procedure by its name."""

    starter = forms.ChoiceField(
        choices=[(s.name, s.name) for s in STARTERS],
        error_messages=one_sentence("There is no such procedure to start from."),
    )
