"""Reading files and options of commands, and saying a record in lines."""

import sys
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from brunt_core.errors import InputError
from brunt_core.quantities import parse


def content(path: str) -> bytes:
    """A file's bytes. Raises :class:`InputError` where it cannot be read."""
    try:
        return Path(path).read_bytes()
    except OSError as error:
        raise InputError(f"{path} cannot be read: {error.strerror}.", "FILE") from None


def text_of(path: str) -> str:
    """A file's text, in UTF-8 or marked UTF-16."""
    data = content(path)
    marked = data[:2] in (b"\xff\xfe", b"\xfe\xff")
    try:
        return data.decode("utf-16" if marked else "utf-8-sig")
    except UnicodeDecodeError:
        raise InputError(f"{path} is not a UTF-8 text file.", "FILE") from None


def quantity(text: str, dimension: str, unit: str, name: str) -> float:
    """An option as a quantity in SI; its error names the option."""
    try:
        return parse(text, dimension, unit).si
    except InputError as error:
        raise error.at(name) from None


def above_zero(text: str | None, dimension: str, unit: str, name: str) -> float | None:
    """A quantity above zero; ``None`` where the option is not given."""
    if not text:
        return None
    value = quantity(text, dimension, unit, name)
    if value <= 0:
        raise InputError(f"The {name} must be more than zero.", name)
    return value


def spoken(record: dict[str, Any]) -> str:
    """A record in lines, its remarks last."""
    lines = [
        f"{key.replace('_', ' ')}: {'–' if value is None else value}"
        for key, value in record.items()
        if key != "remarks"
    ]
    return "\n".join([*lines, *record["remarks"]])


def dispatch(commands: Mapping[str, Callable[[list[str]], int]]) -> int:
    """The command named first on the line; a refusal is one sentence that names the field, and 2."""
    try:
        return commands[sys.argv[1]](sys.argv[2:])
    except InputError as error:
        named = error.field and error.field.replace("_", " ") not in error.sentence.lower()
        print(f"{error.field}: {error.sentence}" if named else error.sentence, file=sys.stderr)
        return 2
