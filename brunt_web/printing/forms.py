"""What the Print print stage sends, read in one place."""

from typing import Any

from django import forms
from django.core.files.uploadedfile import UploadedFile
from django.http import QueryDict

from brunt_core.errors import InputError
from brunt_core.printing.checks import ASPECTS, DEFECTS
from brunt_core.printing.recipes import FIELDS
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.interface.typed import NumberField, choosing, first_problem, one_sentence
from brunt_web.jobs.lines import gcode_facts
from brunt_web.library.actions.recipes import kept_setting
from brunt_web.library.models import Lot, Printer, Procedure, Recipe
from brunt_web.library.recipe_forms import MOST_GCODE_BYTES
from brunt_web.people.models import Workshop
from brunt_web.printing.actions.attempts import AttemptDraft
from brunt_web.printing.actions.batches import BatchDraft, Used


class BatchForm(forms.Form):
    """Fill plates: what, from which lot, on which printer."""

    procedure = forms.ModelChoiceField(
        Procedure.objects.none(),
        error_messages=one_sentence("Choose which specimens are printed."),
    )
    lot = forms.ModelChoiceField(Lot.objects.none(), required=False, empty_label="no lot named")
    printer = forms.ModelChoiceField(
        Printer.objects.none(),
        error_messages=one_sentence("Choose a printer; the library takes new ones."),
    )
    gap = NumberField(0, 200)
    most = NumberField(1, 2000, only_whole=True)
    each = NumberField(1, 6, only_whole=True)
    per_object = forms.BooleanField(required=False)

    def __init__(self, data: QueryDict | None, campaign: Campaign) -> None:
        super().__init__(data)
        shop = campaign.workshop
        procedures = Procedure.objects.filter(campaignprocedure__campaign=campaign)
        choosing(self, "procedure").queryset = procedures.select_related("variant")
        choosing(self, "lot").queryset = Lot.objects.filter(
            archived_at=None, workshop=shop
        ).select_related("material")
        choosing(self, "printer").queryset = Printer.objects.filter(archived_at=None, workshop=shop)

    def draft(self, seed: int) -> BatchDraft:
        """The draft. Raises :class:`InputError` with the first field that is not as it must be."""
        if problem := first_problem(self):
            raise problem
        told = self.cleaned_data
        return BatchDraft(
            printer=told["printer"],
            procedure=told["procedure"],
            seed=seed,
            lot=told["lot"],
            gap=5.0 if told["gap"] is None else told["gap"],
            most=int(told["most"]) if told["most"] else None,
            per_object=told["per_object"],
            each=int(told["each"] or 1),
        )


class PrintedForm(forms.Form):
    """A plate is printed: as its plate sheet says, with a recipe of the library, or as a G-code file says."""

    recipe = forms.ModelChoiceField(Recipe.objects.none(), required=False)
    gcode = forms.FileField(required=False, allow_empty_file=True)

    def __init__(self, data: QueryDict | None, files: Any, workshop: Workshop, kind: str) -> None:
        super().__init__(data, files)
        self.kind = kind
        choosing(self, "recipe").queryset = Recipe.objects.filter(workshop=workshop, kind=kind)

    def used(self) -> Used | None:
        """What it was printed with; ``None`` for as the plate sheet says.

        Raises :class:`InputError` for a file that is no G-code.
        """
        if problem := first_problem(self):
            raise problem
        file, recipe = self.cleaned_data["gcode"], self.cleaned_data["recipe"]
        if file:
            return Used(_from_gcode(file, self.kind), f"{file.name[:120]} (G-code)")
        return Used(dict(recipe.settings), str(recipe)) if recipe else None


def _from_gcode(file: UploadedFile, kind: str) -> dict[str, dict[str, object]]:
    """Settings as a G-code file says; what cannot be read is excluded."""
    if (file.size or 0) > MOST_GCODE_BYTES:
        raise InputError("The file has more than 200 MB.", "gcode")
    facts = gcode_facts(file)
    found: dict[str, dict[str, object]] = {}
    for fact in facts.settings.values():
        if fact.key not in FIELDS[kind]:
            continue
        try:
            found[fact.key] = kept_setting(kind, fact.key, fact.text)
        except InputError:
            continue
    if not found:
        raise InputError("This file names no settings that Brunt knows.", "gcode")
    return found


class AttemptForm(forms.Form):
    """An attempt at a plate that failed."""

    defects = forms.MultipleChoiceField(choices=list(DEFECTS.items()), required=False)
    bed_surface = forms.CharField(required=False, max_length=80)
    adhesive = forms.CharField(required=False, max_length=80)
    brim = NumberField(0, 60)
    enclosure = forms.CharField(required=False, max_length=80)
    note = forms.CharField(required=False, max_length=300)

    def draft(self) -> AttemptDraft:
        """The attempt. Raises :class:`InputError` with the first field that is not as it must be."""
        if problem := first_problem(self):
            raise problem
        return AttemptDraft(**self.cleaned_data)


class OtherwiseForm(forms.Form):
    """A condition that was not printed here; none named is all of them."""

    condition = forms.ModelChoiceField(Condition.objects.none(), required=False)
    how = forms.CharField(required=False, max_length=60)
    words = forms.CharField(required=False, max_length=300)
    off_plates = forms.BooleanField(required=False)

    def __init__(self, data: QueryDict | None, campaign: Campaign) -> None:
        super().__init__(data)
        choosing(self, "condition").queryset = Condition.objects.filter(campaign=campaign)


class OutcomeForm(forms.Form):
    """How one print came out."""

    specimen = forms.CharField(max_length=12)
    defects = forms.MultipleChoiceField(choices=list(DEFECTS.items()), required=False)
    failed = forms.BooleanField(required=False)
    note = forms.CharField(required=False, max_length=300)


class SpecimenForm(forms.Form):
    """A specimen of the batch, by its ID."""

    specimen = forms.CharField(max_length=12)


class GradeForm(forms.Form):
    """One graded observation."""

    aspect = forms.ChoiceField(
        choices=[(k, v[0]) for k, v in ASPECTS.items()],
        error_messages={
            "invalid_choice": "Choose what is graded.",
            "required": "Choose what is graded.",
        },
    )
    score = forms.IntegerField(
        error_messages={
            "required": "A grade lies between 1 and 5.",
            "invalid": "A grade lies between 1 and 5.",
        }
    )
    measured = forms.CharField(required=False, max_length=60)
    note = forms.CharField(required=False, max_length=300)
    specimen = forms.CharField(required=False, max_length=12)
    photo = forms.FileField(required=False, allow_empty_file=True)


class SizesForm(forms.Form):
    """One row of measurements; the sizes are the specimen's own."""

    def __init__(self, data: QueryDict | None, keys: list[str]) -> None:
        super().__init__(data)
        for key in keys:
            self.fields[key] = forms.CharField(required=False, max_length=120)

    def texts(self) -> dict[str, str]:
        """What was typed. Raises :class:`InputError` with the field."""
        if problem := first_problem(self):
            raise problem
        return {k: str(v) for k, v in self.cleaned_data.items()}
