"""What a test method says about itself; the form, the working and the command line come from it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Input:
    """One thing that is read or known.

    ``section`` marks a dimension of the cross-section, of which one complete set is needed;
    ``bounded`` marks the reading that an "at least" or "between" outcome applies to.
    """

    key: str
    label: str
    symbol: str
    dimension: str
    unit: str
    required: bool = True
    section: bool = False
    bounded: bool = False
    hint: str = ""


@dataclass(frozen=True)
class ResultDefinition:
    """One result: its property, formula in symbols, source, and the function that computes it.

    ``compute`` receives the inputs by key (and ``area``) in SI, as floats or ``uncertainties``
    numbers, and returns SI. ``numbers`` is the right-hand side with ``{key}`` for each input.
    """

    property: str
    formula: str
    numbers: str
    compute: Callable[[Mapping[str, Any]], Any]
    source: str


@dataclass(frozen=True)
class Outcome:
    """How a test can end: its key on the bench, and what it makes of the reading."""

    key: str
    label: str
    letter: str
    bound: str
    needs_reason: bool = False


@dataclass(frozen=True)
class Place:
    """Where it broke: ``at`` is the position along the specimen, 0 at the lower end, 1 at the upper."""

    key: str
    label: str
    letter: str
    at: float
    suspect: str = ""


@dataclass(frozen=True)
class Method:
    """A test method: everything that form, working, command line and bench need to know."""

    key: str
    name: str
    question: str
    orientation: str
    inputs: tuple[Input, ...]
    results: tuple[ResultDefinition, ...]
    outcomes: tuple[Outcome, ...]
    places: tuple[Place, ...]
    cautions: tuple[str, ...]
    drawing: str

    def input(self, key: str) -> Input:
        """The input with this key; ``KeyError`` when there is none."""
        return next(i for i in self.inputs if i.key == key)

    @property
    def reading(self) -> Input:
        """The reading the outcome bounds: the number taken at the moment of the test."""
        return next(i for i in self.inputs if i.bounded)

    def outcome(self, key: str) -> Outcome | None:
        """The outcome with this key, if the method has it."""
        return next((o for o in self.outcomes if o.key == key), None)

    def place(self, key: str) -> Place | None:
        """The place with this key, if the method has it."""
        return next((p for p in self.places if p.key == key), None)


SECTION_INPUTS = (
    Input("width", "Width", "b", "length", "mm", required=False, section=True),
    Input("thickness", "Thickness", "h", "length", "mm", required=False, section=True),
    Input("diameter", "Diameter", "d", "length", "mm", required=False, section=True),
    Input("outer_diameter", "Outer diameter", "D", "length", "mm", required=False, section=True),
    Input("inner_diameter", "Inner diameter", "d", "length", "mm", required=False, section=True),
)

BREAK_OUTCOMES = (
    Outcome("broke", "broke", "B", "exact"),
    Outcome("held", "did not break", "H", "at_least"),
    Outcome("limit", "rig limit", "L", "at_least"),
    Outcome("void", "void …", "V", "void", needs_reason=True),
)
