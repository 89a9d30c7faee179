"""Reading a number in a unit of the tester's own: ``0.15 mm`` where the custom measurement is in mm."""

import re
from dataclasses import replace

from brunt_core.errors import InputError
from brunt_core.quantities.dimension import Dimension
from brunt_core.quantities.dimensions import DIMENSIONS
from brunt_core.quantities.parsing import Parsed, Typed, parse_typed
from brunt_core.quantities.rendering import in_unit, width_in_unit


def parse_in_own_unit(text: str, unit: str) -> Typed:
    """A reading of a custom measurement: a bare number, or one with the measurement's unit.

    Parameters
    ----------
    text : what was typed, for example ``"0.15 mm"``, ``"78 Shore D"`` or ``"> 0.2"``.
    unit : the unit the custom measurement is kept in, in any words.

    Returns the reading as plain numbers in ``unit``. Where ``unit`` is one that Brunt knows, a reading
    in another unit of the same kind is converted.

    Raises :class:`InputError` where the text is no number, or carries a unit of another kind.

    Source: unit definitions of the ``pint`` package.

    >>> parse_in_own_unit("0.15 mm", "mm").observation.lower
    0.15
    >>> parse_in_own_unit("150 um", "mm").observation.lower
    0.15
    >>> parse_in_own_unit("78 shore d", "Shore D").observation.lower
    78.0
    >>> parse_in_own_unit("2 N", "mm")
    Traceback (most recent call last):
    brunt_core.errors.InputError: “2 N” is a force; a length is needed here (mm, cm, m, µm, in, thou).
    """
    kind = _dimension_of(unit)
    # mN and MN differ by their case alone; the words of a unit that only the tester knows do not.
    case = re.IGNORECASE if kind is None else re.NOFLAG
    bare = re.sub(rf"(?<=[0-9.\s]){_spelling(unit)}(?![^\W_])", " ", text, flags=case).strip()
    try:
        return replace(parse_typed(bare, "number"), text=text.strip())
    except InputError:
        if kind is None:
            sentence = f"“{text.strip()}” is not a number in {unit}, for example 12.5 {unit}."
            raise InputError(sentence) from None
    return _as_numbers(parse_typed(text, kind.key, unit), kind, unit)


def _spelling(unit: str) -> str:
    """The unit as a pattern in which blanks may be missing or several."""
    return r"\s*".join(re.escape(piece) for piece in unit.split())


def _dimension_of(unit: str) -> Dimension | None:
    """The kind of quantity a unit belongs to; one it belongs to outright before one that takes it with a note."""
    known = [d for d in DIMENSIONS.values() if d.key != "number" and d.unit_of(unit) is not None]
    return min(known, key=lambda d: unit.lower() in {n.lower() for n in d.notes}, default=None)


def _as_numbers(typed: Typed, kind: Dimension, unit: str) -> Typed:
    """A reading of a known quantity as plain numbers in the unit."""

    def number(si: float) -> float:
        return float(f"{in_unit(si, kind.key, unit):.12g}")

    parts = tuple(
        Parsed(p.text, "number", number=number(p.si), unit="", si=number(p.si), assumed=p.assumed)
        for p in typed.parts
    )
    width = typed.uncertainty
    return Typed(
        typed.text,
        parts,
        typed.observation.through(number),
        typed.note,
        None if width is None else width_in_unit(width, kind.key, unit),
    )
