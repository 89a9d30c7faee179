"""Areas of particles from a table."""

import re

from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.tables import read_table, unit_or

_ALONE = re.compile(r"\s*areas?\b[^,;\t|]*$", re.IGNORECASE)


def areas_in(text: str) -> list[float]:
    """Areas in m² of a table with a column “area”, in mm² where its head names no unit.

    The column may stand alone. Raises :class:`InputError` for a table without it, a cell that cannot be
    read, with its line, or an area that is not above zero.

    >>> [round(a * 1e6, 3) for a in areas_in("no,area\\n1,2.5\\n2,4\\n")]
    [2.5, 4.0]
    """
    lines = text.lstrip("\ufeff").strip().splitlines()
    if lines and _ALONE.match(lines[0]):
        text = "no;" + "\n;".join(lines)
    table = read_table(text, lambda c: c.name.startswith("area"))
    column = next((i for i, c in enumerate(table.columns) if c.name.startswith("area")), None)
    if column is None:
        raise InputError("There is no column “area”.", "area")
    unit = unit_or(table.columns[column], "mm²")
    return [
        _area(line, row[column], unit)
        for line, row in table.rows
        if column < len(row) and row[column]
    ]


def _area(line: int, cell: str, unit: str) -> float:
    try:
        found = parse(cell, "area", unit).si
    except InputError as error:
        raise InputError(f"Line {line}: {error.sentence}", "area") from None
    if found <= 0:
        raise InputError(f"Line {line}: an area must be more than zero.", "area")
    return found
