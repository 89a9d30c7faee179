"""A log of a mass or a temperature over time, as typed, pasted or kept in a file."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.quantities.rendering import time_words
from brunt_core.tables import Column, ParsedTable, read_table, unit_or

_TIMES = ("time", "t", "elapsed", "at", "when", "date", "zeit", "temps", "hora", "tempo")
_STAMP = re.compile(r"\d{4}-\d\d-\d\d([ T]\d\d:\d\d(:\d\d)?.*)?$")
_CLOCK = re.compile(r"(\d{1,3}):(\d\d)(?::(\d\d))?$")
_OTHER_DATE = re.compile(r"\d{1,4}[./-]\d{1,2}[./-]\d{1,4}\b")
_WIDE = 4.0


@dataclass(frozen=True)
class LogRow:
    """Seconds since the first row, and the value in SI."""

    time: float
    value: float


@dataclass(frozen=True)
class Log:
    """The rows in order, when the first one was taken where the file says so, and remarks."""

    rows: tuple[LogRow, ...]
    began: datetime | None
    remarks: tuple[str, ...] = ()


def read_log(
    text: str, names: Sequence[str], dimension: str, unit: str, time_unit: str = "h"
) -> Log:
    """Read a table with a column of times and one of values.

    Parameters: ``names`` of the value's column, the first the usual one; its ``dimension`` and the
    ``unit`` where its head names none; ``time_unit`` likewise. Times are numbers in the unit of
    their head, lengths of time (2h30m), clock times (10:45, running on past midnight), or dates
    (2026-03-02 10:45). Two columns of numbers without a head are time and value. Rows are put in
    order; a stretch four times as long as the usual between two rows is remarked.

    Raises :class:`InputError` for a missing column, a cell that cannot be read (with its line), two
    rows of one time with unlike values, a date that may be read two ways, or dates of which only some
    name their zone.

    >>> log = read_log("time (min),core (degC)\\n0,22\\n30,61.5\\n", ("core",), "temperature", "°C")
    >>> [(r.time, round(r.value, 2)) for r in log.rows]
    [(0.0, 295.15), (1800.0, 334.65)]
    """
    table = _table(text, names)
    times, values = _column(table, _TIMES), _column(table, names)
    cells = [
        (line, row[times], row[values])
        for line, row in table.rows
        if max(times, values) < len(row) and row[values]
    ]
    if not cells:
        raise InputError(f"No row holds a {names[0]}.", names[0])
    moments, began = _moments(cells, unit_or(table.columns[times], time_unit))
    head = unit_or(table.columns[values], unit)
    read = [_value(line, cell, names[0], dimension, head) for line, _, cell in cells]
    rows = sorted(zip(moments, read, strict=True))
    kept = [LogRow(t - rows[0][0], v) for t, v in rows]
    for a, b in zip(kept, kept[1:], strict=False):
        if a.time == b.time and a.value != b.value:
            raise InputError(f"Two different rows at {time_words(a.time)}.", "time")
    kept = [r for i, r in enumerate(kept) if i == 0 or r.time != kept[i - 1].time]
    return Log(tuple(kept), began, tuple(_gaps(kept)))


def _table(text: str, names: Sequence[str]) -> ParsedTable:
    first = next((line for line in text.lstrip("\ufeff").splitlines() if line.strip()), "")
    if re.match(r"^[\d\s.,;:\t+\-−hm]+$", first) and re.search(r"\d", first):
        mark = next((m for m in (";", "\t", ",") if m in first), None)
        if mark is None:
            text = re.sub(r"[ \t]+", ";", text.strip())
            mark = ";"
        text = f"time{mark}{names[0]}\n{text}"
    return read_table(text, lambda c: c.name in _TIMES or c.name in names)


def _column(table: ParsedTable, names: Sequence[str]) -> int:
    def fits(column: Column) -> bool:
        return column.name in names or column.name.split(" ")[0] in names

    found = [i for i, c in enumerate(table.columns) if c.name == names[0]]
    found = found or [i for i, c in enumerate(table.columns) if fits(c)]
    if not found:
        heads = ", ".join(c.head for c in table.columns if c.head)
        raise InputError(f"There is no column “{names[0]}”; there are: {heads}.", names[0])
    return found[0]


def _moments(
    cells: Sequence[tuple[int, str, str]], unit: str
) -> tuple[list[float], datetime | None]:
    """Seconds of each row, and the date of the first where there is one."""
    texts = [text for _, text, _ in cells]
    if all(_STAMP.match(t) for t in texts):
        stamps = [_stamp(line, t) for line, t, _ in cells]
        if len({s.tzinfo is None for s in stamps}) > 1:
            raise InputError("Some dates have a time zone and some do not.", "time")
        return [(s - stamps[0]).total_seconds() for s in stamps], min(stamps)
    if all(_CLOCK.match(t) for t in texts):
        return _clocks(cells), None
    found = []
    for line, text, _ in cells:
        if _OTHER_DATE.match(text) and not _STAMP.match(text):
            raise InputError(
                f"Line {line}: “{text}” may be read two ways; write dates as 2026-03-02 10:45.",
                "time",
            )
        try:
            found.append(parse(text, "time", unit).si)
        except InputError as error:
            raise InputError(f"Line {line}: {error.sentence}", "time") from None
    return found, None


def _stamp(line: int, text: str) -> datetime:
    try:
        return datetime.fromisoformat(text)
    except ValueError:
        raise InputError(f"Line {line}: “{text}” is not a date.", "time") from None


def _clocks(cells: Sequence[tuple[int, str, str]]) -> list[float]:
    """Clock times as seconds; each that falls behind the one before is the next day's."""
    found: list[float] = []
    days = 0.0
    for line, text, _ in cells:
        match = _CLOCK.match(text)
        assert match is not None
        hours, minutes, seconds = (float(g or 0) for g in match.groups())
        if minutes >= 60 or seconds >= 60:
            raise InputError(f"Line {line}: “{text}” is not a time of day.", "time")
        at = hours * 3600 + minutes * 60 + seconds + days
        if found and at < found[-1]:
            days += 86400.0
            at += 86400.0
        found.append(at)
    return found


def _value(line: int, cell: str, name: str, dimension: str, unit: str) -> float:
    try:
        return parse(cell, dimension, unit).si
    except InputError as error:
        raise InputError(f"Line {line}: {error.sentence}", name) from None


def _gaps(rows: Sequence[LogRow]) -> list[str]:
    """Stretches with nothing noted, against the usual one."""
    steps = [b.time - a.time for a, b in zip(rows, rows[1:], strict=False)]
    if len(steps) < 4:
        return []
    usual = sorted(steps)[len(steps) // 2]
    return [
        f"No data between {time_words(a.time, 3)} and {time_words(b.time, 3)}."
        for a, b in zip(rows, rows[1:], strict=False)
        if b.time - a.time > _WIDE * usual and b.time < 2 * a.time
    ]
