"""What the pages of recipes send."""

from collections.abc import Mapping
from typing import Any

from django import forms
from django.core.files.uploadedfile import UploadedFile
from django.http import QueryDict

from brunt_core.errors import InputError
from brunt_core.printing.recipes import FIELDS
from brunt_core.specimens.types import TYPES, SpecimenType
from brunt_web.interface.typed import NameField, TypedField, choosing
from brunt_web.library.actions.recipes import kept_setting
from brunt_web.library.models import KINDS, Material, Recipe
from brunt_web.library.recipe_cut import ACTS, AROUND, STEPS, cut_specimens
from brunt_web.people.models import Workshop

MOST_GCODE_BYTES = 210_000_000


class SettingField(forms.CharField):
    """One setting of a recipe, kept as text, value and words."""

    def __init__(self, kind: str, key: str) -> None:
        self.kind, self.key = kind, key
        spec = FIELDS[kind][key]
        label = f"{spec.label}, {spec.unit}" if spec.unit else spec.label
        acts = {"data-acts": ACTS.get(key, ""), "data-step": str(STEPS.get(key, ""))}
        widget = forms.TextInput({k: v for k, v in acts.items() if v})
        super().__init__(required=False, max_length=400, label=label, widget=widget)

    def clean(self, value: Any) -> dict[str, object] | None:
        """The setting, ``None`` for an empty field."""
        text = super().clean(value)
        if not text:
            return None
        try:
            return kept_setting(self.kind, self.key, text)
        except InputError as error:
            raise forms.ValidationError(error.sentence) from None


class RecipeForm(TypedField):
    """A recipe's name, where it is new, and its settings by group."""

    name = NameField("Give the recipe a name.", label="Name")
    reason = forms.CharField(required=False, max_length=300, label="Reason for this version")

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
    def around(self) -> dict[str, list[forms.BoundField]]:
        """The fields that stand about the cut, by side."""
        return {side: [self[k] for k in keys] for side, keys in AROUND[self.kind].items()}

    @property
    def groups(self) -> list[tuple[str, list[forms.BoundField]]]:
        """The other fields by group, groups in the order of the work."""
        placed = {k for keys in AROUND[self.kind].values() for k in keys}
        found: dict[str, list[forms.BoundField]] = {}
        for key, spec in FIELDS[self.kind].items():
            if key not in placed:
                found.setdefault(spec.group, []).append(self[key])
        return list(found.items())

    @property
    def settings(self) -> dict[str, dict[str, object]]:
        """The settings as a recipe keeps them; those that could not be read are excluded."""
        return {k: self.cleaned_data[k] for k in FIELDS[self.kind] if self.cleaned_data.get(k)}


class BesideForm(TypedField):
    """What a recipe is drawn beside, through which specimen, of which material."""

    against = forms.ChoiceField(required=False, label="Beside")
    on = forms.ChoiceField(required=False, label="Cross-section of", choices=cut_specimens())
    material = forms.ModelChoiceField(
        Material.objects.none(), required=False, label="Of", empty_label="1.24 g/cm³"
    )

    def __init__(
        self, data: QueryDict | None, workshop: Workshop, kind: str, recipe: Recipe | None
    ) -> None:
        super().__init__(data, auto_id="b-%s")
        self.others = [
            r
            for r in Recipe.objects.filter(
                workshop=workshop, kind=kind, archived_at__isnull=True
            ).select_related("parent")
            if not recipe or r.pk != recipe.pk
        ]
        self.recipe = recipe
        beside = self.fields["against"]
        assert isinstance(beside, forms.ChoiceField)
        stored = [("own", "as it is stored")] if recipe else []
        beside.choices = [("", "the version before")] if recipe and recipe.parent_id else []
        beside.choices += [
            *stored,
            *((str(r.pk), str(r)) for r in self.others),
            ("none", "nothing"),
        ]
        choosing(self, "material").queryset = Material.objects.filter(
            workshop=workshop, form=kind, archived_at__isnull=True
        ).select_related("workshop")

    @property
    def other(self) -> Recipe | None:
        """The recipe it is set beside: the one asked for, else the one it was made from, else itself as stored."""
        said = str(self["against"].value() or "")
        if said == "none":
            return None
        if said == "own" or (not said and self.recipe and not self.recipe.parent_id):
            return self.recipe
        chosen = next((r for r in self.others if str(r.pk) == said), None)
        return chosen or (self.recipe.parent if self.recipe else None)

    @property
    def section(self) -> SpecimenType:
        """The specimen it is cut through."""
        said = str(self["on"].value() or "")
        return TYPES[said if said in dict(cut_specimens()) else cut_specimens()[0][0]]

    @property
    def of(self) -> Material | None:
        """The material it is weighed as."""
        self.is_valid()
        found: Material | None = getattr(self, "cleaned_data", {}).get("material")
        return found


class RecipeKindForm(TypedField):
    """Filament or resin; filament when neither is named."""

    kind = forms.ChoiceField(required=False, choices=list(KINDS.items()))

    @property
    def chosen(self) -> str:
        """The kind."""
        said = str(self["kind"].value() or "")
        return said if said in KINDS else "filament"


class GcodeForm(RecipeKindForm):
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
