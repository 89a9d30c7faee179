"""A file of results as text: delimited text in any usual encoding, or a spreadsheet."""

import csv
import io
import re
import zipfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from python_calamine import CalamineError, CalamineWorkbook

from brunt_core.errors import InputError
from brunt_core.tables import Column, read_table
from brunt_web.interface.bounded import read_bounded

MOST_BYTES = 5_000_000
MOST_TEXT = 1_500_000
_MOST_UNPACKED = 150_000_000
_MOST_SPAN = 2_000_000
_PLACE = re.compile(rb'<c[^>]*?\sr="([A-Z]{1,3})([0-9]{1,7})"')
_ZIP, _OLE = b"PK\x03\x04", b"\xd0\xcf\x11\xe0"
_Cell = int | float | str | bool | time | date | datetime | timedelta | None


@dataclass(frozen=True)
class Read:
    """A file's text, and what is to be said of how it was read."""

    text: str
    notes: tuple[str, ...] = ()


def spreadsheet_text(
    name: str, raw: bytes, known: Callable[[Column], bool], sheet: str = ""
) -> Read:
    """Read a file. A spreadsheet gives the sheet asked for, else the one whose head is best known.

    Raises :class:`InputError` for what is neither text nor a spreadsheet, and for too much of it.
    """
    if len(raw) > MOST_BYTES:
        raise InputError(
            f"The file has {len(raw) / 1e6:.1f} MB; a results file stays under 5 MB.", "file"
        )
    if raw[:4] in (_ZIP, _OLE):
        read = _sheet(name, raw, known, sheet)
    else:
        read = Read(read_bounded(plain_text, name, raw))
    if len(read.text) > MOST_TEXT:
        raise InputError("The table is too large: import at most 5000 rows at a time.", "file")
    return read


def plain_text(name: str, raw: bytes) -> str:
    """Text by its mark, else UTF-16 by its zeros, else UTF-8, else the old western code page.

    Raises :class:`InputError` for what is no text.
    """
    if raw[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return raw.decode("utf-16", errors="replace")
    zeros = [raw[i:4000:2].count(0) for i in (0, 1)]
    if max(zeros) * 4 > min(len(raw), 4000) and min(zeros) * 10 < max(zeros):
        return raw.decode("utf-16-le" if zeros[1] > zeros[0] else "utf-16-be", errors="replace")
    if b"\0" in raw:
        raise InputError(
            f"{name} is not a text file nor a spreadsheet. Save the table as CSV, XLSX or ODS.",
            "file",
        )
    try:
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        return raw.decode("cp1252", errors="replace")


def _sheet(name: str, raw: bytes, known: Callable[[Column], bool], wanted: str) -> Read:
    tables = read_bounded(sheets_of, name, raw)
    filled = {n: t for n, t in tables.items() if t.strip()}
    if not filled:
        raise InputError(f"{name} has no cells with anything in them.", "file")
    if wanted and wanted not in filled:
        raise InputError(
            f"There is no sheet “{wanted}” with anything in it; there are {', '.join(filled)}.",
            "sheet",
        )
    best = wanted or max(filled, key=lambda n: _known_heads(filled[n], known))
    others = [n for n in filled if n != best]
    notes = [f"Read from sheet “{best}”" + (f", not {', '.join(others)}" if others else "") + "."]
    return Read(filled[best], tuple(notes) if others else ())


def sheets_of(name: str, raw: bytes) -> dict[str, str]:
    """Every sheet of a spreadsheet as tab-separated text.

    Raises :class:`InputError` for what cannot be read, unpacks to too much, or spans far more than it fills.
    """
    _check_size(name, raw)
    _check_span(name, raw)
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(raw))
        tables = {n: _as_text(book.get_sheet_by_name(n).to_python()) for n in book.sheet_names}
    except (CalamineError, ValueError, OSError) as error:
        raise InputError(
            f"{name} cannot be read as a spreadsheet: {str(error)[:120]}.", "file"
        ) from None
    if any(len(text) > 4 * MOST_TEXT for text in tables.values()):
        raise InputError("The table is too large: import at most 5000 rows at a time.", "file")
    return tables


def _check_span(name: str, raw: bytes) -> None:
    """Refuse a sheet with a stray cell far off, before a table is made of all that lies between."""
    if raw[:4] != _ZIP:
        return
    with zipfile.ZipFile(io.BytesIO(raw)) as packed:
        for part in packed.namelist():
            if not re.fullmatch(r"xl/worksheets/[^/]+\.xml", part):
                continue
            rows = columns = cells = 0
            rest = b""
            with packed.open(part) as content:
                while block := content.read(1 << 18):
                    text = rest + block
                    for letters, row in _PLACE.findall(text):
                        cells += 1
                        rows = max(rows, int(row))
                        columns = max(columns, _column(letters))
                    cut = text.rfind(b"<")
                    rest = text[cut:] if cut >= len(text) - 200 else b""
            if rows * columns > _MOST_SPAN and rows * columns > 50 * cells:
                raise InputError(
                    f"{name} has a cell in row {rows}, column {columns} and only {cells} filled ones: delete cells far outside the table and save it again.",
                    "file",
                )


def _column(letters: bytes) -> int:
    """The number of a column by its letters, ``A`` 1, ``XFD`` 16384."""
    number = 0
    for letter in letters:
        number = number * 26 + letter - 64
    return number


def _check_size(name: str, raw: bytes) -> None:
    if raw[:4] != _ZIP:
        return
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as packed:
            size = sum(i.file_size for i in packed.infolist())
    except zipfile.BadZipFile:
        raise InputError(f"{name} is damaged: it cannot be unpacked.", "file") from None
    if size > _MOST_UNPACKED:
        raise InputError(
            f"{name} unpacks to {size / 1e6:.0f} MB; that is not a results file.", "file"
        )


def _known_heads(text: str, known: Callable[[Column], bool]) -> int:
    try:
        return sum(known(c) for c in read_table(text, known).columns)
    except InputError:
        return -1


def _as_text(rows: Sequence[Sequence[_Cell]]) -> str:
    """Rows as tab-separated text; line numbers stay those of the sheet."""
    out = io.StringIO()
    writer = csv.writer(out, delimiter="\t", lineterminator="\n")
    for row in rows:
        cells = [_cell(c) for c in row]
        while cells and not cells[-1]:
            cells.pop()
        writer.writerow(cells)
    return out.getvalue()


def _cell(value: _Cell) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.15g}"
    if isinstance(value, datetime | date | time):
        return value.isoformat()
    return " ".join(str(value).split())
