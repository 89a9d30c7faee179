"""How a turn is named in an address: the specimen's ID, and which of its tests."""

from typing import NamedTuple

from django.urls import register_converter

from brunt_core.identifiers import tidy_code


class TurnName(NamedTuple):
    """A specimen's ID and the number of its test from 1; ``None`` for the one that comes next."""

    code: str
    step: int | None = None


class CodeConverter:
    """A specimen's ID, however it was typed."""

    regex = r"[A-Za-z0-9 -]{5,9}"

    def to_python(self, value: str) -> str:
        """The written form; a wrong one stays as typed and is not found."""
        return tidy_code(value) or value

    def to_url(self, value: str) -> str:
        """As written."""
        return value


class TurnConverter:
    """A specimen's ID, with the number of its test where it has several: ``K7-3HD`` or ``K7-3HD/2``."""

    regex = r"[A-Za-z0-9 -]{5,9}(?:/[1-9])?"

    def to_python(self, value: str) -> TurnName:
        """ID and number."""
        code, _, step = value.partition("/")
        return TurnName(tidy_code(code) or code, int(step) if step else None)

    def to_url(self, value: object) -> str:
        """From a turn, its name, or text."""
        if isinstance(value, TurnName):
            return f"{value.code}/{value.step}" if value.step else value.code
        return str(value)


register_converter(CodeConverter, "code")
register_converter(TurnConverter, "turn")
