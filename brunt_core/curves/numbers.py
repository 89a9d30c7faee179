"""The numbers of a logged table: separators, decimal and thousands marks, rows that are none."""

import csv
import re
import warnings
from dataclasses import dataclass

import numpy as np

from brunt_core.errors import InputError

MOST_POINTS = 2_000_000
_BLANKS = " \u00a0\u202f\u2009"
_CELL = re.compile(rf"^[-+]?(\d[\d.,'’{_BLANKS}]*|[.,]\d+)([eE][-+]?\d+)?$")
_DELIMITERS = ("\t", ";", ",", None)
_SHOWN = 60


@dataclass(frozen=True)
class NumberMarks:
    """How numbers are written: the decimal mark and the thousands mark ("" for none)."""

    decimal: str
    thousands: str


@dataclass(frozen=True)
class NumberBlock:
    """The lines of a file from the first row of numbers on, and the head above them."""

    head: tuple[tuple[str, ...], ...]
    lines: tuple[str, ...]
    first: int
    delimiter: str | None


def cells_of(line: str, delimiter: str | None) -> list[str]:
    """A line's cells, quotes taken off.

    >>> cells_of('"1,234.5",0.3', ","), cells_of(" 1  2 ", None)
    (['1,234.5', '0.3'], ['1', '2'])
    """
    if delimiter is None:
        return line.split()
    if '"' in line:
        return [c.strip() for c in next(csv.reader([line], delimiter=delimiter))]
    return [c.strip() for c in line.split(delimiter)]


def _is_row(cells: list[str], delimiter: str | None) -> bool:
    told = [c for c in cells if c]
    if len(told) < 2 or not all(map(_CELL.match, told)):
        return False
    return delimiter not in (",", None) or not any(b in c for c in told for b in _BLANKS)


def find_block(text: str) -> NumberBlock:
    """The table of a file: whatever separates its columns most evenly, and where it begins.

    Raises :class:`InputError` where no two rows of two numbers follow one another.

    >>> find_block("run 3\\nWeg;Kraft\\n0,1;5\\n0,2;10\\n").delimiter
    ';'
    """
    text = text.replace("\r\n", "\n").replace("\r", "\n").replace("−", "-").lstrip("\ufeff")
    lines = text.split("\n")
    if len(lines) > MOST_POINTS:
        raise InputError(f"The curve has more than {MOST_POINTS} points.", "curve")
    best: tuple[int, int, str | None] | None = None
    for delimiter in _DELIMITERS:
        if delimiter and not any(delimiter in x for x in lines[:300]):
            continue
        rows = [_is_row(cells_of(x, delimiter), delimiter) for x in lines[:300]]
        first = next((i for i, (a, b) in enumerate(_next_rows(rows, lines)) if a and b), None)
        if first is not None and (best is None or sum(rows) > best[0]):
            best = (sum(rows), first, delimiter)
    if best is None:
        raise InputError(
            "No two columns of numbers are in this file: displacement and force are needed.",
            "curve",
        )
    _, first, delimiter = best
    head = tuple(tuple(cells_of(x, delimiter)) for x in lines[:first] if x.strip())
    return NumberBlock(head, tuple(lines[first:]), first + 1, delimiter)


def _next_rows(rows: list[bool], lines: list[str]) -> list[tuple[bool, bool]]:
    """Each row with the next that is not blank."""
    pairs, following = [], False
    for row, line in zip(reversed(rows), reversed(lines[: len(rows)]), strict=True):
        pairs.append((row, following))
        following = row if line.strip() else following
    return pairs[::-1]


def decimal_marks(block: NumberBlock) -> list[NumberMarks]:
    """The ways its numbers can be read; more than one where a mark may be either.

    A mark is proved decimal where other than three digits follow it, or where a grouped number
    cannot stand before it (a leading zero, four digits); it is proved a thousands mark where it
    stands twice in a number or before the other mark.

    >>> decimal_marks(find_block("0,5;1.234,5\\n0,6;1.300\\n"))
    [NumberMarks(decimal=',', thousands='.')]
    >>> len(decimal_marks(find_block("1.100;1.234\\n1.200;1.300\\n")))
    2
    """
    body = "\n".join(block.lines)
    other = next((b for b in (*_BLANKS, "'", "’") if _groups(body, b, block.delimiter)), "")
    comma = "," in body and (block.delimiter != "," or _quoted_comma(block))
    point = "." in body
    if not comma or not point:
        mark = "," if comma else "."
        if not (comma or point) or other or _decimal(body, mark):
            return [NumberMarks(mark, other)]
        if _twice(body, mark):
            return [NumberMarks("." if mark == "," else ",", mark)]
        return [NumberMarks(mark, ""), NumberMarks("." if mark == "," else ",", mark)]
    proved = [m for m in (",", ".") if _decimal(body, m, block.delimiter)]
    if len(proved) == 1:
        return [NumberMarks(proved[0], "," if proved[0] == "." else ".")]
    if len(proved) == 2:
        raise InputError(
            "Some numbers of this file have a decimal comma, others a decimal point; write all one way.",
            "curve",
        )
    return [NumberMarks(".", ","), NumberMarks(",", ".")]


def _quoted_comma(block: NumberBlock) -> bool:
    return any('"' in x and any("," in c for c in cells_of(x, ",")) for x in block.lines[:500])


def _groups(body: str, mark: str, delimiter: str | None) -> bool:
    """Whether blanks or apostrophes part groups of three digits."""
    if mark not in body or (mark in _BLANKS and delimiter in (None, ",")):
        return False
    return re.search(rf"\d{re.escape(mark)}\d{{3}}(?!\d)", body) is not None


def _decimal(body: str, mark: str, delimiter: str | None = "") -> bool:
    m = re.escape(mark)
    if mark == "," and delimiter == ",":
        return False
    proofs = (
        rf"\d{m}(?!\d{{3}}(?!\d))\d*(?!\d)(?!{m})",
        rf"(?<![\d.,])(0\d*|\d{{4,}}){m}\d{{3}}(?!\d)",
        rf"(?<!\d){m}\d",
        rf"\d{'[.,]'.replace(mark, '')}\d{{3}}{m}\d" if mark in ".," else r"(?!)",
    )
    return any(re.search(p, body) for p in proofs)


def _twice(body: str, mark: str) -> bool:
    m = re.escape(mark)
    return re.search(rf"\d{m}\d{{3}}{m}\d{{3}}(?!\d)", body) is not None


def number_table(block: NumberBlock, marks: NumberMarks) -> tuple[np.ndarray, list[str]]:
    """All rows of a block as numbers, blank cells as NaN, with notes on lines excluded.

    Lines of words alone (“end of test”) are excluded and said; a line that has numbers and cannot
    be read refuses the file by its number. Nothing is dropped unsaid.

    >>> block = find_block("0,1;1.000,5\\n0,2;1.001\\nend of test\\n")
    >>> table, notes = number_table(block, decimal_marks(block)[0])
    >>> table.tolist(), notes
    ([[0.1, 1000.5], [0.2, 1001.0]], ['line 3 is words, excluded'])
    """
    quick = _quick(block, marks)
    if quick is not None:
        return quick, []
    rows: list[list[float]] = []
    words: list[int] = []
    width = len(cells_of(block.lines[0], block.delimiter))
    for at, line in enumerate(block.lines, start=block.first):
        cells = cells_of(line, block.delimiter)
        if not any(cells):
            continue
        if not any(_CELL.match(c) for c in cells):
            words.append(at)
            continue
        while len(cells) > width and not cells[-1]:
            cells.pop()
        numbers = [_number(c, marks) for c in cells]
        if len(cells) != width or None in numbers:
            raise InputError(_sentence(at, line, cells, width), "curve")
        rows.append([n for n in numbers if n is not None])
    notes = []
    if words:
        told = ", ".join(str(n) for n in words[:6]) + (" …" if len(words) > 6 else "")
        several = len(words) > 1
        notes.append(
            f"line{'s' if several else ''} {told} {'are' if several else 'is'} words, excluded"
        )
    return np.array(rows), notes


def no_mixture(block: NumberBlock, table: np.ndarray) -> InputError | None:
    """The error of a column that falls from hundreds to units where a mark first appears.

    ``998, 999, 1.000, 1.001`` beside a column of decimals: the mark parts thousands there.

    >>> block = find_block("0.25;998\\n0.50;999\\n0.75;1.000\\n1.00;1.001\\n")
    >>> no_mixture(block, number_table(block, NumberMarks(".", ""))[0]).sentence[:31]
    'Line 3: 1.000 follows 999; is t'
    """
    for i in range(table.shape[1]):
        column = table[:, i]
        falls = np.nonzero((column[:-1] >= 900) & (column[1:] >= 1) & (column[1:] < 10))[0]
        if not len(falls) or len(table) != len(block.lines) - block.lines.count(""):
            continue
        rows = [line for line in block.lines if line]
        before, after = (cells_of(rows[falls[0] + k], block.delimiter)[i] for k in (0, 1))
        if before.isdigit() and re.match(r"^\d[.,]\d{3}$", after):
            return InputError(
                f"Line {block.first + int(falls[0]) + 1}: {after} follows {before}; is the mark "
                "a thousands mark in this column? Write its numbers without it.",
                "curve",
            )
    return None


def _sentence(at: int, line: str, cells: list[str], width: int) -> str:
    shown = line.strip()[:_SHOWN] + ("…" if len(line.strip()) > _SHOWN else "")
    if len(cells) != width:
        return (
            f"Line {at} (“{shown}”) has {len(cells)} values where the first has {width}; is a "
            "thousands mark splitting a number?"
        )
    return f"Line {at} (“{shown}”) is not all numbers as the others are written."


def _number(cell: str, marks: NumberMarks) -> float | None:
    """One cell as a number, NaN for blank, None for what is none."""
    if not cell:
        return float("nan")
    if not _CELL.match(cell):
        return None
    whole = cell
    if marks.thousands:
        t, d = re.escape(marks.thousands), re.escape(marks.decimal)
        if not re.match(rf"^[-+]?(\d{{1,3}}({t}\d{{3}})+|\d+)?({d}\d*)?([eE][-+]?\d+)?$", whole):
            return None
        whole = whole.replace(marks.thousands, "")
    if marks.decimal == ",":
        if "." in whole:
            return None
        whole = whole.replace(",", ".")
    try:
        return float(whole)
    except ValueError:
        return None


def _quick(block: NumberBlock, marks: NumberMarks) -> np.ndarray | None:
    """All numbers at one go, when every row has as many as the first and no mark parts groups."""
    if marks.thousands:
        return None
    rows = list(filter(str.strip, block.lines))
    body = "\n".join(rows)
    if '"' in body or (marks.decimal == "," and "." in body):
        return None
    width = len(cells_of(rows[0], block.delimiter))
    if block.delimiter is not None:
        if not _all_have(body, block.delimiter, width - 1):
            return None
        body = body.replace(block.delimiter, " ")
    elif any(len(row.split()) != width for row in rows):
        return None
    body = body.replace(",", ".") if marks.decimal == "," else body
    with warnings.catch_warnings():
        warnings.simplefilter("error", DeprecationWarning)
        try:
            flat = np.fromstring(body, sep=" ")
        except (ValueError, DeprecationWarning):
            return None
    return flat.reshape(-1, width) if len(flat) == width * len(rows) else None


def _all_have(body: str, mark: str, count: int) -> bool:
    """Whether every line has a mark so many times."""
    letters = np.frombuffer(body.encode(), np.uint8)
    ends = np.append(np.nonzero(letters == ord("\n"))[0], len(letters))
    marks = np.nonzero(letters == ord(mark))[0]
    return len(marks) == count * len(ends) and bool(
        np.all(np.diff(np.searchsorted(marks, ends), prepend=0) == count)
    )
