"""A package that is brought in."""

from django import forms

from brunt_web.packages.incoming import MOST_PACKED


class PackageForm(forms.Form):
    """The file, and what the workshop made of it is called."""

    file = forms.FileField(
        label="Data package (zip)",
        allow_empty_file=True,
        widget=forms.ClearableFileInput(attrs={"accept": ".zip,application/zip"}),
        error_messages={"required": "Choose the package first."},
    )
    name = forms.CharField(
        required=False, max_length=120, label="What its workshop is called here (empty: as it calls itself)"
    )  # fmt: skip

    def clean_file(self) -> bytes:
        """What is in the file."""
        file = self.cleaned_data["file"]
        if file.size > MOST_PACKED:
            raise forms.ValidationError("The package is larger than 500 MB.")
        content: bytes = file.read()
        return content
