"""What the pages of recipes send."""

from collections.abc import Mapping
from typing import Any

from django import forms
from django.core.files.uploadedfile import UploadedFile
from django.http import QueryDict

from brunt_core.errors import InputError
from brunt_core.printing.recipes import FIELDS
from brunt_web.interface.typed import NameField, Typed
from brunt_web.library.actions.recipes import kept_setting
from brunt_web.library.models import KINDS

MOST_GCODE_BYTES = 210_000_000


class SettingField(forms.CharField):
    """One setting of a recipe, kept as text, value and words."""

    def __init__(self, kind: str, key: str) -> None:
        self.kind, self.key = kind, key
        spec = FIELDS[kind][key]
        label = f"{spec.label}, {spec.unit}" if spec.unit else spec.label
        super().__init__(required=False, max_length=400, label=label)

    def clean(self, value: Any) -> dict[str, object] | None:
        """The setting, ``None`` for an empty field."""
        text = super().clean(value)
        if not text:
            return None
        try:
            return kept_setting(self.kind, self.key, text)
        except InputError as error:
            raise forms.ValidationError(error.sentence) from None


class RecipeForm(Typed):
    """A recipe's name, where it is new, and its settings by group."""

    name = NameField("Give the recipe a name.", label="Name")

    def __init__(
        self, data: QueryDict | None, kind: str, typed: Mapping[str, str], *, new: bool
    ) -> None:
        super().__init__(data, initial=dict(typed), auto_id="r-%s")
        self.kind = kind
        if not new:
            del self.fields["name"]
        for key in FIELDS[kind]:
            self.fields[key] = SettingField(kind, key)

    @property
    def groups(self) -> list[tuple[str, list[forms.BoundField]]]:
        """The settings' fields by group, groups by name."""
        found: dict[str, list[forms.BoundField]] = {}
        for key, spec in FIELDS[self.kind].items():
            found.setdefault(spec.group, []).append(self[key])
        return sorted(found.items())

    @property
    def settings(self) -> dict[str, dict[str, object]]:
        """The settings as a recipe keeps them; of a valid form."""
        return {k: self.cleaned_data[k] for k in FIELDS[self.kind] if self.cleaned_data.get(k)}


class KindForm(Typed):
    """Filament or resin; filament when neither is named."""

    kind = forms.ChoiceField(required=False, choices=list(KINDS.items()))

    @property
    def chosen(self) -> str:
        """The kind."""
        said = str(self["kind"].value() or "")
        return said if said in KINDS else "filament"


class GcodeForm(KindForm):
    """A G-code file to read settings from."""

    gcode = forms.FileField(
        allow_empty_file=True, error_messages={"required": "Choose a G-code file."}
    )

    def clean_gcode(self) -> UploadedFile:
        """The file, if it is not too large."""
        file = self.cleaned_data["gcode"]
        if (file.size or 0) > MOST_GCODE_BYTES:
            raise forms.ValidationError("The file has more than 200 MB.")
        return file
