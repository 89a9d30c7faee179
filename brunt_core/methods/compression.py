"""Compression: a cube or cylinder pressed to break, or to a set strain where it only squashes."""

from dataclasses import replace
from math import pi

from brunt_core.methods.base import (
    BROKE,
    FRAGMENTS,
    LIMIT,
    LOCAL,
    PEAK_LOAD,
    PINCH,
    SECTION_INPUTS,
    VOID,
    Input,
    Method,
    Outcome,
    ResultDefinition,
    Values,
    modes,
)

PEAK = replace(PEAK_LOAD, required=False)
AT_STRAIN = Input("force_at_strain", "Load at the set strain", "F_x", "force", "N", required=False)
SHORTENING = Input("shortening", "Shortening at peak", "ΔH", "length", "mm", required=False)
SLOPE = Input("slope", "Slope", "m", "stiffness", "N/mm", required=False)
HEIGHT = Input("height", "Height", "H", "length", "mm", required=False, role="fixed")
STRAIN = Input("set_strain", "Set strain", "ε_x", "ratio", "%", required=False, role="fixed")
OUTCOMES = (
    BROKE,
    Outcome("squashed", "squashed, whole", "Q", "at_least"),
    Outcome("buckled", "buckled", "K", "at_least"),
    Outcome("recovered", "recovered", "R", "at_least", breaks=False),
    LIMIT,
    VOID,
)


def compressive_stress(values: Values) -> object:
    """Compressive stress on the first section, σ = F / A.

    Parameters: ``force`` in N, ``area`` in m². Returns Pa. Limits: nominal; barrelling and friction
    on the plates are in it. Source: ISO 604, ASTM D695.

    >>> round(compressive_stress({"force": 10e3, "area": 0.0127**2}) / 1e6, 5)
    62.00012
    """
    return values["force"] / values["area"]


def compressive_strain(values: Values) -> object:
    """Shortening over height, ε = ΔH / H; lengths in m. Source: ISO 604.

    >>> compressive_strain({"shortening": 0.001, "height": 0.01})
    0.1
    """
    return values["shortening"] / values["height"]


def compressive_modulus(values: Values) -> object:
    """Modulus from the slope, E = m·H / A; N/m, m, m². Returns Pa. Source: Hooke's law, ISO 604.

    >>> round(compressive_modulus({"slope": 2e7, "height": 0.01, "area": 1e-4}) / 1e6, 6)
    2000.0
    """
    return values["slope"] * values["height"] / values["area"]


def slenderness(values: Values) -> float:
    """Height over the smaller radius of gyration, λ = H / √(I/A).

    >>> v = {"height": 0.0254, "area": 0.0127**2, "second_moment": 0.0127**4 / 12}
    >>> round(slenderness(v), 4)
    6.9282
    """
    return float(values["height"] / (values["second_moment"] / values["area"]) ** 0.5)


def euler_stress(modulus: float, ratio: float) -> float:
    """Buckling stress of a pinned column, σ = π²·E / λ²; Pa. Source: Euler.

    >>> round(euler_stress(2000e6, 6.9282) / 1e6, 1)
    411.2
    """
    return pi**2 * modulus / ratio**2


def remarks(values: Values) -> tuple[str, ...]:
    """A slender specimen may buckle before it crushes; a load at the set strain is below the peak."""
    said = []
    if "height" in values and slenderness(values) > 16:
        said.append(
            f"Height over radius of gyration is {slenderness(values):.0f}: above 16 it may buckle."
        )
    if values.get("force_at_strain", 0.0) > values.get("force", 1e99):
        said.append(
            "The load at the set strain lies above the peak load: one of the two is misread."
        )
    return tuple(said)


METHOD = Method(
    "compression",
    "Compression",
    "Compressive strength: how much load does it carry?",
    orientation="flat",
    inputs=(PEAK, AT_STRAIN, SHORTENING, SLOPE, HEIGHT, STRAIN, *SECTION_INPUTS),
    results=(
        ResultDefinition(
            "compressive_strength",
            "σ = F / A",
            "{force} / {area}",
            compressive_stress,
            "ISO 604 and ASTM D695, stress on the first section (recalled)",
            ("force", "area"),
        ),
        ResultDefinition(
            "compressive_stress_at_strain",
            "σ_x = F_x / A",
            "{force_at_strain} / {area}",
            lambda v: compressive_stress({**v, "force": v["force_at_strain"]}),
            "ISO 604, stress at x % strain (recalled)",
            ("force_at_strain", "area"),
        ),
        ResultDefinition(
            "compressive_strain",
            "ε = ΔH / H",
            "{shortening} / {height}",
            compressive_strain,
            "ISO 604 (recalled)",
            ("shortening", "height"),
        ),
        ResultDefinition(
            "compressive_modulus",
            "E = m · H / A",
            "{slope} · {height} / {area}",
            compressive_modulus,
            "Hooke's law, ISO 604",
            ("slope", "height", "area"),
        ),
    ),
    outcomes=OUTCOMES,
    places=(),
    cautions=(FRAGMENTS, PINCH, LOCAL),
    drawing="press",
    example={
        "height": "10 mm",
        "set_strain": "25 %",
        "width": "10",
        "thickness": "10",
        "force": "6 kN",
        "shortening": "1.2",
    },
    modes=modes("shear plane", "barrelled", "layers slid", "crumbled", "buckled"),
    curve={"peak_load": "force", "slope": "slope", "at_peak": "shortening"},
    check=remarks,
)
