"""What the page that brings results in sends."""

from typing import Any

from django import forms

from brunt_web.interface.typed import Typed

MOST_BYTES = 1_000_000


class BringInForm(Typed):
    """A file of results, or its lines pasted; cleaned to its text."""

    file = forms.FileField(
        required=False, allow_empty_file=True, label="CSV file, with one line a specimen"
    )
    text = forms.CharField(required=False, strip=False, label="or paste its lines")
    create_missing = forms.BooleanField(
        required=False, label="Make conditions that this campaign does not have"
    )

    def clean_file(self) -> str:
        """The file's text; empty without a file."""
        file = self.cleaned_data["file"]
        if file is None:
            return ""
        size = file.size or 0
        if size > MOST_BYTES:
            raise forms.ValidationError(
                f"The file has {size / 1e6:.1f} MB; a results file stays under 1 MB."
            )
        raw = file.read()
        if b"\0" in raw:
            raise forms.ValidationError(
                f"{file.name} is not a text file. Save the table as CSV first."
            )
        try:
            return raw.decode("utf-8-sig")
        except UnicodeDecodeError:
            return raw.decode("cp1252", errors="replace")

    def clean(self) -> dict[str, Any]:
        """The file counts before what was pasted; one of them there must be."""
        told = super().clean() or {}
        text = told.get("file") or told.get("text") or ""
        if not self.files.get("file") and not text.strip():
            self.add_error("file", "Choose a CSV file, or paste its lines.")
        return {**told, "text": text}
