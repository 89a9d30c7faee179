"""What flat tension and upright layer adhesion share: a bar pulled along its length."""

from collections.abc import Mapping
from typing import Any

from brunt_core.methods.base import (
    BREAK_OUTCOMES,
    SECTION_INPUTS,
    Input,
    Method,
    Place,
    ResultDefinition,
)

FORCE = Input(
    "force",
    "Peak load",
    "F",
    "force",
    "N",
    bounded=True,
    hint="as the scale shows it: 58.4 kgf, 131 lbf, 612 N; > 40 kgf if it held",
)

PLACES = (
    Place("upper_grip", "upper grip", "K", 0.90, "a break in the grip says little of the bar"),
    Place("upper_fillet", "upper fillet", "F", 0.72, "a break at the fillet reads low"),
    Place("gauge", "gauge", "G", 0.50),
    Place("lower_fillet", "lower fillet", "R", 0.28, "a break at the fillet reads low"),
    Place("lower_grip", "lower grip", "J", 0.10, "a break in the grip says little of the bar"),
)

CAUTIONS = (
    "Wear glasses or stand behind a shield; stand back before a fast pull: fragments fly.",
    "Keep fingers out of the grips and hair and sleeves out of the line of pull.",
    "Filled plastics shed fibre dust when they break: collect it wet, do not sweep it dry.",
    "Your safety data sheet and local rules come first.",
)


def axial_stress(values: Mapping[str, Any]) -> Any:
    """Stress of a bar pulled along its length, σ = F / A.

    Parameters: mapping with ``force`` F in N and ``area`` A in m² (above zero). Returns Pa.
    Limits: nominal stress on the section before the test; no necking correction.
    Source: ISO 527-1:2019, 10.1 (engineering stress); ASTM D638, tensile strength — clause
    numbers from memory.

    >>> round(axial_stress({"force": 2400.0, "area": 40e-6}) / 1e6, 9)
    60.0
    """
    return values["force"] / values["area"]


def pulled(
    key: str, name: str, question: str, orientation: str, property_key: str, source: str
) -> Method:
    """A method that pulls a bar and divides peak load by the measured section."""
    result = ResultDefinition(property_key, "σ = F / A", "{force} / {area}", axial_stress, source)
    return Method(
        key,
        name,
        question,
        orientation,
        (FORCE, *SECTION_INPUTS),
        (result,),
        BREAK_OUTCOMES,
        PLACES,
        CAUTIONS,
        drawing="tension_bar",
    )
