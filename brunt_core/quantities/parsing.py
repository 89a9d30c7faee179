"""Reading a quantity: a number with a unit, as typed."""

import re
from dataclasses import dataclass, replace

from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.quantities.dimension import Dimension, tidy_spelling
from brunt_core.quantities.dimensions import DIMENSIONS
from brunt_core.quantities.numbers import read_number
from brunt_core.quantities.registry import convert

_NUMBER_HEAD = re.compile(
    r"\s*(?P<number>[-+−]?[\d.,][\d.,' \u00a0\u202f\u2009]*(?:[eE][-+−]?\d+)?"
    r"(?:\s*[x×*·]\s*10\s*(?:\^|\*\*)?\s*(?:[-+−]?\d+|[⁻⁺]?[⁰¹²³⁴⁵⁶⁷⁸⁹]+))?)(?P<rest>.*)$"
)
_TIME_PARTS = re.compile(r"([\d.,]+)\s*([a-zA-Z]*)\s*")
_BELOW = {"week": "day", "day": "h", "h": "min", "min": "s"}


@dataclass(frozen=True)
class Parsed:
    """One number as typed, its unit, and its value in SI.

    ``assumed`` is true when the unit was not typed; ``note`` says what was read differently from
    its letters ("kg" for kilogram-force); ``uncertainty`` is the ± typed with it, in SI.
    """

    text: str
    dimension: str
    number: float
    unit: str
    si: float
    assumed: bool = False
    note: str = ""
    uncertainty: float | None = None

    @property
    def unit_label(self) -> str:
        """The unit as written for people."""
        return DIMENSIONS[self.dimension].label(self.unit)


@dataclass(frozen=True)
class Typed:
    """A reading as typed, which may be a bound or a pair of bounds ("> 40 kgf", "6 .. 8 kgf")."""

    text: str
    parts: tuple[Parsed, ...]
    observation: Observation
    note: str = ""
    uncertainty: float | None = None


def parse(text: str, dimension: str, unit: str | None = None) -> Parsed:
    """Read one quantity of the named dimension.

    Parameters
    ----------
    text : what was typed, e.g. ``"58.4 kgf"``, ``"82 thou"``, ``"2 h 30"``, ``"2.4 kN ± 10 N"``.
    dimension : a key of :data:`~brunt_core.quantities.dimensions.DIMENSIONS`.
    unit : spelling assumed for a bare number; the dimension's shown unit when not given.

    Raises
    ------
    InputError : the text is empty, no number, or carries a unit of another kind.

    Source: unit definitions of the ``pint`` package (CODATA and NIST SP 811 values).

    >>> parse("131 lbf", "force").si
    582.7170315991256
    >>> parse("58.4 kg", "force").note
    '“kg” read as kilogram-force (1 kgf = 9.80665 N)'
    >>> parse("2 h 30", "time").si
    9000.0
    """
    kind = DIMENSIONS[dimension]
    if not text or not text.strip():
        raise InputError(f"Type a {kind.name}, for example {_example(kind, unit)}.")
    main, sign, spread = text.partition("±")
    if sign:
        value = parse(main, dimension, unit)
        return replace(value, text=text.strip(), uncertainty=_spread(spread, value, dimension))
    if dimension == "time" and len(_TIME_PARTS.findall(text)) > 1:
        return _compound_time(text, kind)
    return _simple(text, kind, unit)


def _example(kind: Dimension, unit: str | None) -> str:
    return f"12.5 {unit if unit is not None else kind.shown}".strip()


def _spread(text: str, value: Parsed, dimension: str) -> float:
    spread = parse(text, dimension, value.unit_label)
    if spread.number < 0:
        raise InputError("The ± part cannot be negative.")
    return convert(spread.number, spread.unit, DIMENSIONS[dimension].si) - convert(
        0.0, spread.unit, DIMENSIONS[dimension].si
    )


def _simple(text: str, kind: Dimension, unit: str | None) -> Parsed:
    head = _NUMBER_HEAD.match(text)
    if not head:
        raise InputError(
            f"“{text.strip()}” does not start with a number. "
            f"Type a {kind.name}, for example {_example(kind, unit)}."
        )
    number = read_number(head["number"])
    spelling = head["rest"].strip()
    chosen, assumed = (spelling, False) if spelling else (unit or kind.shown, True)
    expression = _unit_expression(chosen, kind, text)
    return Parsed(
        text.strip(),
        kind.key,
        number,
        unit=expression,
        si=convert(number, expression, kind.si),
        assumed=assumed,
        note="" if assumed else _note(spelling, kind),
    )


def _note(spelling: str, kind: Dimension) -> str:
    tidy = tidy_spelling(spelling)
    note = kind.notes.get(tidy) or kind.notes.get(tidy.lower())
    return f"“{spelling}” {note}" if note else ""


def _unit_expression(spelling: str, kind: Dimension, text: str) -> str:
    expression = kind.unit_of(spelling)
    if expression is not None:
        return expression
    other = next((d for d in DIMENSIONS.values() if d.unit_of(spelling) is not None), None)
    accepted = ", ".join(list(dict.fromkeys(kind.label(u) for u in kind.spellings.values()))[:6])
    if other:
        raise InputError(
            f"“{text.strip()}” is a {other.name}; a {kind.name} is needed here ({accepted})."
        )
    raise InputError(
        f"“{spelling}” is not a unit of {kind.name} that Brunt knows (it knows {accepted} …)."
    )


def _compound_time(text: str, kind: Dimension) -> Parsed:
    parts = _TIME_PARTS.findall(text)
    if "".join("".join(p) for p in parts) != re.sub(r"\s", "", text):
        raise InputError(f"“{text.strip()}” is not a time, for example 2 h 30 or 90 min.")
    total, previous = 0.0, ""
    for digits, spelling in parts:
        unit = _unit_expression(spelling, kind, text) if spelling else _BELOW.get(previous, "")
        if not unit:
            raise InputError(f"“{text.strip()}” needs a unit after {digits}.")
        total, previous = total + convert(read_number(digits), unit, "s"), unit
    return Parsed(text.strip(), kind.key, total, "s", total)


def parse_series(text: str, dimension: str, unit: str | None = None) -> tuple[Parsed, ...]:
    """Several readings of the same thing, as from going round a bar with calipers.

    Separated by semicolons, slashes or spaces; a unit after the last one counts for all.

    >>> [p.number for p in parse_series("10.02 10.01; 9.98 mm", "length")]
    [10.02, 10.01, 9.98]
    """
    if "±" in text or dimension == "time":
        return (parse(text, dimension, unit),)
    loose = re.sub(r"(?<=\d)\s+(?=[-+]?\d)", ";", text.strip())
    pieces = [p.strip() for p in re.split(r"[;/]\s*(?=[-+]?[\d.,])", loose) if p.strip()]
    if len(pieces) < 2:
        return (parse(text, dimension, unit),)
    last = parse(pieces[-1], dimension, unit)
    shared = last.unit_label if not last.assumed else unit
    return tuple(parse(piece, dimension, shared) for piece in pieces)


def parse_typed(text: str, dimension: str, unit: str | None = None) -> Typed:
    """A reading that may be exact, a bound, or between two bounds.

    ``> 40 kgf`` or ``≥ 40 kgf`` is at least; ``< 5 N`` at most; ``6 .. 8 kgf`` between.

    >>> parse_typed("6 .. 8 kgf", "force").observation.lower
    58.8399
    >>> parse_typed(">= 2.4 kN", "force").observation.upper is None
    True
    """
    stripped = (text or "").strip()
    for marks, build in (
        (("≥", ">=", ">"), Observation.at_least),
        (("≤", "<=", "<"), Observation.at_most),
    ):
        mark = next((m for m in marks if stripped.startswith(m)), None)
        if mark:
            part = parse(stripped[len(mark) :], dimension, unit)
            return Typed(stripped, (part,), build(part.si), part.note, part.uncertainty)
    low, dots, high = re.sub(r"\s+to\s+|…|–", "..", stripped).partition("..")
    if dots:
        return _between(stripped, low, high, dimension, unit)
    parts = parse_series(stripped, dimension, unit)
    mean = sum(p.si for p in parts) / len(parts)
    return Typed(stripped, parts, Observation.exact(mean), parts[-1].note, parts[-1].uncertainty)


def _between(text: str, low: str, high: str, dimension: str, unit: str | None) -> Typed:
    upper = parse(high, dimension, unit)
    lower = parse(low, dimension, upper.unit_label)
    return Typed(text, (lower, upper), Observation.between(lower.si, upper.si), upper.note)
