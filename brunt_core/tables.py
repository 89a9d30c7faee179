"""Reading a table of results as people keep them: delimiter, decimal comma, units in the head."""

import csv
import io
import re
from collections.abc import Callable
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.quantities.dimensions import DIMENSIONS

_HEAD = re.compile(
    r"^\s*(?P<name>.*?)\s*(?:\[(?P<a>[^\]]*)\]|\((?P<b>[^)]*)\)|/\s*(?P<c>[^/\s]+)|,\s*(?P<d>\S+))\s*$"
)
MOST_ROWS = 5000
_HEAD_WITHIN = 40
_DELIMITERS = ("\t", ";", ",", "|")
_SUMMARY = frozenset(
    (
        "mean,average,avg,std,sd,stdev,std dev,st dev,standard deviation,cv,cov,rsd,min,max,minimum,"
        "maximum,median,n,count,sum,total,range,mittelwert,mw,mittel,standardabweichung,stabw,anzahl,"
        "summe,moyenne,écart type,médiane,somme,nombre,media,promedio,desviación,desv est,"
        "desviación estándar,mediana,deviazione standard,gemiddelde,standaardafwijking,średnia,"
        "odchylenie,среднее,平均,平均值,平均値,标准差,標準偏差,最大值,最小值,المتوسط,میانگین"
    ).split(",")
)
Row = tuple[int, tuple[str, ...]]


@dataclass(frozen=True)
class Column:
    """A column's head as it stands, its name folded, and the unit found in it."""

    head: str
    name: str
    unit: str


@dataclass(frozen=True)
class ParsedTable:
    """Columns, and rows as (line number in the file, cells).

    ``above`` are the title lines before the head, ``summary`` the lines of means, standard deviations and
    counts, ``repeated`` the numbers of lines that repeat the head; none of them is a row.
    """

    columns: tuple[Column, ...]
    rows: tuple[Row, ...]
    above: tuple[str, ...] = ()
    summary: tuple[Row, ...] = ()
    repeated: tuple[int, ...] = ()


def read_table(text: str, known: Callable[[Column], bool] | None = None) -> ParsedTable:
    """Split delimited text into columns and rows, as people keep tables.

    The delimiter is whichever of tab, semicolon, comma and bar gives the best head. The head is the
    line with most columns that are ``known``, else the first of words above a line with numbers;
    lines above it are titles. A line of units under the head belongs to it. Blank lines are passed
    over; lines of means and varies are kept apart. Raises :class:`InputError` for text without a
    head and a row, for two columns of one name, and for more than :data:`MOST_ROWS` rows.

    >>> t = read_table("Material;Load [kgf];Width (mm)\\nPLA;58,4;5\\n")
    >>> [(c.name, c.unit) for c in t.columns], t.rows
    ([('material', ''), ('load', 'kgf'), ('width', 'mm')], ((2, ('PLA', '58,4', '5')),))
    >>> t = read_table("Pulled in July\\n\\nmaterial,load\\n,kgf\\nPLA,58.4\\nMean,58.4\\n")
    >>> t.above, t.columns[1].unit, len(t.rows), t.summary
    (('Pulled in July',), 'kgf', 1, ((6, ('Mean', '58.4')),))
    """
    found = known or (lambda column: False)
    grids = [_grid(text.lstrip("\ufeff"), d) for d in _DELIMITERS]
    heads = [_head_at(grid, found) for grid in grids]
    scored = [h for h in heads if h is not None]
    if not scored:
        if any(len(grid) == 1 and len(grid[0][1]) > 1 for grid in grids):
            raise InputError("The file has a header but no rows.", "file")
        raise InputError(
            "A line must name at least two columns, separated by commas, semicolons or tabs.",
            "file",
        )
    best = max(scored, key=lambda h: h.score)
    return _table(best)


@dataclass(frozen=True)
class _Head:
    grid: list[Row]
    at: int
    score: tuple[int, int, int]


def _grid(text: str, delimiter: str) -> list[Row]:
    """All lines that are not blank, with the number each begins at."""
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    rows, line = [], 1
    try:
        for row in reader:
            if any(c.strip() for c in row):
                rows.append((line, tuple(c.strip() for c in row)))
            line = reader.line_num + 1
    except csv.Error as error:
        raise InputError(f"Line {line} cannot be read as a table: {error}.", "file") from None
    return rows


def _head_at(grid: list[Row], known: Callable[[Column], bool]) -> _Head | None:
    """The best line to be the head of a grid."""
    found = None
    for at, (_, cells) in enumerate(grid[:_HEAD_WITHIN]):
        told = [c for c in cells if c]
        if len(told) < 2 or at + 1 >= len(grid):
            continue
        if sum(_is_number(c) for c in told) * 2 > len(told):
            continue
        named = sum(known(read_head(c)) for c in told)
        below = grid[at + 1 :]
        alike = sum(len([c for c in row if c]) >= 2 and len(row) == len(cells) for _, row in below)
        numbers = any(_is_number(c) for _, row in below[:3] for c in row)
        score = (named, min(alike, 5) + numbers, len(told))
        if found is None or score > found.score:
            found = _Head(grid, at, score)
    return found


def _table(head: _Head) -> ParsedTable:
    grid, at = head.grid, head.at
    names = grid[at][1]
    columns = _columns(names)
    rest = grid[at + 1 :]
    if rest and _all_units(rest[0][1]):
        units = rest[0][1]
        columns = tuple(
            Column(c.head, c.name, c.unit or (units[i].strip("[]()") if i < len(units) else ""))
            for i, c in enumerate(columns)
        )
        rest = rest[1:]
    repeated = tuple(line for line, cells in rest if cells == names)
    rest = [row for row in rest if row[1] != names]
    summary = tuple(row for row in rest if _sums_up(row[1]))
    rows = tuple(row for row in rest if not _sums_up(row[1]))
    if not rows:
        raise InputError("The file has a header but no rows.", "file")
    if len(rows) > MOST_ROWS:
        raise InputError(
            f"The file has {len(rows)} rows; import at most {MOST_ROWS} at a time.", "file"
        )
    above = tuple(" ".join(c for c in cells if c) for _, cells in grid[:at])
    return ParsedTable(columns, rows, above, summary, repeated)


def _is_number(cell: str) -> bool:
    return bool(re.match(r"^[<>≥≤~+\-−]?\s*[\d.,]*\d", cell))


def _all_units(cells: tuple[str, ...]) -> bool:
    told = [c.strip("[]() ") for c in cells if c and c not in ("-", "–")]
    return bool(told) and all(_is_unit(c) for c in told)


def _sums_up(cells: tuple[str, ...]) -> bool:
    """Whether a line is a mean, a standard deviation or a count, by its first word."""
    first = next((c for c in cells if c), "")
    return " ".join(re.sub(r"[^\w]+|_", " ", first.casefold()).split()) in _SUMMARY


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


def unit_or(column: Column, usual: str) -> str:
    """The unit that a column's head names, or the usual one where it names none.

    Raises :class:`InputError` where brackets hold a word that is no unit: it may be one all the same.

    >>> unit_or(read_head("mass (mg)"), "g"), unit_or(read_head("mass"), "g")
    ('mg', 'g')
    >>> unit_or(read_head("mass [stone]"), "g")
    Traceback (most recent call last):
    brunt_core.errors.InputError: “mass [stone]”: “stone” is not a unit that Brunt knows; rename the column.
    """
    found = re.search(r"[\[(]\s*([^\s\])]+)\s*[\])]\s*$", column.head)
    if not column.unit and found:
        raise InputError(
            f"“{column.head}”: “{found[1]}” is not a unit that Brunt knows; rename the column.",
            column.name,
        )
    return column.unit or usual


def _is_unit(text: str) -> bool:
    return bool(text) and any(d.unit_of(text) is not None for d in DIMENSIONS.values())
