"""Reading a table of results as people keep them: delimiter, decimal comma, units in the head."""

import csv
import io
import re
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.quantities.dimensions import DIMENSIONS

_HEAD = re.compile(
    r"^\s*(?P<name>.*?)\s*(?:\[(?P<a>[^\]]*)\]|\((?P<b>[^)]*)\)|/\s*(?P<c>[^/\s]+)|,\s*(?P<d>\S+))\s*$"
)
MOST_ROWS = 5000


@dataclass(frozen=True)
class Column:
    """A column's head as it stands, its name folded, and the unit found in it."""

    head: str
    name: str
    unit: str


@dataclass(frozen=True)
class Table:
    """Columns, and rows as (line number in the file, cells)."""

    columns: tuple[Column, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]


def read_table(text: str) -> Table:
    """Split delimited text into columns and rows.

    The delimiter is whichever of tab, semicolon and comma the head line has most of. Empty lines
    are passed over. Raises :class:`InputError` for text without a head and a row, for two columns
    of one name, and for more than :data:`MOST_ROWS` rows.

    >>> t = read_table("Material;Load [kgf];Width (mm)\\nPLA;58,4;5\\n")
    >>> [(c.name, c.unit) for c in t.columns], t.rows
    ([('material', ''), ('load', 'kgf'), ('width', 'mm')], ((2, ('PLA', '58,4', '5')),))
    """
    text = text.lstrip("\ufeff")
    head = next((line for line in text.splitlines() if line.strip()), "")
    delimiter = max("\t;,", key=head.count)
    if not head.count(delimiter):
        raise InputError(
            "The first line must name at least two columns, separated by commas, "
            "semicolons or tabs.",
            "file",
        )
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    lines = [
        (reader.line_num, tuple(c.strip() for c in row))
        for row in reader
        if any(c.strip() for c in row)
    ]
    if len(lines) < 2:
        raise InputError("The file has a head but no rows.", "file")
    if len(lines) - 1 > MOST_ROWS:
        raise InputError(
            f"The file has {len(lines) - 1} rows; bring in at most {MOST_ROWS} at a time.", "file"
        )
    return Table(_columns(lines[0][1]), tuple(lines[1:]))


def _columns(heads: tuple[str, ...]) -> tuple[Column, ...]:
    columns = tuple(read_head(head) for head in heads)
    names = [c.name for c in columns if c.name]
    twice = next((n for n in names if names.count(n) > 1), None)
    if twice:
        raise InputError(f"Two columns are called “{twice}”; rename one.", "file")
    return columns


def read_head(head: str) -> Column:
    """Name and unit of a column's head: ``Load [kgf]``, ``load (kgf)``, ``load / kgf``, ``load_kgf``.

    >>> read_head("Peak load_kgf").unit, read_head("note (free)").name
    ('kgf', 'note free')
    """
    found = _HEAD.match(head)
    unit = next((u for u in found.groups()[1:] if u is not None), "").strip() if found else ""
    name = found["name"] if found else head
    if found and not _is_unit(unit):
        name, unit = head, ""
    if not unit:
        front, _, last = re.sub(r"_", " ", name).rpartition(" ")
        if front and _is_unit(last) and last.lower() not in ("in", "to"):
            name, unit = front, last
    return Column(head, " ".join(re.sub(r"[^\w%]+|_", " ", name).lower().split()), unit)


def _is_unit(text: str) -> bool:
    return bool(text) and any(d.unit_of(text) is not None for d in DIMENSIONS.values())
