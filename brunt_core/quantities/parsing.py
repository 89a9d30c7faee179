"""Reading a quantity: a number with a unit, as typed."""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.quantities.dimension import Dimension, tidy_spelling
from brunt_core.quantities.dimensions import DIMENSIONS
from brunt_core.quantities.numbers import is_fraction, read_number, tidy_number
from brunt_core.quantities.registry import convert

_VULGAR = "¼½¾⅐⅑⅒⅓⅔⅕⅖⅗⅘⅙⅚⅛⅜⅝⅞"
_NUMBER_HEAD = re.compile(
    rf"\s*(?P<number>[-+]?(?:[0-9]+ +)?[0-9]+/[0-9]+|[-+]?[0-9]* ?[{_VULGAR}]|"
    r"[-+]?[0-9.,](?:[0-9.,']| (?=[0-9]))*(?:[eE][-+]?[0-9]+(?![0-9.,]))?"
    r"(?:\s*[x×*·]\s*10\s*(?:(?:\^|\*\*)\s*[-+]?[0-9]+|[⁻⁺]?[⁰¹²³⁴⁵⁶⁷⁸⁹]+))?)(?P<rest>.*)$",
    re.DOTALL,
)
_TIME_PARTS = re.compile(r"([0-9.,]+)\s*([a-zA-Z]*)\s*")
_BELOW = {"week": "day", "day": "h", "h": "min", "min": "s"}
_SIZE = ("week", "day", "h", "min", "s", "ms")
# Customary units in which fractions are spoken; elsewhere 3/8 may be two readings.
_IN_FRACTIONS = frozenset({"inch", "foot", "lb", "lbf", "oz", "ozf", "kip", "lbf*foot", "lbf*inch"})
# Readings of one thing, parted by blanks alone, do not differ by more than this.
_ALIKE = 2.0


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
    typed, text = (text or "").strip(), tidy_number(text or "")
    if not text:
        raise InputError(f"Type {_one_of(kind)}, for example {_example(kind, unit)}.")
    main, sign, spread = re.sub(r"\+\s*/?\s*-", "±", text).partition("±")
    if sign:
        value = parse(main, dimension, unit)
        width = parse(spread, dimension, value.unit_label)
        if value.assumed and not width.assumed:
            value = parse(main, dimension, width.unit_label)
        return replace(value, text=typed, uncertainty=_spread(width))
    found = _piece(text, kind, unit)
    return _possible(replace(found, text=typed))


def _piece(text: str, kind: Dimension, unit: str | None) -> Parsed:
    """A pile of weights, or one reading."""
    return _pile(text, kind, unit) or _one(text, kind, unit)


def _one(text: str, kind: Dimension, unit: str | None) -> Parsed:
    """One number with a unit, or hours and minutes."""
    try:
        return _simple(text, kind, unit)
    except InputError:
        if kind.key != "time" or len(_TIME_PARTS.findall(text)) < 2:
            raise
    return _compound_time(text, kind)


def _possible(value: Parsed) -> Parsed:
    """The value, if there can be such a thing."""
    if not math.isfinite(value.si):
        raise InputError(f"“{value.text}” is too large to be a reading.")
    if value.dimension == "temperature" and value.si < 0:
        raise InputError(f"“{value.text}” is below absolute zero (−273.15 °C).")
    return value


def _pile(text: str, kind: Dimension, unit: str | None) -> Parsed | None:
    """A pile of weights, ``2 + 2 + 1 kg``: their sum; ``None`` for what is no pile."""
    pieces = re.split(rf"(?<![eE^(*])\s*\+\s*(?=[0-9.,{_VULGAR}])", text.lstrip("+"))
    if len(pieces) < 2 or not all(p.strip() for p in pieces):
        return None
    if kind.key == "temperature":
        raise InputError(f"Temperatures do not add up; “{text}” is no reading.")
    parts = _with_units(pieces, kind, unit)
    last = parts[-1]
    total = sum(p.si for p in parts)
    return Parsed(
        text,
        kind.key,
        number=convert(total, kind.si, last.unit),
        unit=last.unit,
        si=total,
        assumed=last.assumed,
        note=next((p.note for p in parts if p.note), ""),
    )


def _with_units(pieces: Sequence[str], kind: Dimension, unit: str | None) -> list[Parsed]:
    """Each piece with its unit; one that brings none takes the one that the others agree on."""
    own = [_piece(p, kind, unit) for p in pieces]
    named = {p.unit for p in own if not p.assumed}
    if not named or all(not p.assumed for p in own):
        return own
    if len(named) > 1:
        bare = next(p.text for p in own if p.assumed)
        raise InputError(f"“{bare}” has no unit, and the others differ; write its unit too.")
    label = kind.label(named.pop())
    return [
        _piece(piece, kind, label) if p.assumed else p for piece, p in zip(pieces, own, strict=True)
    ]


def _one_of(kind: Dimension) -> str:
    return f"{'an' if kind.name[0] in 'aeiou' else 'a'} {kind.name}"


def _example(kind: Dimension, unit: str | None) -> str:
    return f"12.5 {unit if unit is not None else kind.shown}".strip()


def _spread(width: Parsed) -> float:
    """The ± part in SI, without any offset of its scale."""
    if width.number < 0:
        raise InputError("The ± part cannot be negative.")
    si = DIMENSIONS[width.dimension].si
    return convert(width.number, width.unit, si) - convert(0.0, width.unit, si)


def _simple(text: str, kind: Dimension, unit: str | None) -> Parsed:
    head = _NUMBER_HEAD.match(text)
    if not head:
        raise InputError(
            f"“{text.strip()}” does not start with a number. "
            f"Type {_one_of(kind)}, for example {_example(kind, unit)}."
        )
    spelling = head["rest"].strip()
    if re.match(r"([x×*·/]|\bx\b)\s*[0-9]", spelling):
        raise InputError(
            f"“{text.strip()}” can be read in more than one way. "
            "Write the number itself, a power of ten as 4e5, a pile of weights as 2 + 2 + 1."
        )
    if re.match(r"-\s*[0-9]", spelling):
        raise InputError(f"“{text.strip()}”: write what lies between two values as 5 .. 6.")
    number = read_number(head["number"])
    chosen, assumed = (spelling, False) if spelling else (unit or kind.shown, True)
    expression = _unit_expression(chosen, kind, text)
    if is_fraction(head["number"]) and not _spoken_in_fractions(head["number"], expression):
        raise InputError(
            f"“{text.strip()}” could be a fraction or two readings. Write {number:g}, or part them by ;."
        )
    return Parsed(
        text.strip(),
        kind.key,
        number,
        unit=expression,
        si=convert(number, expression, kind.si),
        assumed=assumed,
        note="" if assumed else _note(spelling, kind),
    )


def _spoken_in_fractions(number: str, unit: str) -> bool:
    """Whether a fraction that stands alone is meant: in inches and pounds, or one over something."""
    return unit in _IN_FRACTIONS or number.strip().lstrip("+-").startswith("1/")


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
            f"“{text.strip()}” is {_one_of(other)}; {_one_of(kind)} is needed here ({accepted})."
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
        if previous and _SIZE.index(unit) <= _SIZE.index(previous):
            raise InputError(f"“{text.strip()}” is not a time, for example 2 h 30 or 90 min.")
        total, previous = total + convert(read_number(digits), unit, "s"), unit
    return Parsed(text.strip(), kind.key, total, "s", total)


def parse_series(text: str, dimension: str, unit: str | None = None) -> tuple[Parsed, ...]:
    """Several readings of the same thing, as from going round a bar with calipers.

    Parted by semicolons, or by blanks where the numbers cannot be one grouped number and are alike;
    what could be either is refused. A unit that one of them has counts for those that have none.

    >>> [p.number for p in parse_series("10.02 10.01; 9.98 mm", "length")]
    [10.02, 10.01, 9.98]
    >>> parse_series("1 250 N", "force")[0].number
    1250.0
    >>> parse_series("102 103 N", "force")
    Traceback (most recent call last):
    brunt_core.errors.InputError: “102 103” could be one number, 102103, or several. Write 102103, or part them by ;.
    """
    tidy = tidy_number(text or "")
    pieces = [p for part in tidy.split(";") if part.strip() for p in _by_blanks(part.strip())]
    if len(pieces) < 2 or (dimension == "time" and ";" not in tidy):
        return (parse(text.replace(";", " ") if len(pieces) == 1 else text, dimension, unit),)
    if any(re.search(r"±|\+\s*/?\s*-", p) for p in pieces):
        raise InputError("Give several readings, or one with its ±, not both.")
    kind = DIMENSIONS[dimension]
    return tuple(_possible(p) for p in _with_units(pieces, kind, unit))


def _by_blanks(text: str) -> list[str]:
    """Readings parted by blanks alone; the text itself where it is one reading."""
    found = re.fullmatch(
        r"((?:[-+]?[0-9][0-9.,']*\s+)+[-+]?[0-9][0-9.,']*)(\s*[^0-9.,'\s].*)?", text
    )
    if not found:
        return [text]
    numbers, tail = found[1].split(), found[2] or ""
    if tail.lstrip().startswith(("/", "+", "±", "x ", "×", "*", "·")) or re.match(
        r"[eE][-+]?[0-9]", tail
    ):
        return [text]
    grouped = re.fullmatch(r"[-+]?[0-9]{1,3}( [0-9]{3})+([.,][0-9]+)?", " ".join(numbers))
    values = [abs(read_number(n)) for n in numbers]
    alike = max(values) <= _ALIKE * min(values)
    joined = " ".join(numbers)
    if grouped and alike:
        raise InputError(
            f"“{joined}” could be one number, {''.join(numbers)}, or several. "
            f"Write {''.join(numbers)}, or part them by ;."
        )
    if grouped:
        return [text]
    if not alike:
        raise InputError(f"“{joined}” could be one number or several. Part several by ;.")
    return [*numbers[:-1], numbers[-1] + tail]


def parse_typed(text: str, dimension: str, unit: str | None = None) -> Typed:
    """A reading that may be exact, a bound, or between two bounds.

    ``> 40 kgf`` or ``≥ 40 kgf`` is at least; ``< 5 N`` at most; ``6 .. 8 kgf`` between.

    >>> parse_typed("6 .. 8 kgf", "force").observation.lower
    58.8399
    >>> parse_typed(">= 2.4 kN", "force").observation.upper is None
    True
    """
    return _typed(text or "", dimension, unit)


@lru_cache(4096)
def _typed(text: str, dimension: str, unit: str | None) -> Typed:
    # What is being typed is read at each key, most fields as they were at the key before.
    stripped = re.sub(r"^[–—](?=\s*[0-9])", "-", text.strip())
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
    note = next((p.note for p in parts if p.note), "")
    return Typed(stripped, parts, Observation.exact(mean), note, parts[-1].uncertainty)


def _between(text: str, low: str, high: str, dimension: str, unit: str | None) -> Typed:
    """Two bounds; one without a unit takes the other's."""
    lower, upper = parse(low, dimension, unit), parse(high, dimension, unit)
    if lower.assumed and not upper.assumed:
        lower = parse(low, dimension, upper.unit_label)
    elif upper.assumed and not lower.assumed:
        upper = parse(high, dimension, lower.unit_label)
    note = upper.note or lower.note
    return Typed(text, (lower, upper), Observation.between(lower.si, upper.si), note)


def last_two(typed: Typed) -> Observation:
    """What stepwise loads say: it held the last but one and failed by the last.

    Raises :class:`InputError` where the loads do not rise.

    >>> loads = parse_typed("5; 5 + 2; 5 + 2 + 1 kg", "mass")
    >>> last_two(loads)
    Observation(lower=7.0, upper=8.0)
    """
    values = [p.si for p in typed.parts]
    if len(values) < 2 or sorted(set(values)) != values:
        raise InputError(
            "Write the loads in ascending order, separated by ;, or the last two as 6 .. 8 kgf."
        )
    return Observation.between(values[-2], values[-1])
