"""A value as a cell and back: nothing of it may be lost, and nothing but its kind is accepted."""

import json
from datetime import UTC, date, datetime
from decimal import Decimal, InvalidOperation
from math import isfinite
from typing import Any
from uuid import UUID

from django.db import models

from brunt_core.errors import InputError
from brunt_web.interface.records import RecordField

KINDS = {
    "BooleanField": "boolean",
    "FloatField": "number",
    "DecimalField": "number",
    "JSONField": "string",
    "DateTimeField": "datetime",
    "DateField": "date",
}


def kind_of(field: models.Field) -> str:
    """The kind of a column in the schema."""
    if field.is_relation:
        return "integer"
    name = field.get_internal_type()
    if "Integer" in name:
        return "integer"
    return KINDS.get(name, "string")


def write_cell(field: models.Field, value: Any) -> str:
    """A cell; empty for nothing known."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, float):
        return repr(value)
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat().replace("+00:00", "Z")
    if field.get_internal_type() == "JSONField":
        return json.dumps(value, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
    text = str(value)
    return f"'{text}" if text.startswith("'") or (not text and not field.null) else text


def read_cell(field: models.Field, text: str) -> Any:
    """What a cell says. Raises :class:`InputError` for what is not of its kind."""
    kind = kind_of(field)
    if text == "":
        if field.get_internal_type() == "UUIDField":
            return None
        if field.null or kind == "string" and field.get_internal_type() != "JSONField":
            return None if field.null else ""
        raise InputError("is empty")
    try:
        return _READ.get(field.get_internal_type(), _read_text)(field, text)
    except InputError:
        raise
    except (ValueError, InvalidOperation, RecursionError):
        raise InputError(f"“{text[:40]}” is no {kind}") from None


def _read_text(field: models.Field, text: str) -> Any:
    if "Integer" in field.get_internal_type() or field.is_relation:
        number = int(text)
        if not -(2**31) <= number < 2**31 or (number < 0 and "Positive" in field.get_internal_type()):  # fmt: skip
            raise ValueError
        return number
    found = text[1:] if text.startswith("'") else text
    if field.max_length and len(found) > field.max_length:
        raise InputError(f"has more than {field.max_length} characters")
    if "\x00" in found:
        raise ValueError
    choices = [c for c, _ in field.flatchoices]
    if choices and found and found not in choices:
        raise ValueError
    return found


def _read_float(field: models.Field, text: str) -> float:
    number = float(text)
    if not isfinite(number):
        raise ValueError
    return number


def _read_json(field: models.Field, text: str) -> Any:
    found = json.loads(text, parse_constant=_no_constant)
    if isinstance(field, RecordField):
        return _read_record(field, found)
    shape: Any = field.default
    if shape in (dict, list) and not isinstance(found, shape):
        raise ValueError
    return found


def _read_record(field: RecordField, found: Any) -> Any:
    """What is read must be what the field holds."""
    try:
        field.read(found)
    except (TypeError, AttributeError):
        raise ValueError from None
    return found


def _no_constant(word: str) -> Any:
    raise ValueError(word)


def _read_time(field: models.Field, text: str) -> datetime:
    found = datetime.fromisoformat(text)
    if found.tzinfo is None:
        raise ValueError
    return found


_READ: dict[str, Any] = {
    "BooleanField": lambda f, t: {"true": True, "false": False}[t] if t in ("true", "false") else int("x"),
    "FloatField": _read_float,
    "DecimalField": lambda f, t: Decimal(t),
    "JSONField": _read_json,
    "DateTimeField": _read_time,
    "DateField": lambda f, t: date.fromisoformat(t),
    "UUIDField": lambda f, t: UUID(t),
}  # fmt: skip
