"""What is typed of a load case."""

from typing import Any

from django import forms

from brunt_core.decisions.factors import CHOICES
from brunt_web.campaigns.models import Condition
from brunt_web.decisions.models import DIRECTIONS, MODES
from brunt_web.decisions.wanted import FIELDS, WORDS
from brunt_web.interface.typed import NameField, choosing, one_sentence


class LoadCaseForm(forms.Form):
    """A load case as typed: quantities stay as they were written; they are read by ``wanted``."""

    name = NameField("Type the part's name.")
    mode = forms.ChoiceField(choices=list(MODES.items()))
    direction = forms.ChoiceField(choices=list(DIRECTIONS.items()))
    shown = forms.CharField(required=False, max_length=12)
    version = forms.IntegerField(required=False, min_value=0, max_value=10**9)
    load_case = forms.IntegerField(required=False, min_value=1, max_value=10**9)

    def __init__(self, data: Any, *, named: bool = True) -> None:
        super().__init__(data)
        self.fields["name"].required = named
        for key in (*FIELDS, *WORDS):
            self.fields[key] = forms.CharField(required=False, max_length=300 if key == "because" else 120)  # fmt: skip
        for key, (_, options) in CHOICES.items():
            words = [(o[0], o[2]) for o in options]
            self.fields[key] = forms.ChoiceField(choices=words, required=False)

    @property
    def typed(self) -> dict[str, str]:
        """Everything typed, by field."""
        return {k: v for k in (*FIELDS, *WORDS) if (v := self.cleaned_data.get(k, ""))}

    @property
    def sure(self) -> dict[str, str]:
        """How the load is known, how it comes, what a failure does."""
        return {k: v for k in CHOICES if (v := self.cleaned_data.get(k, ""))}


class ChooseForm(forms.Form):
    """The candidate that is chosen; none takes the choice back."""

    condition = forms.ModelChoiceField(
        queryset=Condition.objects.none(),
        required=False,
        error_messages=one_sentence("That is not a candidate of this campaign."),
    )
    because = forms.CharField(required=False, max_length=300)
    version = forms.IntegerField(
        min_value=0,
        max_value=10**9,
        error_messages={"required": "Check the load case again, then choose."},
    )

    def __init__(self, data: Any, conditions: Any) -> None:
        super().__init__(data)
        choosing(self, "condition").queryset = conditions
