"""Reading a load–displacement file: whatever its separators, decimal mark, header and units."""

import re
import warnings
from dataclasses import dataclass
from io import StringIO
from typing import Any

import numpy as np

from brunt_core.errors import InputError
from brunt_core.quantities.dimensions import DIMENSIONS
from brunt_core.quantities.registry import convert
from brunt_core.tables import read_head

MOST_POINTS = 2_000_000
_NUMBER = re.compile(r"^[-+−]?(\d+([.,]\d*)?|[.,]\d+)([eE][-+]?\d+)?$")
_FORCE_NAMES = ("force", "load", "standard force", "f")
_TRAVEL_NAMES = ("displacement", "extension", "deflection", "travel", "stroke", "position", "x")


@dataclass(frozen=True)
class Curve:
    """Displacement in m and force in N, in the order read; ``notes`` say what was assumed."""

    displacement: np.ndarray
    force: np.ndarray
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class _Column:
    index: int
    unit: str
    assumed: bool


def read_curve(text: str) -> Curve:
    """Read a load–displacement table from text.

    Columns are parted by tab, semicolon, comma or spaces; decimals have a point or, where commas
    do not part columns, a comma. Lines before the numbers are a header: names, and units in
    brackets or on a line of their own. Without names the first column is displacement and the
    second force; without units they are mm and N, and the notes say so.

    Raises :class:`InputError` when no two columns of numbers are found, with fewer than five
    points, and with a unit that is none.

    >>> c = read_curve("travel [mm];load [kgf]\\n0,0;0\\n0,1;5,0\\n0,2;10\\n0,3;15\\n0,4;20")
    >>> round(float(c.force[-1]), 3), round(float(c.displacement[1]), 6)
    (196.133, 0.0001)
    """
    lines = text.replace("\r\n", "\n").replace("\r", "\n").lstrip("\ufeff").split("\n")
    first, delimiter = _find_numbers(lines)
    comma = delimiter != "," and any("," in line for line in lines[first : first + 200])
    table = _numbers(lines[first:], delimiter, comma)
    heads = [_cells(line, delimiter) for line in lines[:first] if line.strip()]
    travel, force = _columns(heads, table.shape[1])
    keep = np.isfinite(table[:, travel.index]) & np.isfinite(table[:, force.index])
    table = table[keep]
    if len(table) < 5:
        raise InputError("A curve needs at least five points; this file has fewer.", "curve")
    notes = [
        f"no unit given for {what}: taken as {column.unit}"
        for what, column in (("displacement", travel), ("force", force))
        if column.assumed
    ]
    if comma:
        notes.append("decimal commas")
    return Curve(
        _to_si(table[:, travel.index], "length", travel.unit),
        _to_si(table[:, force.index], "force", force.unit),
        tuple(notes),
    )


def _cells(line: str, delimiter: str | None) -> list[str]:
    return [c.strip().strip('"') for c in (line.split(delimiter) if delimiter else line.split())]


def _is_row(cells: list[str]) -> bool:
    return sum(bool(_NUMBER.match(c)) for c in cells) >= 2 and all(
        _NUMBER.match(c) or c == "" for c in cells
    )


def _find_numbers(lines: list[str]) -> tuple[int, str | None]:
    """The first of two rows of numbers in a row, and what parts their columns."""
    for delimiter in ("\t", ";", ",", None):
        for i, line in enumerate(lines[:200]):
            if line.strip() and _is_row(_cells(line, delimiter)):
                following = next((x for x in lines[i + 1 :] if x.strip()), "")
                if _is_row(_cells(following, delimiter)):
                    return i, delimiter
    raise InputError(
        "No two columns of numbers are in this file: displacement and force are needed.", "curve"
    )


def _numbers(lines: list[str], delimiter: str | None, comma: bool) -> np.ndarray:
    if len(lines) > MOST_POINTS:
        raise InputError(f"The curve has more than {MOST_POINTS} points.", "curve")
    body = "\n".join(lines).replace("−", "-").replace('"', "")
    if comma:
        body = body.replace(",", ".")
    quick = _quick(body, delimiter)
    if quick is not None:
        return quick
    try:
        return np.loadtxt(StringIO(body), delimiter=delimiter, ndmin=2, comments=None)
    except ValueError:
        return _forgiving(body.split("\n"), delimiter)


def _quick(body: str, delimiter: str | None) -> np.ndarray | None:
    """All numbers at one go, when every row has as many as the first."""
    rows = [line for line in body.split("\n") if line and not line.isspace()]
    width = len(_cells(rows[0], delimiter))
    spaced = " ".join(rows).replace(delimiter or " ", " ")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", DeprecationWarning)
        try:
            flat = np.fromstring(spaced, sep=" ")
        except ValueError:
            return None
    return flat.reshape(-1, width) if len(flat) == width * len(rows) else None


def _forgiving(lines: list[str], delimiter: str | None) -> np.ndarray:
    """Row by row, leaving out what is no row of numbers."""
    rows = [_cells(line, delimiter) for line in lines]
    rows = [r for r in rows if _is_row(r)]
    width = min(len(r) for r in rows)
    return np.array([[float(c) if c else np.nan for c in r[:width]] for r in rows])


def _columns(heads: list[list[str]], width: int) -> tuple[_Column, _Column]:
    named = [h for h in heads if len(h) >= 2]
    names, units = [""] * width, [""] * width
    for head in named:
        for i, cell in enumerate(head[:width]):
            found = read_head(cell)
            if _unit_of(cell):
                units[i] = cell
            elif found.name:
                names[i] = found.name
                units[i] = units[i] or found.unit
    force = _pick(names, units, "force", _FORCE_NAMES, 1 if width > 1 else 0)
    travel = _pick(names, units, "length", _TRAVEL_NAMES, 0 if force.index != 0 else 1)
    return travel, force


def _unit_of(cell: str) -> str:
    bare = cell.strip().strip("[]()")
    return next(
        (d for d in ("force", "length") if bare and DIMENSIONS[d].unit_of(bare) is not None), ""
    )


def _pick(
    names: list[str], units: list[str], dimension: str, words: tuple[str, ...], otherwise: int
) -> Any:
    kind = DIMENSIONS[dimension]
    by_unit = [i for i, u in enumerate(units) if u and kind.unit_of(u.strip("[]()")) is not None]
    by_name = [i for i, n in enumerate(names) if any(n == w or n.startswith(w) for w in words)]
    both = [i for i in by_name if i in by_unit]
    index = (both or by_unit or by_name or [otherwise])[0]
    unit = units[index].strip("[]()")
    if unit and kind.unit_of(unit) is None:
        raise InputError(f"“{unit}” is not a unit of {kind.name}; write it in the header.", "curve")
    return _Column(index, unit or kind.shown, not unit)


def _to_si(values: np.ndarray, dimension: str, unit: str) -> np.ndarray:
    kind = DIMENSIONS[dimension]
    expression = kind.unit_of(unit) or kind.si
    return np.asarray(values, float) * convert(1.0, expression, kind.si)
