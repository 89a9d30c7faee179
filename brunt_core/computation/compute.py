"""Compute a method's results from what was read."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from statistics import stdev
from typing import Any

from brunt_core.computation.instruments import Instrument, standard_instrument
from brunt_core.computation.working import Step, area_step, result_step
from brunt_core.errors import InputError
from brunt_core.methods.base import Input, Method, ResultDefinition
from brunt_core.observations import Observation
from brunt_core.properties import PROPERTIES, Property
from brunt_core.quantities import Typed, parse_typed
from brunt_core.sections import Section, section_for


@dataclass(frozen=True)
class Reading:
    """One input as read: the text, its SI observation, and its standard uncertainty."""

    input: Input
    typed: Typed
    observation: Observation
    uncertainty: float

    @property
    def si(self) -> float:
        """The number to compute with: the value, or the bound it is known by."""
        return self.observation.anchor


@dataclass(frozen=True)
class Result:
    """One property computed: bounds in SI, standard uncertainty, and the steps of its working."""

    property: Property
    observation: Observation
    uncertainty: float
    formula: str
    source: str
    steps: tuple[Step, ...]

    @property
    def working(self) -> str:
        """The steps on one line."""
        return "; ".join(step.line for step in self.steps)


@dataclass(frozen=True)
class Computation:
    """All results of one test, what they were computed from, and what deserves a second look."""

    method: Method
    readings: dict[str, Reading]
    section: Section | None
    results: tuple[Result, ...]
    warnings: tuple[str, ...] = field(default=())


def compute(
    method: Method,
    inputs: Mapping[str, str],
    outcome: str = "broke",
    instruments: Mapping[str, Instrument] | None = None,
) -> Computation:
    """Compute every result of a method that the inputs allow.

    Parameters
    ----------
    method : the method's definition.
    inputs : texts as typed, by input key; empty ones count as not given.
    outcome : key of one of the method's outcomes; it says what the bounded reading means.
    instruments : by dimension, where they differ from :func:`standard_instrument`.

    Returns a :class:`Computation`; values in SI, uncertainty first order after JCGM 100:2008 (GUM)
    5.1 through the ``uncertainties`` package.

    Raises :class:`InputError` with the field for anything missing, negative or unreadable.

    >>> from brunt_core.methods.registry import method
    >>> c = compute(method("tension"), {"force": "2.4 kN", "width": "10 mm", "thickness": "4 mm"})
    >>> round(c.results[0].observation.lower / 1e6, 9)
    60.0
    """
    readings = _read_all(method, inputs, instruments or {})
    section = _section(method, readings)
    readings = _with_outcome(method, readings, outcome)
    results = tuple(_result(d, readings, section) for d in method.results)
    return Computation(method, readings, section, results, _warnings(readings))


def _read_all(
    method: Method, inputs: Mapping[str, str], instruments: Mapping[str, Instrument]
) -> dict[str, Reading]:
    unknown = [key for key in inputs if key not in {i.key for i in method.inputs}]
    if unknown:
        known = ", ".join(i.key for i in method.inputs)
        raise InputError(f"{method.key} has no input “{unknown[0]}”; it takes {known}.", unknown[0])
    readings = {}
    for spec in method.inputs:
        text = (inputs.get(spec.key) or "").strip()
        if text:
            readings[spec.key] = read(spec, text, instruments)
        elif spec.required:
            raise InputError(f"The {spec.label.lower()} is missing.", spec.key)
    return readings


def read(spec: Input, text: str, instruments: Mapping[str, Instrument]) -> Reading:
    """One input as typed, with the uncertainty its instrument gives it.

    Raises :class:`InputError` naming the input when the text cannot be used.
    """
    if len(text) > 100:
        raise InputError(
            f"The {spec.label.lower()} is longer than any reading; 100 characters are the most.",
            spec.key,
        )
    try:
        typed = parse_typed(text, spec.dimension, spec.unit)
    except InputError as error:
        raise error.at(spec.key) from None
    if not spec.bounded and typed.observation.kind != "exact":
        raise InputError(f"The {spec.label.lower()} must be one value, not a bound.", spec.key)
    if typed.observation.anchor <= 0:
        raise InputError(f"The {spec.label.lower()} must be more than zero.", spec.key)
    return Reading(spec, typed, typed.observation, _uncertainty(spec, typed, instruments))


def _uncertainty(spec: Input, typed: Typed, instruments: Mapping[str, Instrument]) -> float:
    if typed.uncertainty is not None:
        return typed.uncertainty
    instrument = instruments.get(spec.dimension) or standard_instrument(spec.dimension)
    values = [part.si for part in typed.parts]
    repeats = len(values) if typed.observation.is_exact else 1
    spread = stdev(values) if repeats > 1 else 0.0
    return instrument.uncertainty(typed.observation.anchor, repeats, spread)


def _section(method: Method, readings: Mapping[str, Reading]) -> Section | None:
    if not any(i.section for i in method.inputs):
        return None
    return section_for({key for key, r in readings.items() if r.input.section})


def _with_outcome(method: Method, readings: dict[str, Reading], outcome: str) -> dict[str, Reading]:
    chosen = method.outcome(outcome)
    if chosen is None:
        known = ", ".join(o.key for o in method.outcomes)
        raise InputError(f"There is no outcome “{outcome}”; there are {known}.", "outcome")
    bounded = readings.get(method.reading.key)
    if bounded is None or chosen.bound != "at_least" or not bounded.observation.is_exact:
        return readings
    changed = Reading(
        bounded.input, bounded.typed, Observation.at_least(bounded.si), bounded.uncertainty
    )
    return {**readings, bounded.input.key: changed}


def _result(
    definition: ResultDefinition, readings: Mapping[str, Reading], section: Section | None
) -> Result:
    spread = _evaluate(definition, readings, section)
    bounded = next((r for r in readings.values() if r.input.bounded), None)
    observation = Observation.exact(spread.nominal_value)
    if bounded is not None:
        observation = bounded.observation.through(
            lambda x: _evaluate(definition, readings, section, {bounded.input.key: x}).nominal_value
        )
    steps = (
        *(area_step(section, readings) if section else ()),
        result_step(definition, readings, section, observation),
    )
    return Result(
        PROPERTIES[definition.property],
        observation,
        spread.std_dev,
        definition.formula,
        definition.source,
        steps,
    )


def _evaluate(
    definition: ResultDefinition,
    readings: Mapping[str, Reading],
    section: Section | None,
    instead: Mapping[str, float] | None = None,
) -> Any:
    from uncertainties import ufloat

    values: dict[str, Any] = {
        key: ufloat((instead or {}).get(key, r.si), r.uncertainty) for key, r in readings.items()
    }
    if section:
        values["area"] = section.area(values)
    return definition.compute(values)


def _warnings(readings: Mapping[str, Reading]) -> tuple[str, ...]:
    return tuple(f"{r.input.label}: {r.typed.note}." for r in readings.values() if r.typed.note)
