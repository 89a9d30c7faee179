"""Double shear: a pin cut through at two sections at once."""

from brunt_core.methods.base import (
    BREAK_OUTCOMES,
    FRAGMENTS,
    LOCAL,
    PEAK_LOAD,
    PINCH,
    SECTION_INPUTS,
    Method,
    ResultDefinition,
    Values,
    modes,
)


def double_shear_stress(values: Values) -> object:
    """Mean shear stress of a pin cut at two sections, τ = F / (2·A).

    Parameters: ``force`` in N, ``area`` of one section in m². Returns Pa. Limits: mean over the
    section; bending of a loose pin makes it read low. Source: any handbook; pin in double shear.

    >>> from math import pi
    >>> round(double_shear_stress({"force": 1000.0, "area": pi * 0.003**2}) / 1e6, 5)
    17.68388
    """
    return values["force"] / (2 * values["area"])


METHOD = Method(
    "double-shear",
    "Double shear",
    "What shears a printed pin?",
    orientation="flat",
    inputs=(PEAK_LOAD, *SECTION_INPUTS),
    results=(
        ResultDefinition(
            "shear_strength",
            "τ = F / (2 · A)",
            "{force} / (2 · {area})",
            double_shear_stress,
            "any handbook of strength of materials, pin in double shear",
            ("force", "area"),
        ),
    ),
    outcomes=BREAK_OUTCOMES,
    places=(),
    cautions=(FRAGMENTS, PINCH, LOCAL),
    drawing="shear_pin",
    example={
        "diameter": "6",
        "force": "1.6 kN",
    },
    modes=modes("both sections", "one section", "bent out", "layers parted"),
    curve={"peak_load": "force"},
)
