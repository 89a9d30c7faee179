"""Inputs as typed, checked against what the method says of them."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from statistics import stdev

from brunt_core.computation.instruments import Instrument, standard_instrument
from brunt_core.errors import InputError
from brunt_core.methods.base import Input, Method
from brunt_core.observations import Observation
from brunt_core.quantities import Typed, parse_typed
from brunt_core.quantities.own_units import parse_in_own_unit
from brunt_core.quantities.series import SeriesRow, parse_rows


@dataclass(frozen=True)
class ParsedReading:
    """One input as read: the text, its SI observation, and its standard uncertainty.

    A series has its ``rows``, a choice or a text its ``word``; their observation counts nothing.
    ``rounding`` is the part of the uncertainty that is this reading's own, from the display's step.
    """

    input: Input
    typed: Typed
    observation: Observation
    uncertainty: float
    rows: tuple[SeriesRow, ...] = ()
    word: str = ""
    rounding: float = 0.0

    @property
    def si(self) -> float:
        """The number to compute with: the value, or the bound it is known by."""
        return self.observation.anchor

    @property
    def plain(self) -> bool:
        """Whether it is one quantity."""
        return self.input.kind == "quantity"


def read_all(
    method: Method, inputs: Mapping[str, str], instruments: Mapping[str, Instrument]
) -> dict[str, ParsedReading]:
    """Every input given, by key; choices not given take their default.

    Raises :class:`InputError` for names that are not the method's and for what is missing.
    """
    names = {name: i.key for i in method.inputs for name in (i.key, *i.aliases)}
    unknown = [key for key in inputs if key not in names]
    if unknown:
        known = ", ".join(i.key for i in method.inputs)
        raise InputError(f"{method.key} has no input “{unknown[0]}”; it takes {known}.", unknown[0])
    given = {names[key]: text for key, text in inputs.items()}
    readings = {}
    for spec in inputs_in_own_unit(method, given):
        text = (given.get(spec.key) or spec.default).strip()
        if text:
            readings[spec.key] = read_input(spec, text, instruments)
        elif spec.required:
            raise InputError(f"The {spec.label.lower()} is missing.", spec.key)
    return readings


def inputs_in_own_unit(method: Method, given: Mapping[str, str]) -> tuple[Input, ...]:
    """The method's inputs; the plain numbers of a custom measurement carry the unit given for it.

    ``given`` are texts by input key; its ``unit`` is the custom measurement's. A reading may then be
    typed with that unit, or with another of the same kind.

    >>> from brunt_core.methods.registry import method
    >>> inputs_in_own_unit(method("measure"), {"unit": "mm"})[0].unit
    'mm'
    """
    unit = given.get("unit", "").strip()
    if not (method.own_property and unit):
        return method.inputs
    return tuple(
        replace(i, unit=unit) if i.kind == "quantity" and i.dimension == "number" else i
        for i in method.inputs
    )


def read_input(spec: Input, text: str, instruments: Mapping[str, Instrument]) -> ParsedReading:
    """One input as typed, with the uncertainty its instrument gives it.

    Raises :class:`InputError` naming the input when the text cannot be used.
    """
    try:
        return _BY_KIND[spec.kind](spec, text, instruments)
    except InputError as error:
        raise error.at(spec.key) from None


def _quantity(spec: Input, text: str, instruments: Mapping[str, Instrument]) -> ParsedReading:
    if len(text) > 100:
        raise InputError(
            f"The {spec.label.lower()} is longer than any reading; 100 characters are the most."
        )
    own = spec.dimension == "number" and spec.unit
    typed = parse_in_own_unit(text, own) if own else parse_typed(text, spec.dimension, spec.unit)
    if not spec.bounded and typed.observation.kind != "exact":
        raise InputError(f"The {spec.label.lower()} must be one value, not a bound.")
    if spec.least == "positive" and typed.observation.anchor <= 0:
        raise InputError(f"The {spec.label.lower()} must be more than zero.")
    if spec.least == "zero" and typed.observation.anchor < 0:
        raise InputError(f"The {spec.label.lower()} cannot be less than zero.")
    return ParsedReading(
        spec,
        typed,
        typed.observation,
        _uncertainty(spec, typed, instruments),
        rounding=_instrument(spec, instruments).rounding(),
    )


def _series(spec: Input, text: str, instruments: Mapping[str, Instrument]) -> ParsedReading:
    rows = parse_rows(text, spec.along, spec.dimension, spec.unit)
    if not rows:
        raise InputError(f"The {spec.label.lower()} holds no reading.")
    spread = _instrument(spec, instruments).uncertainty(rows[-1].value)
    return ParsedReading(
        spec, Typed(text, (), Observation.exact(0.0)), Observation.exact(0.0), spread, rows
    )


def _choice(spec: Input, text: str, instruments: Mapping[str, Instrument]) -> ParsedReading:
    found = next(
        (k for k, label in spec.choices if text.lower() in (k.lower(), label.lower())), None
    )
    if found is None:
        known = ", ".join(k for k, _ in spec.choices)
        raise InputError(f"“{text}” is not a {spec.label.lower()}; there are {known}.")
    return _word(spec, text, found)


def _text(spec: Input, text: str, instruments: Mapping[str, Instrument]) -> ParsedReading:
    if len(text) > 200:
        raise InputError(f"Keep the {spec.label.lower()} under 200 characters.")
    return _word(spec, text, text)


def _word(spec: Input, text: str, word: str) -> ParsedReading:
    nothing = Observation.exact(0.0)
    return ParsedReading(spec, Typed(text, (), nothing), nothing, 0.0, (), word)


_BY_KIND = {"quantity": _quantity, "series": _series, "choice": _choice, "text": _text}


def _instrument(spec: Input, instruments: Mapping[str, Instrument]) -> Instrument:
    return instruments.get(spec.dimension) or standard_instrument(spec.dimension)


def _uncertainty(spec: Input, typed: Typed, instruments: Mapping[str, Instrument]) -> float:
    if typed.uncertainty is not None:
        return typed.uncertainty
    instrument = _instrument(spec, instruments)
    values = [part.si for part in typed.parts]
    repeats = len(values) if typed.observation.is_exact else 1
    spread = stdev(values) if repeats > 1 else 0.0
    return instrument.uncertainty(typed.observation.anchor, repeats, spread)
