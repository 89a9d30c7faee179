"""Which columns of a logged table are load and travel: by their heads, else by their shape."""

import unicodedata
from dataclasses import dataclass
from itertools import permutations

import numpy as np

from brunt_core.errors import InputError
from brunt_core.quantities.dimensions import DIMENSIONS
from brunt_core.tables import read_head

_WORDS = {
    "force": (
        "force load kraft last prufkraft effort charge fuerza carga forza carico kracht belasting "
        "obciazenie sila kuvvet yuk сила нагрузка усилие 力 荷重 载荷 載荷 试验力 القوة الحمل نیرو f p"
    ).split(),
    "travel": (
        "displacement extension extensometer deflection travel stroke position crosshead elongation weg "
        "traverse traversenweg standardweg durchbiegung verlangerung deplacement allongement "
        "course desplazamiento alargamiento recorrido spostamento allungamento verplaatsing "
        "przemieszczenie перемещение удлинение 位移 変位 ストローク 行程 الإزاحة جابجایی x s"
    ).split(),
    "time": "time elapsed zeit temps tiempo tempo tijd czas время 时间 時間 الزمن زمان t".split(),
    "count": "no nr number point index row sample # n punkt".split(),
}
_DIMENSION = {"force": "force", "travel": "length", "time": "time"}
_EVEN = 0.02
_GROWS = 0.98


@dataclass(frozen=True)
class CurveHead:
    """A column's head: its words folded, the unit in it, and what both say the column is."""

    text: str
    unit: str
    kind: str


@dataclass(frozen=True)
class Choice:
    """One way to take the columns."""

    travel: int
    force: int


def heads_of(lines: list[list[str]], width: int) -> list[CurveHead]:
    """The heads of *width* columns from the lines above the numbers, nearest line last.

    The nearest line with two or more cells is the head, or a line of units below it.

    >>> [(h.text, h.unit, h.kind) for h in heads_of([["Weg", "Kraft"], ["mm", "N"]], 2)]
    [('Weg', 'mm', 'travel'), ('Kraft', 'N', 'force')]
    """
    names, units = [""] * width, [""] * width
    for cells in reversed([line for line in lines if len(line) >= 2]):
        bare = [c.strip().strip("[]()").strip() for c in cells[:width]]
        if all(_dimension(c) or not c for c in bare) and any(bare) and not any(units):
            units[: len(bare)] = bare
            continue
        names[: len(bare)] = cells[:width]
        break
    return [_head(name, unit) for name, unit in zip(names, units, strict=True)]


def _head(text: str, unit: str) -> CurveHead:
    found = read_head(text) if text else None
    unit = unit or (found.unit if found else "")
    measured = _dimension(unit) if unit else ""
    words = _folded(found.name if found else "").split()
    named = next((k for k, known in _WORDS.items() if any(_is(w, known) for w in words)), "")
    by_unit = {v: k for k, v in _DIMENSION.items()}.get(measured, "")
    if measured and not by_unit:
        return CurveHead(text, unit, "other")
    if named == "count" and not unit:
        return CurveHead(text, unit, "count")
    if by_unit and named not in ("", by_unit, "count"):
        raise InputError(
            f"“{text}” names a {named} and gives a unit of {DIMENSIONS[measured].name}.", "curve"
        )
    kind = by_unit or ("" if named == "count" else named)
    if kind == "travel" and not named and words:
        kind = "length"
    if not kind and words and not unit:
        kind = _unknown(words)
    return CurveHead(text, unit, kind)


def _unknown(words: list[str]) -> str:
    """Heads that surely are neither load nor travel."""
    others = ("strain", "stress", "temperature", "dehnung", "spannung", "temperatur", "voltage")
    return "other" if any(w in others for w in words) else ""


def _is(word: str, known: list[str]) -> bool:
    return word in known or any(len(k) > 3 and word.startswith(k) for k in known)


def _folded(text: str) -> str:
    plain = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in plain if not unicodedata.combining(c))


def _dimension(unit: str) -> str:
    if not unit:
        return ""
    first = ("force", "length", "time")
    every = [*first, *(d for d in DIMENSIONS if d not in first)]
    return next((d for d in every if DIMENSIONS[d].unit_of(unit) is not None), "")


def column_choices(heads: list[CurveHead], table: np.ndarray) -> list[Choice]:
    """The ways to take load and travel, likeliest first; more than one is a doubt.

    Parameters: heads as of :func:`heads_of`; the numbers, one column each, as read. Named columns
    are taken at their word. Among the others a count goes up by one each row, time grows evenly,
    travel grows, load rises and falls. Raises :class:`InputError` where no two columns are left.

    >>> x = np.linspace(0, 5, 50); load = np.minimum(x * 40, 100.0); load[-3:] = 20
    >>> blank = [CurveHead("", "", "")] * 2
    >>> column_choices(blank, np.column_stack([load, x]))
    [Choice(travel=1, force=0)]
    """
    shapes = [_Shape.of(table[:, i]) for i in range(table.shape[1])]
    forces = [i for i, h in enumerate(heads) if h.kind == "force"]
    travels = [i for i, h in enumerate(heads) if h.kind == "travel"]
    if not travels:
        travels = [i for i, h in enumerate(heads) if h.kind == "length"]
    free = [
        i
        for i, (h, s) in enumerate(zip(heads, shapes, strict=True))
        if not h.kind and not s.still and i not in forces + travels
    ]
    if len(free) + bool(forces) + bool(travels) > 2:
        free = [i for i in free if not shapes[i].counts] or free
    if forces and travels:
        pairs = [(t, f) for f in forces for t in travels]
    elif forces:
        pairs = [(t, forces[0]) for t in _as_travel(free, shapes)]
    elif travels:
        pairs = [(travels[0], f) for f in _as_load(free, shapes)]
    else:
        pairs = _both(free, shapes)
    if not pairs:
        told = ", ".join(h.text for h in heads if h.text) or f"{table.shape[1]} columns"
        raise InputError(
            f"No two columns of this file can be load and travel; it has {told}.", "curve"
        )
    return [Choice(t, f) for t, f in pairs[:4]]


@dataclass(frozen=True)
class _Shape:
    """How a column runs: still, counting rows, growing, and how evenly."""

    still: bool
    counts: bool
    grows: bool
    uneven: float

    @staticmethod
    def of(values: np.ndarray) -> "_Shape":
        known = values[np.isfinite(values)]
        steps = np.diff(known)
        if len(steps) == 0 or np.ptp(known) == 0:
            return _Shape(True, False, False, np.inf)
        way = np.sign(known[-1] - known[0]) or 1.0
        mean = abs(float(steps.mean()))
        uneven = float(steps.std() / mean) if mean else np.inf
        grows = float((steps * way >= 0).mean()) >= _GROWS
        return _Shape(False, bool(np.all(steps == 1)), grows, uneven)


def _as_travel(free: list[int], shapes: list[_Shape]) -> list[int]:
    """What may be travel when the load is known: what grows, time (the most even) excluded."""
    growing = [i for i in free if shapes[i].grows] or free
    if len(growing) == 2:
        even, other = sorted(growing, key=lambda i: shapes[i].uneven)
        if shapes[even].uneven < _EVEN / 10 and shapes[other].uneven > 5 * _EVEN:
            return [other]
    return growing


def _as_load(free: list[int], shapes: list[_Shape]) -> list[int]:
    return [i for i in free if not shapes[i].grows] or free


def _both(free: list[int], shapes: list[_Shape]) -> list[tuple[int, int]]:
    """Travel and load among columns that nothing names."""
    if len(free) < 2:
        return []
    loads = [i for i in free if not shapes[i].grows]
    growing = [i for i in free if shapes[i].grows]
    if len(loads) == 1 and growing:
        return [(t, loads[0]) for t in _as_travel(growing, shapes)]
    if not loads and len(free) == 2:
        even, other = sorted(free, key=lambda i: shapes[i].uneven)
        if shapes[even].uneven < _EVEN and shapes[other].uneven > 5 * shapes[even].uneven + _EVEN:
            return [(even, other)]
    return sorted(permutations(free, 2), key=lambda p: (p[0] > p[1], p))
