"""Reading what a form or an address carries, so that nonsense is refused and never breaks a page."""

from collections.abc import Callable
from decimal import Decimal
from typing import Any, TypeVar

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


class TypedField(forms.Form):
    """A form whose fields are checked here alone: the browser marks none as required."""

    use_required_attribute = False


class QuantityField(forms.CharField):
    """A number with a unit as typed; cleaned to SI. The one field every quantity is read by.

    ``least`` and ``most`` are limits in SI, ``above`` one it must exceed; ``limits`` is the sentence
    for what lies outside them, ``{}`` standing for what was typed.
    """

    def __init__(
        self,
        dimension: str,
        unit: str | None = None,
        *,
        least: float | None = None,
        most: float | None = None,
        above: float | None = None,
        limits: str = "",
        **more: Any,
    ) -> None:
        self.dimension, self.unit = dimension, unit
        self.least, self.most, self.above, self.limits = least, most, above, limits
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
        small = self.least is not None and found < self.least
        if small or (self.above is not None and found <= self.above):
            raise forms.ValidationError(self._outside(text) or self._too_small())
        if self.most is not None and found > self.most:
            raise forms.ValidationError(self._outside(text) or "It is too large.")
        return found

    def _outside(self, text: str) -> str:
        return self.limits.replace("{}", text)

    def _too_small(self) -> str:
        return "It must be more than zero." if self.above == 0 else "It cannot be less than zero."


class NameField(forms.CharField):
    """What something is called: blanks folded, not longer than fits beside a drawing."""

    def __init__(self, needed: str, most: int = 80, **more: Any) -> None:
        self.most = most
        super().__init__(error_messages={"required": needed}, **more)

    def clean(self, value: Any) -> str:
        """The name with single blanks."""
        name = " ".join((super().clean(value) or "").split())
        if len(name) > self.most:
            raise forms.ValidationError(
                f"The name has {len(name)} characters; {self.most} is the most."
            )
        return name


class PriceField(forms.CharField):
    """An amount of money, a currency's sign allowed; ``None`` where nothing is known."""

    def clean(self, value: Any) -> Decimal | None:
        """The amount to two places."""
        text = (super().clean(value) or "").strip(" €$£")
        if not text:
            return None
        try:
            amount = read_number(text)
        except InputError:
            raise forms.ValidationError(f"“{text}” is not a price.") from None
        if amount < 0:
            raise forms.ValidationError("A price cannot be negative.")
        if amount >= 10**7:
            raise forms.ValidationError("That is more than a price can be here.")
        return Decimal(f"{amount:.2f}")


class NumberField(forms.CharField):
    """A bare number as people write it, per cent signs allowed; within limits."""

    def __init__(self, low: float, high: float, *, only_whole: bool = False, **more: Any) -> None:
        self.low, self.high, self.only_whole = low, high, only_whole
        more.setdefault("required", False)
        super().__init__(max_length=40, **more)

    def clean(self, value: Any) -> float | None:
        """The number, or ``None`` for an empty field."""
        text = (super().clean(value) or "").rstrip("%° ")
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


def one_sentence(said: str) -> dict[str, str]:
    """The same sentence for a field that is empty and for one that names what there is not."""
    return {"required": said, "invalid_choice": said}


Made = TypeVar("Made")


def kept(form: forms.Form, store: Callable[..., Made]) -> Made | None:
    """What ``store`` makes of a form's values; ``None``, with the sentence beside its field, if it is refused."""
    if not form.is_valid():
        return None
    try:
        return store(**form.cleaned_data)
    except InputError as error:
        form.add_error(error.field if error.field in form.fields else None, error.sentence)
        return None


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
