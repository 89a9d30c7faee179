"""Text to quantity and back: numbers as people type them, units as workshops spell them."""

from brunt_core.quantities.dimensions import DIMENSIONS, Dimension
from brunt_core.quantities.parsing import Parsed, Typed, parse, parse_series, parse_typed
from brunt_core.quantities.rendering import in_unit, render, render_with_uncertainty

__all__ = [
    "DIMENSIONS",
    "Dimension",
    "Parsed",
    "Typed",
    "in_unit",
    "parse",
    "parse_series",
    "parse_typed",
    "render",
    "render_with_uncertainty",
]
