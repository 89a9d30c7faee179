"""Reading a load–displacement file: whatever its separators, marks, head and units."""

from dataclasses import dataclass, field, replace

import numpy as np

from brunt_core.curves.columns import Choice, CurveHead, column_choices, heads_of
from brunt_core.curves.numbers import (
    NumberBlock,
    NumberMarks,
    decimal_marks,
    find_block,
    no_mixture,
    number_table,
)
from brunt_core.errors import InputError
from brunt_core.quantities.dimensions import DIMENSIONS
from brunt_core.quantities.registry import convert

_SMOOTHER = 3.0
_TURNED = 0.05


@dataclass(frozen=True)
class LoadCurve:
    """Displacement in m and force in N, in the order read; ``notes`` say what was assumed."""

    displacement: np.ndarray
    force: np.ndarray
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class Guess:
    """One way to read a file: its key (to be given back), its curve, and words for a person."""

    key: str
    curve: LoadCurve
    words: str


class Doubtful(InputError):
    """A file that can be read in more than one way, or only against its word; ``guesses`` has them."""

    def __init__(self, sentence: str, guesses: list[Guess]) -> None:
        super().__init__(sentence, "curve")
        self.guesses = guesses


@dataclass(frozen=True)
class _Way:
    block: NumberBlock
    marks: NumberMarks
    choice: Choice
    heads: list[CurveHead] = field(repr=False)
    table: np.ndarray = field(repr=False)
    notes: list[str] = field(repr=False)


def read_curve(text: str, chosen: str = "") -> LoadCurve:
    """Read a load–displacement table from text.

    Columns are parted by tab, semicolon, comma or spaces; decimals have a point or, where commas
    do not part columns, a comma; thousands marks are read. Lines before the numbers are a head:
    names, and units in brackets or on a line of their own. Columns without names are told by their
    shape; without units they are mm and N, and the notes say so. ``chosen`` is the key of one of
    :func:`guesses`.

    Raises :class:`Doubtful` where a person must choose, and :class:`InputError` when no two
    columns of numbers are found, for a line that cannot be read (by its number), with fewer than
    five points, and with a unit that is none.

    >>> c = read_curve("travel [mm];load [kgf]\\n0,0;0\\n0,1;5,0\\n0,2;10\\n0,3;15\\n0,4;20")
    >>> round(float(c.force[-1]), 3), round(float(c.displacement[1]), 6)
    (196.133, 0.0001)
    """
    found = guesses(text)
    if chosen:
        taken = next((g for g in found if g.key == chosen), None)
        if taken is None:
            raise InputError("That is not one of the ways to read this file.", "curve")
        return taken.curve
    if len(found) == 1 and "turned" not in found[0].key:
        return found[0].curve
    if all("turned" in g.key for g in found):
        sentence = (
            "The loads in this file are negative, as is common for compression. Flip the sign?"
        )
    else:
        sentence = "This file can be read in more than one way. Which is right?"
    raise Doubtful(sentence, found)


def guesses(text: str) -> list[Guess]:
    """Every way to read a file, likeliest first; one where nothing is in doubt.

    >>> rows = "\\n".join(f"{i};{i * 0.1:.1f};{i * 5}" for i in range(9))
    >>> [g.words for g in guesses("time;a;b\\n" + rows)]
    ['load “b” in N over travel “a” in mm', 'load “a” in N over travel “b” in mm']
    """
    block = find_block(text)
    ways: list[_Way] = []
    trouble: InputError | None = None
    for marks in decimal_marks(block):
        try:
            table, notes = number_table(block, marks)
        except InputError as error:
            trouble = trouble or error
            continue
        suspect = no_mixture(block, table)
        if suspect:
            trouble = trouble or suspect
            continue
        heads = heads_of([list(cells) for cells in block.head], table.shape[1])
        ways += [_Way(block, marks, c, heads, table, notes) for c in column_choices(heads, table)]
    if not ways:
        assert trouble is not None
        raise trouble
    several = len({way.marks for way in ways}) > 1
    if several:
        ways = _smoother(ways)
        several = len({way.marks for way in ways}) > 1
    return [_guess(way, several) for way in ways]


def _smoother(ways: list[_Way]) -> list[_Way]:
    """Where marks can be read in two ways: the one whose curve runs without jumps, if one does."""
    rough = {way.marks: _roughness(way) for way in reversed(ways)}
    (first, least), (_, most) = sorted(rough.items(), key=lambda item: item[1])[:2]
    return [w for w in ways if w.marks == first] if most > _SMOOTHER * least else ways


def _roughness(way: _Way) -> float:
    """Path length over range, the greater of the two columns."""
    found = 0.0
    for i in (way.choice.travel, way.choice.force):
        values = way.table[:, i]
        values = values[np.isfinite(values)]
        spread = float(np.ptp(values)) if len(values) else 0.0
        found = max(found, float(np.abs(np.diff(values)).sum()) / spread if spread else 1.0)
    return found


def _guess(way: _Way, tell_marks: bool) -> Guess:
    travel, force = way.heads[way.choice.travel], way.heads[way.choice.force]
    x, x_unit = _in_si(way, way.choice.travel, "length")
    f, f_unit = _in_si(way, way.choice.force, "force")
    keep = np.isfinite(x) & np.isfinite(f)
    notes = list(way.notes)
    if not keep.all():
        lost = int((~keep).sum())
        rows = "row" if lost == 1 else "rows"
        notes.append(f"{lost} {rows} without a load or a travel, excluded")
    x, f = x[keep], f[keep]
    if len(f) < 5:
        raise InputError("A curve needs at least five points; this file has fewer.", "curve")
    notes += [
        f"no unit given for {what}: taken as {unit}"
        for what, head, unit in (("displacement", travel, x_unit), ("force", force, f_unit))
        if not head.unit
    ]
    if way.marks.decimal == ",":
        notes.append("decimal commas")
    if way.marks.thousands:
        notes.append("thousands marks")
    f_turned, x_turned = _all_negative(f), _all_negative(x)
    key = f"{way.choice.travel}:{way.choice.force}:{way.marks.decimal}{way.marks.thousands}"
    words = f"load {_named(force, way.choice.force)} in {f_unit} over travel "
    words += f"{_named(travel, way.choice.travel)} in {x_unit}"
    if tell_marks:
        mark = "comma" if way.marks.decimal == "," else "point"
        words += f", decimal {mark}" + (", thousands marks" if way.marks.thousands else "")
    if f_turned:
        key, words = f"{key}:turned", f"{words}, sign flipped"
        notes.append("loads were negative, sign flipped")
        f = -f
    if x_turned:
        notes.append("displacements were negative, sign flipped")
        x = -x
    return Guess(key, LoadCurve(x, f, tuple(notes)), words)


def _named(head: CurveHead, at: int) -> str:
    return f"“{head.text}”" if head.text else f"column {at + 1}"


def _all_negative(values: np.ndarray) -> bool:
    least, most = float(values.min()), float(values.max())
    return least < 0 and most < -_TURNED * least


def _in_si(way: _Way, index: int, dimension: str) -> tuple[np.ndarray, str]:
    kind = DIMENSIONS[dimension]
    unit = way.heads[index].unit or kind.shown
    expression = kind.unit_of(unit)
    if expression is None:
        raise InputError(f"“{unit}” is not a unit of {kind.name}; write it in the head.", "curve")
    return np.asarray(way.table[:, index], float) * convert(1.0, expression, kind.si), unit


def without(curve: LoadCurve, places: tuple[int, ...]) -> LoadCurve:
    """The curve without some of its readings.

    >>> without(LoadCurve(np.arange(3.0), np.array([0.0, 9.0, 2.0])), (1,)).force.tolist()
    [0.0, 2.0]
    """
    keep = np.ones(len(curve.force), bool)
    keep[list(places)] = False
    return replace(curve, displacement=curve.displacement[keep], force=curve.force[keep])
