"""A package that is imported."""

from django import forms
from django.core.files.uploadedfile import UploadedFile

MOST_BY_WEB = 500_000_000


class PackageForm(forms.Form):
    """The file, and what the workshop made of it is called."""

    file = forms.FileField(
        label="Data package (zip)",
        allow_empty_file=True,
        widget=forms.ClearableFileInput(attrs={"accept": ".zip,application/zip"}),
        error_messages={"required": "Choose the package first."},
    )
    name = forms.CharField(
        required=False, max_length=120, label="Workshop name here (empty: as in the package)"
    )  # fmt: skip

    def clean_file(self) -> UploadedFile:
        """The file, as large as the server takes one."""
        file: UploadedFile = self.cleaned_data["file"]
        if (file.size or 0) > MOST_BY_WEB:
            raise forms.ValidationError(
                "The package is larger than 500 MB; import it with ./brunt package in FILE."
            )
        return file
