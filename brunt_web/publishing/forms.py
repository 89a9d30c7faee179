"""What is typed around a report."""

from datetime import date
from typing import Any

from django import forms
from django.utils import timezone

from brunt_web.campaigns.models import Campaign
from brunt_web.testing.models import Photo


class WordsForm(forms.Form):
    """The authors' own words and the photos chosen."""

    summary = forms.CharField(
        required=False,
        max_length=4000,
        label="Summary text",
        widget=forms.Textarea(attrs={"rows": 4}),
    )
    authors = forms.CharField(required=False, max_length=200, label="Authors, for the citation")
    photos = forms.ModelMultipleChoiceField(Photo.objects.none(), required=False)
    version = forms.IntegerField(widget=forms.HiddenInput)

    def __init__(self, campaign: Campaign, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        own = Photo.objects.filter(specimen__campaign=campaign).select_related("specimen")
        self.fields["photos"].queryset = own  # type: ignore[attr-defined]

    @property
    def picked(self) -> set[int]:
        """The photos that are chosen, as it stands."""
        told = self["photos"].value() or []
        return {int(getattr(p, "pk", p)) for p in told if str(getattr(p, "pk", p)).isdecimal()}


class LinkForm(forms.Form):
    """A link to be made."""

    name = forms.CharField(required=False, max_length=80, label="Recipient")
    until = forms.DateField(
        required=False,
        label="Last day (empty: until revoked)",
        widget=forms.DateInput(attrs={"type": "date"}),
    )
    no_money = forms.BooleanField(required=False, label="Leave out prices and notes on purchases")

    seen_words = forms.CharField(required=False, max_length=40, widget=forms.HiddenInput)

    def clean_until(self) -> date | None:
        """A day that is not over."""
        until: date | None = self.cleaned_data["until"]
        if until and until < timezone.localdate():
            raise forms.ValidationError("The last day is in the past.")
        return until
