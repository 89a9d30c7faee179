"""What is typed around check standards."""

from typing import Any

from django import forms

from brunt_web.interface.typed import choosing
from brunt_web.library.models import Material, Procedure
from brunt_web.people.models import Workshop


class CheckForm(forms.Form):
    """A reference material under a procedure."""

    material = forms.ModelChoiceField(Material.objects.none(), label="Reference material")
    procedure = forms.ModelChoiceField(Procedure.objects.none(), label="Procedure")
    name = forms.CharField(required=False, max_length=80, label="Name")

    def __init__(self, workshop: Workshop, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        choosing(self, "material").queryset = Material.objects.filter(
            workshop=workshop, archived_at=None
        )
        choosing(self, "procedure").queryset = Procedure.objects.filter(
            workshop=workshop, archived_at=None
        )


class PhaseForm(forms.Form):
    """A day from which the level is another, and why."""

    starts_on = forms.DateField(
        label="From", widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    )
    because = forms.CharField(max_length=200, label="because")
