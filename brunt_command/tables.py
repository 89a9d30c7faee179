"""Reading the columns of a CSV table: words, numbers, and values of which only a bound is known."""

import csv
import io
import re
from collections.abc import Sequence
from typing import Any

from brunt_command.files import text_of
from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.quantities.numbers import read_number

_SIGNS = (
    ((">=", "≥", ">"), Observation.at_least),
    (("<=", "≤", "<"), Observation.at_most),
)
_SPAN = re.compile(r"(.+?)\s*(?:\.\.+|…)\s*(.+)")


def table(path: str, **columns: str) -> list[tuple[int, dict[str, str]]]:
    """The rows of a CSV file as (line, cell by column); lines without any cell of these are passed over.

    Parameters: the columns asked for, by the option that named them.
    Raises :class:`InputError` for a file that cannot be read, a column that is not there, or no rows.
    """
    text = text_of(path)
    lines = text.splitlines()
    first = next((x for x in lines if x.strip()), "")
    reader = csv.DictReader(io.StringIO(text, newline=""), delimiter=max(",;\t", key=first.count))
    names = [n.strip() for n in reader.fieldnames or [] if n]
    if reader.fieldnames:
        reader.fieldnames = [(n or "").strip() for n in reader.fieldnames]
    for option, column in columns.items():
        if column not in names:
            flag = f"--{option.split('_')[0]}"
            raise InputError(
                f"{flag}: there is no column “{column}”; there are: {', '.join(names) or 'none'}.",
                flag,
            )
    found = []
    for row in reader:
        cells = {c: (row[c] or "").strip() for c in columns.values()}
        if any(cells.values()):
            found.append((reader.line_num, cells))
    return found


def observation(text: str, line: int, column: str) -> Observation:
    """A cell: ``61.2``, ``>58``, ``<3``, ``6..8``. Raises :class:`InputError` naming the line."""
    try:
        for marks, build in _SIGNS:
            mark = next((m for m in marks if text.startswith(m)), None)
            if mark:
                return build(read_number(text[len(mark) :]))
        if span := _SPAN.fullmatch(text):
            return Observation.between(*(read_number(t) for t in span.groups()))
        return Observation.exact(read_number(text))
    except InputError as error:
        raise InputError(
            f"--value: line {line}, column {column}: {error.sentence}", "--value"
        ) from None


def number_cell(text: str, line: int, column: str, flag: str) -> float:
    """A cell that is one number. Raises :class:`InputError` naming the line."""
    try:
        return read_number(text)
    except InputError as error:
        raise InputError(f"{flag}: line {line}, column {column}: {error.sentence}", flag) from None


def grouped_observations(path: str, group: str, value: str) -> dict[str, list[Observation]]:
    """Observations by group, in the order of the file; rows without a value are passed over."""
    found: dict[str, list[Observation]] = {}
    for line, row in table(path, group=group, value=value):
        if row[value]:
            found.setdefault(row[group], []).append(observation(row[value], line, value))
    return _some(found, value)


def observations(path: str, value: str) -> list[Observation]:
    """One column of observations."""
    found = [
        observation(row[value], line, value) for line, row in table(path, value=value) if row[value]
    ]
    return _some(found, value)


def settings(path: str, setting: str, value: str) -> tuple[list[float], list[float], int]:
    """A column of settings and one of values; bounds at their bound, and how many those are."""
    rows = [
        (number_cell(r[setting], line, setting, "--setting"), observation(r[value], line, value))
        for line, r in table(path, setting=setting, value=value)
        if r[value]
    ]
    _some(rows, value)
    return [s for s, _ in rows], [o.anchor for _, o in rows], sum(not o.is_exact for _, o in rows)


def factors(
    path: str, names: Sequence[str], value: str, covariates: Sequence[str] = ()
) -> tuple[list[tuple[dict[str, str], float]], int, dict[str, list[float]]]:
    """Rows of levels by factor with a value, how many of those are bounds at their bound, covariates."""
    columns = {f"factor_{i}": n for i, n in enumerate(names)}
    columns |= {f"covariate_{i}": n for i, n in enumerate(covariates)}
    told = [(line, r) for line, r in table(path, **columns, value=value) if r[value]]
    _some(told, value)
    seen = [observation(r[value], line, value) for line, r in told]
    rows = [({n: r[n] for n in names}, o.anchor) for (_, r), o in zip(told, seen, strict=True)]
    beside = {
        c: [number_cell(r[c], line, c, "--covariate") for line, r in told] for c in covariates
    }
    return rows, sum(not o.is_exact for o in seen), beside


def _some(found: Any, value: str) -> Any:
    if not found:
        raise InputError(f"--value: the column “{value}” holds no values.", "--value")
    return found
