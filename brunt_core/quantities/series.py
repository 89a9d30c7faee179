"""Reading a series: rows of "at: value", as a list of readings is written down."""

import re
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.quantities.parsing import parse, parse_series

_PASS = {"pass", "p", "held", "ok", "o", "survived", "0"}
_FAIL = {"fail", "f", "broke", "x", "failed", "1"}
LONGEST = 20_000


@dataclass(frozen=True)
class SeriesRow:
    """One row: where or when (``at``, one or two numbers in SI) and what was read, in SI."""

    at: tuple[float, ...]
    value: float
    text: str


def parse_rows(
    text: str, along: tuple[tuple[str, str], ...], dimension: str, unit: str
) -> tuple[SeriesRow, ...]:
    """Read a series.

    Rows are separated by semicolons or line ends; in a row the value follows a colon or an equals
    sign, and before it stands when or where, two of them joined by ``@``: ``5 s: 0.42 mm`` or
    ``5 N @ 30 s: 0.42 mm``. A value of dimension ``trial`` is ``pass`` or ``fail``. With nothing
    ``along``, a row is a value alone.

    Parameters: ``along`` the (dimension, unit) of each part before the colon; ``dimension`` and
    ``unit`` of the value. Raises :class:`InputError` that quotes the row.

    >>> rows = parse_rows("5 s: 0.4; 1 min: 0.5 mm", (("time", "s"),), "length", "mm")
    >>> [(r.at, r.value) for r in rows]
    [((5.0,), 0.0004), ((60.0,), 0.0005)]
    >>> [round(r.value, 6) for r in parse_rows("5.1; 5.2 g", (), "mass", "g")]
    [0.0051, 0.0052]
    >>> parse_rows("400: pass; 450 mm: fail", (("length", "mm"),), "trial", "")[1].value
    1.0
    """
    if len(text) > LONGEST:
        raise InputError("The series is longer than any set of readings.")
    if not along:
        return tuple(SeriesRow((), p.si, p.text) for p in parse_series(text, dimension, unit))
    rows = [piece.strip() for piece in re.split(r"[;\n]", text) if piece.strip()]
    return tuple(_row(piece, along, dimension, unit) for piece in rows)


def _row(piece: str, along: tuple[tuple[str, str], ...], dimension: str, unit: str) -> SeriesRow:
    left, sign, right = piece.replace("=", ":").partition(":")
    if not sign and dimension == "trial":
        left, _, right = piece.rpartition(" ")
    parts = [p for p in left.split("@") if p.strip()]
    if not right.strip() or len(parts) != len(along):
        raise InputError(f"“{piece}” is not a reading; write it like {example_row(along, unit)}.")
    try:
        at = tuple(parse(p, d, u).si for p, (d, u) in zip(parts, along, strict=True))
        value = _trial(right) if dimension == "trial" else parse(right, dimension, unit).si
    except InputError as error:
        raise InputError(f"In “{piece}”: {error.sentence}") from None
    return SeriesRow(at, value, piece)


def _trial(text: str) -> float:
    word = text.strip().lower()
    if word in _PASS or word in _FAIL:
        return 1.0 if word in _FAIL else 0.0
    raise InputError(f"“{text.strip()}” is neither pass nor fail.")


def example_row(along: tuple[tuple[str, str], ...], unit: str) -> str:
    """How a row is written.

    >>> example_row((("force", "N"), ("time", "s")), "mm")
    '10 N @ 30 s: 0.42 mm'
    >>> example_row((), "g")
    '5.02; 5.05; 4.98 g'
    """
    if not along:
        return f"5.02; 5.05; 4.98 {unit}".strip()
    samples = {"force": "10 N", "time": "30 s", "length": "450 mm"}
    left = " @ ".join(samples.get(d, f"10 {u}".strip()) for d, u in along)
    return f"{left}: {f'0.42 {unit}' if unit else 'fail'}"
