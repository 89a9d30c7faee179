"""What the schedule sends, read in one place."""

from typing import Any

from django import forms

from brunt_web.interface.typed import NameField, NumberField, QuantityField, TypedField

_WHEN = {"invalid": "Write the date and time as 2026-03-02 14:30, or leave it empty."}
DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


class MoveForm(forms.Form):
    """A job and where it is to start."""

    key = forms.CharField(max_length=40)
    start = forms.DateTimeField(
        error_messages={"invalid": "That is not a date and time.", "required": "When?"}
    )


class KeyForm(forms.Form):
    """A job."""

    key = forms.CharField(max_length=40)


class HoursForm(TypedField):
    """Working hours."""

    zone = forms.CharField(label="Time zone", max_length=40, help_text="Europe/Berlin")
    people = NumberField(1, 50, only_whole=True, label="People available")

    def __init__(self, data: Any = None, **more: Any) -> None:
        super().__init__(data, **more)
        for i, day in enumerate(DAYS):
            self.fields[f"day-{i}"] = forms.CharField(
                required=False,
                max_length=120,
                label=day,
                help_text="" if i else "9:00-12:30, 13:30-17:30",
            )

    def week(self) -> list[str]:
        """A line a day."""
        return [str(self.cleaned_data[f"day-{i}"]) for i in range(7)]


class OwnForm(TypedField):
    """A job of one's own."""

    label = NameField("Type a name.", label="What")
    length = QuantityField(
        "time",
        "min",
        above=0,
        required=True,
        label="How long",
        help_text="30 min",
        error_messages={"required": "Type the duration."},
    )
    lane = forms.ChoiceField(label="On")
    attended = forms.BooleanField(required=False, label="Attended")
    not_before = forms.DateTimeField(required=False, label="Not before", error_messages=_WHEN)
    due = forms.DateTimeField(required=False, label="Due", error_messages=_WHEN)

    def __init__(self, data: Any, lanes: list[tuple[str, str]]) -> None:
        super().__init__(data, initial={"attended": True, "lane": "hands"})
        field = self.fields["lane"]
        assert isinstance(field, forms.ChoiceField)
        field.choices = lanes
