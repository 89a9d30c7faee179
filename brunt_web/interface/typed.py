"""Reading what a form or an address carries, so that nonsense is refused and never breaks a page."""

from typing import Any

from django import forms
from django.core.exceptions import NON_FIELD_ERRORS

from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.quantities.numbers import read_number


def whole(text: object, most: int = 2**31 - 1) -> int | None:
    """A whole number from plain digits, or nothing: no signs, no superscripts, nothing too large.

    >>> whole("12"), whole("²"), whole("-1"), whole("9" * 40), whole(None)
    (12, None, None, None, None)
    """
    said = str(text or "").strip()
    if not (said.isascii() and said.isdigit()) or len(said) > 12:
        return None
    number = int(said)
    return number if number <= most else None


class QuantityField(forms.CharField):
    """A number with a unit as typed; cleaned to SI. The one field every quantity is read by."""

    def __init__(
        self, dimension: str, unit: str, *, least: float | None = None, **more: Any
    ) -> None:
        self.dimension, self.unit, self.least = dimension, unit, least
        more.setdefault("required", False)
        super().__init__(max_length=more.pop("max_length", 120), **more)

    def clean(self, value: Any) -> float | None:
        """SI, or ``None`` for an empty field."""
        text = super().clean(value)
        if not text:
            return None
        try:
            found = parse(text, self.dimension, self.unit).si
        except InputError as error:
            raise forms.ValidationError(error.sentence) from None
        if self.least is not None and found < self.least:
            raise forms.ValidationError(
                "It must be more than zero." if self.least >= 0 else "It is too small."
            )
        return found


class NumberField(forms.CharField):
    """A bare number as people write it, per cent signs allowed; within limits."""

    def __init__(self, low: float, high: float, *, only_whole: bool = False, **more: Any) -> None:
        self.low, self.high, self.only_whole = low, high, only_whole
        more.setdefault("required", False)
        super().__init__(max_length=40, **more)

    def clean(self, value: Any) -> float | None:
        """The number, or ``None`` for an empty field."""
        text = (super().clean(value) or "").rstrip("% ")
        if not text:
            return None
        try:
            number = read_number(text)
        except InputError as error:
            raise forms.ValidationError(error.sentence) from None
        if not self.low <= number <= self.high or (self.only_whole and number != int(number)):
            kind = "a whole number " if self.only_whole else ""
            raise forms.ValidationError(f"This is {kind}between {self.low:g} and {self.high:g}.")
        return number


def choosing(form: forms.Form, name: str) -> forms.ModelChoiceField:
    """The field of a form that chooses among rows, to be given its rows."""
    field = form.fields[name]
    assert isinstance(field, forms.ModelChoiceField)
    return field


def first_problem(form: forms.Form) -> InputError | None:
    """The first sentence of a form that is not valid, with its field."""
    for field, problems in form.errors.items():
        return InputError(str(problems[0]), "" if field == NON_FIELD_ERRORS else field)
    return None


def checked(form: forms.Form) -> dict[str, Any]:
    """A form's cleaned values. Raises :class:`InputError` with the first field that is not."""
    if form.is_valid():
        return form.cleaned_data
    problem = first_problem(form)
    assert problem is not None
    raise problem
