"""The working: each formula in symbols, then with the numbers in it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from brunt_core.observations import Observation
from brunt_core.properties import PROPERTIES
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import figures, render
from brunt_core.sections import Section

if TYPE_CHECKING:
    from brunt_core.computation.compute import Reading
    from brunt_core.methods.base import ResultDefinition

_SIGN = {"exact": "", "at_least": "≥ ", "at_most": "≤ ", "between": ""}


@dataclass(frozen=True)
class Step:
    """One line of working: symbols, numbers, and what they come to."""

    formula: str
    numbers: str
    value: str

    @property
    def line(self) -> str:
        """``σ = F / A = 2400 N / 40 mm² = 60.0 MPa``."""
        return f"{self.formula} = {self.numbers} = {self.value}"


def bounded_text(observation: Observation, dimension: str, unit: str, significant: int = 3) -> str:
    """An observation as text with its sign: ``≥ 60.0 MPa``, ``45.0 to 60.0 MPa``.

    >>> bounded_text(Observation.at_least(60e6), "stress", "MPa")
    '≥ 60.0 MPa'
    """
    if (
        observation.kind == "between"
        and observation.lower is not None
        and observation.upper is not None
    ):
        low = figures(in_unit(observation.lower, dimension, unit), significant)
        return f"{low} to {render(observation.upper, dimension, unit, significant)}"
    return _SIGN[observation.kind] + render(observation.anchor, dimension, unit, significant)


def area_step(section: Section, readings: Mapping[str, Reading]) -> tuple[Step, ...]:
    """The line that works out the section's area."""
    area = section.area({key: readings[key].si for key in section.dimensions})
    right = section.formula.split("=", 1)[1].strip()
    for symbol, key in zip(section.terms, section.dimensions, strict=True):
        number = render(readings[key].si, "length", "mm", 4)
        right = right.replace(f"{symbol}²", f"({number})²").replace(symbol, number, 1)
    return (Step(section.formula, right, render(area, "area", "mm²", 4)),)


def _term(reading: Reading) -> str:
    text = bounded_text(reading.observation, reading.input.dimension, reading.input.unit, 4)
    return f"({text})" if reading.observation.kind == "between" else text


def result_step(
    definition: ResultDefinition,
    readings: Mapping[str, Reading],
    section: Section | None,
    observation: Observation,
) -> Step:
    """The line that works out one result."""
    texts = {key: _term(r) for key, r in readings.items()}
    if section:
        area = section.area({key: readings[key].si for key in section.dimensions})
        texts["area"] = render(area, "area", "mm²", 4)
    prop = PROPERTIES[definition.property]
    return Step(
        definition.formula,
        definition.numbers.format(**texts),
        bounded_text(observation, prop.dimension, prop.unit, 4),
    )
