"""What the Treat stage sends, read in one place."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from django import forms
from django.http import QueryDict
from django.utils import timezone

from brunt_core.treatments.kind import Kind
from brunt_core.treatments.kinds import KINDS
from brunt_web.campaigns.models import Campaign, Condition, Specimen
from brunt_web.interface.typed import NameField, NumberField, TypedField, choosing, one_sentence
from brunt_web.library.models import Lot
from brunt_web.people.models import Workshop
from brunt_web.treatments.actions.logs import KINDS as READ
from brunt_web.treatments.actions.runs import RunDraft
from brunt_web.treatments.models import FATES, VESSELS, OwnKind, Vessel

_WHEN = {"invalid": "Write the date and time as 2026-03-02 14:30, or leave it empty for now."}


class When(forms.DateTimeField):
    """A moment that has been: now where nothing or this very minute is typed, never in the future."""

    def __init__(self, **more: Any) -> None:
        super().__init__(required=False, error_messages=_WHEN, **more)

    def clean(self, value: Any) -> datetime:
        """The moment."""
        now = timezone.now()
        at: datetime = super().clean(value) or now
        if at == now.replace(second=0, microsecond=0):
            return now
        if at > now:
            raise forms.ValidationError("That lies in the future; note it when it is done.")
        return at


class DoneForm(forms.Form):
    """A step that was done: on which specimens, when, with what note."""

    kind = forms.ChoiceField(choices=[("treatment", "treatment"), ("state", "state")])
    what = forms.CharField(max_length=120, strip=False)
    at = When()
    words = forms.CharField(required=False, max_length=300)
    specimens = forms.ModelMultipleChoiceField(
        Specimen.objects.none(),
        to_field_name="code",
        error_messages={"required": "Tick the specimens it was done to."},
    )

    def __init__(self, data: QueryDict | None, campaign: Campaign) -> None:
        super().__init__(data)
        choosing(self, "specimens").queryset = Specimen.objects.filter(campaign=campaign)


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


class RunForm(TypedField):
    """A run: a kind with its parameters, where, when, and what goes in."""

    what = forms.CharField(required=False, max_length=120, label="It stands in the plan as")
    vessel = forms.ModelChoiceField(
        Vessel.objects.none(), required=False, label="In", empty_label="not named"
    )
    planned_for = forms.DateTimeField(
        required=False,
        label="Planned for",
        help_text="2026-03-02 14:30; empty: at once",
        error_messages=_WHEN,
    )
    lot = forms.ModelChoiceField(
        Lot.objects.none(), required=False, label="Lot", empty_label="choose …"
    )
    accepted = forms.CharField(required=False, max_length=300, label="Done all the same, because")
    again = forms.CharField(required=False, max_length=300, label="Done again, because")
    specimens = forms.ModelMultipleChoiceField(
        Specimen.objects.none(), required=False, to_field_name="code"
    )

    def __init__(
        self,
        data: QueryDict | None,
        workshop: Workshop,
        campaign: Campaign | None,
        kind: Kind,
        initial: Mapping[str, str] | None = None,
        own: OwnKind | None = None,
    ) -> None:
        super().__init__(data, initial=dict(initial or {}))
        self.kind, self.own = kind, own
        choosing(self, "vessel").queryset = Vessel.objects.filter(workshop=workshop)
        choosing(self, "lot").queryset = Lot.objects.filter(
            workshop=workshop, archived_at__isnull=True
        )
        held = Specimen.objects.filter(campaign=campaign) if campaign else Specimen.objects.none()
        choosing(self, "specimens").queryset = held
        for p in kind.parameters:
            unit = f", {p.unit}" if p.unit else ""
            common: dict[str, Any] = {
                "required": False,
                "label": f"{p.label}{unit}",
                "initial": p.default,
            }
            self.fields[f"p-{p.key}"] = (
                forms.ChoiceField(choices=p.choices, **common)
                if p.kind == "choice"
                else forms.CharField(max_length=120, **common)
            )
        if kind.of == "lot":
            del self.fields["what"]
        else:
            del self.fields["lot"]

    @property
    def parameters(self) -> list[forms.BoundField]:
        """The kind's own fields."""
        return [self[f"p-{p.key}"] for p in self.kind.parameters]

    def draft(self, event: str) -> RunDraft:
        """The run as written; of a valid form."""
        told = self.cleaned_data
        return RunDraft(
            kind_key=self.kind.key,
            texts={p.key: str(told.get(f"p-{p.key}") or "") for p in self.kind.parameters},
            specimens=list(told["specimens"]),
            what=told.get("what", ""),
            event=event,
            own=self.own,
            vessel=told["vessel"],
            lot=told.get("lot"),
            planned_for=told["planned_for"],
            accepted=told["accepted"],
            again=told["again"],
        )


class KindForm(TypedField):
    """Which kind a run is of; of the workshop's own ones too."""

    kind = forms.ChoiceField(required=False, label="What is done")

    def __init__(self, data: QueryDict | None, workshop: Workshop, guess: str = "") -> None:
        super().__init__(data, initial={"kind": guess or "anneal-oven"})
        groups: dict[str, list[tuple[str, str]]] = {}
        for k in KINDS.values():
            groups.setdefault(k.group, []).append((k.key, k.name))
        own = [(f"own-{k.pk}", k.name) for k in OwnKind.objects.filter(workshop=workshop)]
        field = self.fields["kind"]
        assert isinstance(field, forms.ChoiceField)
        field.choices = [*groups.items(), *([("Own", own)] if own else [])]

    def chosen(self, workshop: Workshop) -> tuple[Kind, OwnKind | None]:
        """The kind, and the workshop's own row where it is one."""
        key = str(self["kind"].value() or "")
        if key.startswith("own-") and key[4:].isdigit():
            own = OwnKind.objects.filter(workshop=workshop, pk=int(key[4:])).first()
            if own:
                return own.kind, own
        return KINDS.get(key, KINDS["anneal-oven"]), None


class MomentForm(forms.Form):
    """When something was pressed, and which step the page showed."""

    at = When()
    seen = forms.IntegerField(required=False, min_value=-1, max_value=1000)


class RunNoteForm(forms.Form):
    """Why a run is broken off."""

    note = forms.CharField(required=False, max_length=300)


class OutForm(forms.Form):
    """One specimen taken out, with what becomes of it."""

    specimen = forms.CharField(
        max_length=20, error_messages={"required": "Name the specimen that is taken out."}
    )
    fate = forms.ChoiceField(
        choices=list(FATES.items()), error_messages=one_sentence("Choose what happens to it.")
    )
    reason = forms.CharField(required=False, max_length=300)
    control = forms.ModelChoiceField(Condition.objects.none(), required=False)
    at = When()

    def __init__(self, data: QueryDict | None, campaign: Campaign | None) -> None:
        super().__init__(data)
        found = Condition.objects.filter(campaign=campaign) if campaign else None
        choosing(self, "control").queryset = (
            found if found is not None else Condition.objects.none()
        )


class ReadingForm(forms.Form):
    """A reading for the log."""

    what = forms.ChoiceField(choices=list(READ.items()))
    text = forms.CharField(required=False, max_length=60)
    at = When()


class LogForm(forms.Form):
    """A whole log, pasted or as a file."""

    text = forms.CharField(required=False, max_length=400_000)
    file = forms.FileField(required=False)

    def clean(self) -> dict[str, Any]:
        """The text, wherever it came from."""
        told = super().clean() or {}
        file = told.get("file")
        if file:
            if file.size > 2_000_000:
                raise forms.ValidationError("The log has more than 2 MB.")
            told["text"] = file.read().decode("utf-8-sig", "replace")
        if not (told.get("text") or "").strip():
            raise forms.ValidationError("Paste a log, or choose a file.")
        return told


class VesselForm(TypedField):
    """An oven, a bath, a freezer …"""

    name = NameField("Give it a name.", label="Name")
    kind = forms.ChoiceField(
        label="Kind", choices=list(VESSELS.items()), error_messages=one_sentence("Choose a kind.")
    )
    capacity = forms.CharField(
        max_length=60,
        label="Takes at once",
        initial="12",
        help_text="12 specimens, or 6 plates of 8, or 8 l, 0.25 l each",
        error_messages={"required": "Write how much it takes at once."},
    )
    watts = NumberField(0, 50_000, label="Power, W", help_text="for the price in energy")
    thermometer = forms.ChoiceField(
        required=False,
        label="Thermometer",
        choices=[("", "read by hand"), ("simulated", "simulated, for trying out")],
    )


class OwnKindForm(TypedField):
    """A treatment of the tester's own, a step a line."""

    name = NameField("Give it a name.", label="Name")
    event = forms.ChoiceField(
        label="It is a", choices=[("treated", "treatment"), ("conditioned", "conditioning")]
    )
    steps = forms.CharField(
        label="Steps, one a line",
        widget=forms.Textarea(attrs={"rows": 5}),
        help_text="Put in · Tumble: 30 min · Stand until steady: settled · Take out",
        error_messages={"required": "Write one step at least."},
        max_length=2000,
    )
