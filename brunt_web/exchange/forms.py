"""What the page that brings results in sends."""

import re
from typing import Any

from django import forms

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign
from brunt_web.exchange.files import spreadsheet_text
from brunt_web.exchange.preview import known_heads
from brunt_web.exchange.rows import Asked
from brunt_web.interface.typed import TypedField

_MOST_COLUMNS = 200


class ImportDataForm(TypedField):
    """A file of results, or its lines pasted, with what its bringer says; cleaned to what is asked."""

    file = forms.FileField(
        required=False, allow_empty_file=True, label="File: CSV, XLSX or ODS, one line a specimen"
    )
    sheet = forms.CharField(
        required=False, max_length=80, label="Sheet, if not the one with the results"
    )
    text = forms.CharField(required=False, strip=False, label="or paste its lines")
    create_missing = forms.BooleanField(
        required=False, label="Add conditions this campaign does not have"
    )
    good_only = forms.BooleanField(
        required=False, label="Import the valid rows without the rejected ones"
    )
    name = forms.CharField(required=False, max_length=160)
    seen = forms.CharField(required=False, max_length=64)
    mapped = forms.CharField(required=False, max_length=64)

    def __init__(self, campaign: Campaign, *given: Any, **more: Any) -> None:
        self.campaign = campaign
        self.notes: tuple[str, ...] = ()
        super().__init__(*given, **more)

    def clean(self) -> dict[str, Any]:
        """The file counts before what was pasted; one of them there must be."""
        told = super().clean() or {}
        text, name = told.get("text") or "", told.get("name") or ""
        file = told.get("file")
        if file:
            name = file.name
            known = known_heads(self.campaign)
            try:
                read = spreadsheet_text(file.name, file.read(), known, told.get("sheet") or "")
                text, self.notes = read.text, read.notes
            except InputError as error:
                self.add_error(
                    error.field if error.field in self.fields else "file", error.sentence
                )
        elif not text.strip():
            self.add_error("file", "Choose a file, or paste its lines.")
        fresh = bool(file)
        # A browser sends a field's lines with CR and LF, whatever the file had.
        text = text.replace("\r\n", "\n").replace("\r", "\n")
        return {**told, "text": text, "name": name, "fresh": fresh}

    def asked(self) -> Asked:
        """The table and what was said of it; what was said of another file is forgotten."""
        told = self.cleaned_data
        if told["fresh"]:
            return Asked(told["text"], told["create_missing"], told["good_only"])
        mapping, answers = {}, {}
        for key in self.data:
            if found := re.fullmatch(r"col-(\d{1,3})", key):
                mapping[int(found[1])] = str(self.data[key])[:60]
            elif key.startswith("say-") and len(key) < 200:
                answers[key.removeprefix("say-")] = str(self.data[key])
        if len(mapping) > _MOST_COLUMNS:
            mapping = {}
        return Asked(told["text"], told["create_missing"], told["good_only"], mapping, answers)
