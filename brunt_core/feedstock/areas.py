"""Areas of particles from a table."""

from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.tables import read_table


def areas_in(text: str) -> list[float]:
    """Areas in m² of a table with a column “area”, in mm² where its head names no unit.

    Raises :class:`InputError` for a table without it, or a cell that cannot be read, with its line.

    >>> [round(a * 1e6, 3) for a in areas_in("no,area\\n1,2.5\\n2,4\\n")]
    [2.5, 4.0]
    """
    table = read_table(text, lambda c: c.name.startswith("area"))
    column = next((i for i, c in enumerate(table.columns) if c.name.startswith("area")), None)
    if column is None:
        raise InputError("There is no column “area”.", "area")
    unit = table.columns[column].unit or "mm²"
    return [
        _area(line, row[column], unit)
        for line, row in table.rows
        if column < len(row) and row[column]
    ]


def _area(line: int, cell: str, unit: str) -> float:
    try:
        return parse(cell, "area", unit).si
    except InputError as error:
        raise InputError(f"Line {line}: {error.sentence}", "area") from None
