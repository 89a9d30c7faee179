"""The new-campaign form."""

from django import forms

from brunt_core.errors import InputError
from brunt_core.plausibility.bands import FAMILIES
from brunt_web.campaigns.actions.plan_campaign import check_draft
from brunt_web.library.models import Material
from brunt_web.library.queries import materials_of, procedures_of_workshop

_FAMILIES = [("", "family …"), *((f.key, f.name) for f in FAMILIES.values())]


class NewMaterialForm(forms.Form):
    """One row for a material that is not in the library yet."""

    name = forms.CharField(max_length=80, required=False)
    family = forms.ChoiceField(choices=_FAMILIES, required=False)

    def clean(self):
        """A name needs a family, and a family a name."""
        data = super().clean()
        if data.get("name") and not data.get("family"):
            self.add_error("family", "Choose its polymer family.")
        if data.get("family") and not data.get("name"):
            self.add_error("name", "Give it a name.")
        return data


NewMaterials = forms.formset_factory(NewMaterialForm, extra=3, max_num=30)


class CampaignForm(forms.Form):
    """Question, materials, procedures, replicates."""

    question = forms.CharField(max_length=200, error_messages={"required": "Write the question the campaign is to answer."})
    materials = forms.ModelMultipleChoiceField(Material.objects.none(), required=False)
    procedures = forms.MultipleChoiceField(error_messages={"required": "Choose at least one way of testing."})
    replicates = forms.IntegerField(min_value=1, max_value=100, initial=5, error_messages={
        "invalid": "Replicates is a whole number, such as 5.", "required": "Say how many of each.",
        "min_value": "At least one of each.", "max_value": "At most 100 of each."})

    def __init__(self, workshop, data=None) -> None:
        super().__init__(data)
        self.workshop = workshop
        self.available = {str(p.pk): p for p in procedures_of_workshop(workshop)}
        self.fields["materials"].queryset = materials_of(workshop)
        self.fields["procedures"].choices = [(k, p.name) for k, p in self.available.items()]
        self.new = NewMaterials(data, prefix="new")

    @property
    def chosen_materials(self) -> list[str]:
        """Keys ticked so far, right or wrong."""
        return [str(v) for v in self["materials"].value() or []]

    def is_valid(self) -> bool:
        """Both the form and its rows, and the plan they make."""
        own, rows = super().is_valid(), self.new.is_valid()
        if own and rows:
            self._check_plan()
        return own and rows and not self.errors

    def _check_plan(self) -> None:
        names = [m.name.lower() for m in materials_of(self.workshop)] + [name.lower() for name, _ in self.new_rows]
        twice = next((n for n, _ in self.new_rows if names.count(n.lower()) > 1), None)
        try:
            if twice:
                raise InputError(f"There is already a material called {twice}; tick it above instead.", "materials")
            check_draft(self.cleaned_data["question"], len(self.cleaned_data["materials"]) + len(self.new_rows),
                        len(self.cleaned_data["procedures"]), self.cleaned_data["replicates"])
        except InputError as error:
            self.add_error(error.field or None, error.sentence)

    @property
    def new_rows(self) -> list[tuple[str, str]]:
        """(name, family) of each filled row."""
        return [(" ".join(r["name"].split()), r["family"]) for r in self.new.cleaned_data if r.get("name")]

    @property
    def chosen_procedures(self) -> list:
        """The procedures chosen, in the library's order."""
        return [p for k, p in self.available.items() if k in self.cleaned_data["procedures"]]
