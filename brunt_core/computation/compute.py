"""Compute a method's results from what was read."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from math import sqrt
from typing import Any

from brunt_core.computation.instruments import Instrument
from brunt_core.computation.reading import ParsedReading, read_all
from brunt_core.computation.working import Step, bounded_text, filled, term
from brunt_core.errors import InputError
from brunt_core.methods.base import Derived, Estimated, Method, ResultDefinition, nominal, spread
from brunt_core.observations import Observation
from brunt_core.properties import PROPERTIES, Property, own_property
from brunt_core.quantities.parsing import last_two
from brunt_core.quantities.rendering import render
from brunt_core.sections import Section, section_for

__all__ = ["Computation", "ParsedReading", "ComputedResult", "compute"]


@dataclass(frozen=True)
class ComputedResult:
    """One property computed: bounds in SI, standard uncertainty, and the steps of its working.

    ``rounding`` is the part of the uncertainty that is this specimen's own: what the steps of the
    displays leave open. The rest is common to all that is read with the same instruments.
    """

    property: Property
    observation: Observation
    uncertainty: float
    formula: str
    source: str
    steps: tuple[Step, ...]
    at_time: float | None = None
    rounding: float = 0.0

    @property  # type: ignore[operator]  # a field bears the name, for the checker alone
    def working(self) -> str:
        """The steps on one line."""
        return "; ".join(step.line for step in self.steps)


@dataclass(frozen=True)
class Computation:
    """All results of one test, what they were computed from, and what deserves a second look."""

    method: Method
    readings: dict[str, ParsedReading]
    section: Section | None
    results: tuple[ComputedResult, ...]
    warnings: tuple[str, ...] = field(default=())
    values: Mapping[str, float] = field(default_factory=dict)

    def result(self, key: str) -> ComputedResult:
        """The result for a property, or the first there is when that one could not be computed."""
        return next((r for r in self.results if r.property.key == key), self.results[0])


def compute(
    method: Method,
    inputs: Mapping[str, str],
    outcome: str = "",
    instruments: Mapping[str, Instrument] | None = None,
) -> Computation:
    """Compute every result of a method that the inputs allow.

    Parameters
    ----------
    method : the method's definition.
    inputs : texts as typed, by input key; empty ones count as not given.
    outcome : key of one of the method's outcomes (its first when empty); it says what the bounded
        reading means.
    instruments : by dimension, where they differ from the standard instruments.

    Returns a :class:`Computation`; values in SI, uncertainty first order after JCGM 100:2008 (GUM)
    5.1 through the ``uncertainties`` package.

    Raises :class:`InputError` with the field for anything missing, negative or unreadable.

    >>> from brunt_core.methods.registry import method
    >>> c = compute(method("tension"), {"force": "2.4 kN", "width": "10 mm", "thickness": "4 mm"})
    >>> round(c.results[0].observation.lower / 1e6, 9)
    60.0
    """
    ends = method.outcome(outcome or method.outcomes[0].key)
    if ends is not None and ends.bound == "zero":
        return _at_no_load(method)
    readings = read_all(method, inputs, instruments or {})
    section = _section(method, readings)
    readings = _with_outcome(method, readings, outcome or method.outcomes[0].key)
    method.possible({k: r.si for k, r in readings.items() if r.plain})
    sheet = _Sheet(method, readings, section, outcome or method.outcomes[0].key)
    results = sheet.results()
    if not results:
        raise sheet.missing()
    plain = {k: getattr(v, "nominal_value", v) for k, v in sheet.values.items()}
    ended = {f"outcome={outcome or method.outcomes[0].key}": 1.0}
    remarks = (*_notes(readings), *method.check({**plain, **ended}))
    return Computation(method, readings, section, results, remarks, plain)


def _at_no_load(method: Method) -> Computation:
    """A specimen that failed before it was loaded: what rests on the load is at most nothing."""
    reading = method.reading
    found = [
        PROPERTIES[r.property]
        for r in method.results
        if any(reading in method.roots(need) for need in r.needs)
    ]
    results = tuple(
        ComputedResult(
            prop,
            Observation.at_most(0.0),
            0.0,
            formula=f"{reading.symbol} = 0",
            source="failed at assembly, before any load",
            steps=(Step(f"{reading.symbol} = 0", "failed before it was loaded", ""),),
        )
        for prop in dict.fromkeys(found)
    )
    return Computation(method, {}, None, results)


def _section(method: Method, readings: Mapping[str, ParsedReading]) -> Section | None:
    if not any(i.section for i in method.inputs):
        return None
    given = {key for key, r in readings.items() if r.input.section}
    return section_for(given) if given or method.needs_section else None


def _with_outcome(
    method: Method, readings: dict[str, ParsedReading], outcome: str
) -> dict[str, ParsedReading]:
    chosen = method.outcome(outcome)
    if chosen is None:
        known = ", ".join(o.key for o in method.outcomes)
        raise InputError(f"There is no outcome “{outcome}”; there are {known}.", "outcome")
    bounded = _bounded(method, readings)
    if bounded is None:
        return readings
    changed = replace(bounded, observation=_as_it_ended(bounded, chosen.bound))
    return {**readings, bounded.input.key: changed}


def _as_it_ended(reading: ParsedReading, bound: str) -> Observation:
    """What a reading means by how the test ended: as read, at least, or between the last two loads."""
    known, key = reading.observation, reading.input.key
    if bound == "between" and known.kind != "between":
        if len(reading.typed.parts) > 1:
            try:
                return last_two(reading.typed)
            except InputError as error:
                raise error.at(key) from None
        raise InputError(
            "Stepwise: type the load it held and the load it failed at, like 6 .. 8 kgf.", key
        )
    if bound != "at_least":
        return known
    if known.kind == "at_most":
        raise InputError(
            "It did not break, so it bears at least what was read: leave out the “<”.", key
        )
    if known.kind == "between":
        raise InputError(
            "It did not break, so nothing lies between two loads: type the highest it held.", key
        )
    return Observation.at_least(reading.si)


def _bounded(method: Method, readings: Mapping[str, ParsedReading]) -> ParsedReading | None:
    """The reading the outcome speaks of: the first bounded one that is given."""
    return next((readings[i.key] for i in method.inputs if i.bounded and i.key in readings), None)


class _Sheet:
    """The quantities of one computation, with what they derive from."""

    def __init__(
        self,
        method: Method,
        readings: Mapping[str, ParsedReading],
        section: Section | None,
        outcome: str,
    ) -> None:
        self.method, self.readings = method, readings
        self.ends = method.outcome(outcome)
        self.bounded = _bounded(method, readings)
        self.derived = (*(section.terms if section else ()), *method.derived)
        self.used: dict[str, Derived] = {}
        self.values = self._evaluate({})

    def _evaluate(self, instead: Mapping[str, float]) -> dict[str, Any]:
        values: dict[str, Any] = {}
        for key, r in self.readings.items():
            if r.plain:
                values[key] = _uncertain(instead.get(key, r.si), r.uncertainty, key)
            else:
                values[key] = r.rows or r.word
                values[f"{key}.u"] = r.uncertainty
                values[f"{key}={r.word}"] = True
        for one in self.derived:
            if one.key not in values and all(n in values for n in one.needs):
                values[one.key] = one.compute(values)
                self.used[one.key] = one
        return values

    def results(self) -> tuple[ComputedResult, ...]:
        """Every result whose needs are met; of several for one property the first."""
        found: dict[str, ComputedResult] = {}
        for definition in self.method.results:
            if definition.property not in found and all(n in self.values for n in definition.needs):
                result = self._result(definition)
                if result is not None:
                    found[definition.property] = result
        return tuple(found.values())

    def missing(self) -> InputError:
        """What the method's first result still wants."""
        labels = {i.key: i.label.lower() for i in self.method.inputs}
        roots = [k for need in self.method.results[0].needs for k in self._roots(need, labels)]
        first = roots[0] if roots else self.method.reading.key
        names = " and the ".join(labels[k] for k in dict.fromkeys(roots or [first]))
        return InputError(f"The {names} is missing.", first)

    def _roots(self, key: str, labels: Mapping[str, str]) -> list[str]:
        """The inputs lacking below a quantity."""
        if key in self.values:
            return []
        if key in labels:
            return [key]
        way = next((d for d in self.derived if d.key == key), None)
        return [r for need in (way.needs if way else ()) for r in self._roots(need, labels)]

    def _result(self, definition: ResultDefinition) -> ComputedResult | None:
        prop = PROPERTIES[definition.property]
        if self.method.own_property:
            prop = own_property({k: r.word for k, r in self.readings.items()})
        chain = self._chain(definition.needs)
        answer = definition.compute(self.values)
        if answer is None:
            return None
        if isinstance(answer, Estimated):
            return self._estimated(definition, prop, chain, answer)
        observation = self._as_failed(prop, self._observation(definition, chain, answer))
        uncertainty = spread(answer)
        value = bounded_text(observation, prop.dimension, prop.unit, 4)
        numbers = filled(definition.numbers, self._texts(definition.bounded))
        numbers = "" if numbers == value else numbers
        steps = (*self._steps(chain), Step(definition.formula, numbers, value))
        return ComputedResult(
            prop,
            observation,
            uncertainty,
            formula=definition.formula,
            source=definition.source,
            steps=steps,
            at_time=None,
            rounding=self._rounding(answer),
        )

    def _rounding(self, answer: Any) -> float:
        """The part of an answer's uncertainty that comes from the displays' steps (JCGM 100 5.1.3)."""
        parts: dict[Any, float] = getattr(answer, "error_components", dict)()
        own = 0.0
        for variable, part in parts.items():
            reading = self.readings.get(variable.tag or "")
            if reading and reading.uncertainty:
                own += (part * min(reading.rounding / reading.uncertainty, 1.0)) ** 2
        return sqrt(own)

    def _estimated(
        self, definition: ResultDefinition, prop: Property, chain: list[str], answer: Estimated
    ) -> ComputedResult:
        observation = self._as_failed(prop, answer.observation)
        value = bounded_text(observation, prop.dimension, prop.unit, 4)
        own = tuple(Step(*s) for s in answer.steps)
        last = Step(definition.formula, filled(definition.numbers, self._texts()), value)
        return ComputedResult(
            prop,
            observation,
            answer.uncertainty,
            formula=definition.formula,
            source=definition.source,
            steps=(*self._steps(chain), *own, last),
            at_time=answer.at_time,
        )

    def _as_failed(self, prop: Property, known: Observation) -> Observation:
        """After a failure what was read is a bound on the bad side."""
        if not (self.ends and self.ends.fails and known.is_exact):
            return known
        bad = Observation.at_least if prop.better == "lower" else Observation.at_most
        return bad(known.anchor)

    def _observation(
        self, definition: ResultDefinition, chain: list[str], answer: Any
    ) -> Observation:
        value = nominal(answer)
        key = self.bounded.input.key if self.bounded else ""
        inputs = {n for c in chain for n in self.used[c].needs} | set(definition.needs)
        if definition.at_end and self.ends and self.ends.bound == "at_least":
            return Observation.at_least(value)
        if not definition.bounded:
            return Observation.exact(value)
        if self.bounded is None and self.ends and self.ends.bound == "at_least":
            return Observation.at_least(value)
        if self.bounded is None or key not in inputs:
            return Observation.exact(value)

        known = self.bounded.observation
        if known.is_exact and known.anchor == self.bounded.si:
            return Observation.exact(value)

        def at(x: float) -> float:
            found = definition.compute(self._evaluate({key: x}))
            return nominal(found)

        return known.through(at)

    def _chain(self, needs: tuple[str, ...]) -> list[str]:
        """The derived quantities a result rests on, each after those it rests on itself."""
        chain: list[str] = []
        for need in needs:
            if need in self.used:
                chain += [c for c in (*self._chain(self.used[need].needs), need) if c not in chain]
        return chain

    def _steps(self, chain: list[str]) -> tuple[Step, ...]:
        texts = self._texts()
        return tuple(
            Step(one.formula, filled(one.numbers, texts), texts[one.key])
            for one in (self.used[key] for key in chain)
        )

    def _texts(self, bounded: bool = True) -> dict[str, str]:
        """Every quantity as it stands in a line; a bound as its number where it does not count."""
        texts = {
            key: (
                term(
                    r.observation if bounded else Observation.exact(r.si),
                    r.input.dimension,
                    r.input.unit,
                )
                if r.plain
                else r.word
            )
            for key, r in self.readings.items()
        }
        for key, one in self.used.items():
            value = self.values[key]
            texts[key] = render(nominal(value), one.dimension, one.unit, 4)
        return texts


def _uncertain(value: float, uncertainty: float, tag: str) -> Any:
    from uncertainties import ufloat

    return ufloat(value, uncertainty, tag) if uncertainty else value


def _notes(readings: Mapping[str, ParsedReading]) -> tuple[str, ...]:
    return tuple(f"{r.input.label}: {r.typed.note}." for r in readings.values() if r.typed.note)
