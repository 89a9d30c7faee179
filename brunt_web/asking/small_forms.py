"""What the pages of a planned campaign send: replicates, the making of a condition, an acceptance."""

from django import forms
from django.http import QueryDict

from brunt_web.interface.typed import NumberField, choosing
from brunt_web.library.models import Lot, Recipe
from brunt_web.people.models import Workshop


class MoreForm(forms.Form):
    """More replicates, of all conditions or of one."""

    more = NumberField(
        1,
        50,
        only_whole=True,
        required=True,
        error_messages={"required": "Add between 1 and 50 replicates."},
    )


class MakingForm(forms.Form):
    """The recipe and lot a condition is printed with."""

    recipe = forms.ModelChoiceField(Recipe.objects.none(), required=False)
    lot = forms.ModelChoiceField(Lot.objects.none(), required=False)

    def __init__(self, data: QueryDict | None, workshop: Workshop) -> None:
        super().__init__(data)
        choosing(self, "recipe").queryset = Recipe.objects.filter(workshop=workshop)
        choosing(self, "lot").queryset = Lot.objects.filter(workshop=workshop).select_related(
            "material"
        )


class AcceptForm(forms.Form):
    """A difference accepted with its reason."""

    key = forms.CharField(max_length=160, strip=False)
    reason = forms.CharField(required=False, max_length=2000)
