"""The working: each formula in symbols, then with the numbers in it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from brunt_core.observations import Observation
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import figures, render

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
        return " = ".join(part for part in (self.formula, self.numbers, self.value) if part)


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


def term(observation: Observation, dimension: str, unit: str) -> str:
    """A quantity as it stands in a line of numbers."""
    text = bounded_text(observation, dimension, unit, 4)
    return f"({text})" if observation.kind == "between" else text


def filled(numbers: str, texts: Mapping[str, str]) -> str:
    """The line of numbers with each ``{key}`` replaced.

    >>> filled("{force} / {area}", {"force": "2400 N", "area": "40 mm²"})
    '2400 N / 40 mm²'
    """
    return numbers.format(**texts)
