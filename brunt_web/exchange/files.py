"""A file of results as text: delimited text in any usual encoding, or a spreadsheet."""

import csv
import io
import zipfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from python_calamine import CalamineError, CalamineWorkbook

from brunt_core.errors import InputError
from brunt_core.tables import Column, read_table

MOST_BYTES = 5_000_000
MOST_TEXT = 1_500_000
_MOST_UNPACKED = 150_000_000
_ZIP, _OLE = b"PK\x03\x04", b"\xd0\xcf\x11\xe0"
_Cell = int | float | str | bool | time | date | datetime | timedelta | None


@dataclass(frozen=True)
class Read:
    """A file's text, and what is to be said of how it was read."""

    text: str
    notes: tuple[str, ...] = ()


def text_of(name: str, raw: bytes, known: Callable[[Column], bool], sheet: str = "") -> Read:
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
        read = Read(_decoded(name, raw))
    if len(read.text) > MOST_TEXT:
        raise InputError("The table is too large: bring in at most 5000 rows at a time.", "file")
    return read


def _decoded(name: str, raw: bytes) -> str:
    """Text by its mark, else UTF-16 by its zeros, else UTF-8, else the old western code page."""
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
    _check_size(name, raw)
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(raw))
        tables = {n: _as_text(book.get_sheet_by_name(n).to_python()) for n in book.sheet_names}
    except (CalamineError, ValueError, OSError) as error:
        raise InputError(
            f"{name} cannot be read as a spreadsheet: {str(error)[:120]}.", "file"
        ) from None
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


def _check_size(name: str, raw: bytes) -> None:
    if raw[:4] != _ZIP:
        return
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as packed:
            size = sum(i.file_size for i in packed.infolist())
    except zipfile.BadZipFile:
        raise InputError(f"{name} is damaged: it cannot be unpacked.", "file") from None
    if size > _MOST_UNPACKED:
        raise InputError(f"{name} unpacks to {size / 1e6:.0f} MB; that is no results file.", "file")


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
