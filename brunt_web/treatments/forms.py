"""What the Treat station sends, read in one place."""

from datetime import datetime

from django import forms
from django.http import QueryDict
from django.utils import timezone

from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.interface.typed import choosing


class DoneForm(forms.Form):
    """A step that was carried out: on which specimens, when, with what note."""

    kind = forms.ChoiceField(choices=[("treatment", "treatment"), ("state", "state")])
    what = forms.CharField(max_length=120, strip=False)
    at = forms.DateTimeField(
        required=False,
        error_messages={
            "invalid": "Write the date and time as 2026-03-02 14:30, or leave it empty for now."
        },
    )
    words = forms.CharField(required=False, max_length=300)
    specimens = forms.ModelMultipleChoiceField(
        Specimen.objects.none(),
        to_field_name="code",
        error_messages={"required": "Tick the specimens it was done to."},
    )

    def __init__(self, data: QueryDict | None, campaign: Campaign) -> None:
        super().__init__(data)
        choosing(self, "specimens").queryset = Specimen.objects.filter(campaign=campaign)

    def clean_at(self) -> datetime:
        """When it was done: now where nothing or this very minute is typed, never in the future."""
        now = timezone.now()
        at = self.cleaned_data["at"] or now
        if at == now.replace(second=0, microsecond=0):
            return now
        if at > now:
            raise forms.ValidationError("That lies in the future; note it when it is done.")
        return at


class ChosenForm(forms.Form):
    """Specimens of a campaign by their IDs."""

    specimens = forms.ModelMultipleChoiceField(
        Specimen.objects.none(),
        to_field_name="code",
        error_messages={"required": "Tick the specimens first."},
    )

    def __init__(self, data: QueryDict | None, campaign: Campaign) -> None:
        super().__init__(data)
        choosing(self, "specimens").queryset = Specimen.objects.filter(campaign=campaign)
