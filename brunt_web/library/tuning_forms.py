"""What a bring-up trial sends."""

from collections.abc import Mapping
from typing import Any

from django import forms
from django.http import QueryDict

from brunt_core.errors import InputError
from brunt_core.printing.recipes import FIELDS
from brunt_core.printing.tuning import TRIALS, Trial, suggested_steps
from brunt_core.quantities import in_unit, parse, parse_typed
from brunt_core.quantities.numbers import read_number
from brunt_web.interface.typed import QuantityField, TypedField, choosing
from brunt_web.library.actions.tuning import TrialDraft, in_field
from brunt_web.library.models import Lot, Recipe

MOST_ROWS = 12


class StepField(forms.CharField):
    """A setting's value as typed, cleaned to the field's unit."""

    def __init__(self, kind: str, key: str) -> None:
        self.spec = FIELDS[kind][key]
        blank = forms.TextInput({"placeholder": " "})
        super().__init__(required=False, max_length=40, label=self.spec.label, widget=blank)

    def clean(self, value: Any) -> float | None:
        """The number in the field's unit, ``None`` for an empty field."""
        text = (super().clean(value) or "").strip()
        if not text:
            return None
        try:
            if self.spec.dimension in ("share", "number"):
                return read_number(text.rstrip("% "))
            found = parse(text, self.spec.dimension, self.spec.unit).si
            return round(float(in_unit(found, self.spec.dimension, self.spec.unit)), 6)
        except InputError as error:
            raise forms.ValidationError(error.sentence) from None


class SeenField(forms.CharField):
    """What was measured at a step, cleaned to the trial's unit."""

    def __init__(self, trial: Trial) -> None:
        self.trial = trial
        super().__init__(required=False, max_length=60, label=f"{trial.measured}, {trial.unit}")

    def clean(self, value: Any) -> float | None:
        """The number, ``None`` for an empty field."""
        text = (super().clean(value) or "").strip()
        if not text:
            return None
        try:
            found = parse(text, self.trial.dimension, self.trial.unit).si
            return round(float(in_unit(found, self.trial.dimension, self.trial.unit)), 4)
        except InputError as error:
            raise forms.ValidationError(error.sentence) from None


class TrialForm(TypedField):
    """The steps of one trial: a setting each, and a grade or a measurement."""

    note = forms.CharField(required=False, max_length=300, label="Note")
    lot = forms.ModelChoiceField(Lot.objects.none(), required=False, empty_label="no lot named")

    def __init__(self, data: QueryDict | None, recipe: Recipe, trial: Trial, setting: str) -> None:
        self.recipe, self.trial, self.setting = recipe, trial, setting
        tried = suggested_steps(trial, in_field(recipe, setting), setting)
        initial = {f"at-{i}": f"{v:g}" for i, v in enumerate(tried)}
        super().__init__(data, initial=initial, auto_id="t-%s")
        choosing(self, "lot").queryset = Lot.objects.filter(
            workshop=recipe.workshop, archived_at__isnull=True, material__form=recipe.kind
        ).select_related("material")
        self.count = min(max(len(tried) + 1, 5), MOST_ROWS)
        if trial.key == "flow":
            self.fields["walls"] = forms.CharField(
                max_length=200, label="Wall as measured, mm", help_text="0.42; 0.43; 0.42"
            )
            self.fields["asked"] = QuantityField("length", "mm", above=0, label="Wall asked for")
            self.initial["asked"] = f"{in_field(recipe, 'line_width') or 0:g} mm"
            return
        for i in range(self.count):
            self.fields[f"at-{i}"] = StepField(recipe.kind, setting)
            self.fields[f"seen-{i}"] = (
                SeenField(trial)
                if trial.measured
                else forms.TypedChoiceField(
                    required=False,
                    choices=[("", "–"), *((str(g), str(g)) for g in range(1, 6))],
                    coerce=float,
                    empty_value=None,
                    widget=forms.RadioSelect,
                    label="Grade",
                )
            )

    @property
    def rows(self) -> list[tuple[forms.BoundField, forms.BoundField]]:
        """The steps, the topmost first."""
        if self.trial.key == "flow":
            return []
        return [(self[f"at-{i}"], self[f"seen-{i}"]) for i in range(self.count)]

    def clean_walls(self) -> list[float]:
        """The wall at several places, mm."""
        try:
            typed = parse_typed(self.cleaned_data["walls"], "length", "mm")
        except InputError as error:
            raise forms.ValidationError(error.sentence) from None
        return [round(float(in_unit(p.si, "length", "mm")), 5) for p in typed.parts]

    def draft(self) -> TrialDraft:
        """The trial as typed; of a valid form."""
        told: Mapping[str, Any] = self.cleaned_data
        rows = [
            (told[f"at-{i}"], told[f"seen-{i}"])
            for i in range(self.count)
            if f"at-{i}" in told and told[f"at-{i}"] is not None and told[f"seen-{i}"] is not None
        ]
        asked = told.get("asked")
        return TrialDraft(
            kind=self.trial.key,
            setting=self.setting,
            rows=rows,
            walls=told.get("walls") or (),
            asked=None if asked is None else float(in_unit(asked, "length", "mm")),
            lot=told["lot"],
            note=told["note"],
        )


def chosen_trial(recipe: Recipe, asked: Mapping[str, str]) -> tuple[Trial, str]:
    """The trial and the setting that are asked for; the first where none that there is."""
    trial = TRIALS.get(str(asked.get("kind", "")), TRIALS["temperature"])
    fields = [s for s in trial.settings if s in FIELDS[recipe.kind]]
    setting = str(asked.get("setting", ""))
    return trial, setting if setting in fields else fields[0]
