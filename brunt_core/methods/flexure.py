"""Flexure: a bar on two supports, loaded at mid-span to break or to a set deflection."""

from brunt_core.methods._beams import (
    DEFLECTION,
    SPAN,
    beam_modulus,
    large_deflection_factor,
    outer_strain,
    three_point_stress,
)
from brunt_core.methods.base import (
    BREAK_OUTCOMES,
    FIBRES,
    FRAGMENTS,
    LOCAL,
    PEAK_LOAD,
    PINCH,
    SECTION_INPUTS,
    Derived,
    Input,
    Method,
    Place,
    ResultDefinition,
    Values,
    fixed_choice,
    modes,
    nominal,
)

SLOPE = Input("slope", "Slope", "m", "stiffness", "N/mm", required=False)
CORRECTION = fixed_choice(
    "correction",
    "Large deflection",
    (("none", "not corrected"), ("D790", "corrected as ASTM D790 asks")),
    "none",
)
_DEEPEST = 1.05 / 16
_ISO = "ISO 178 and ASTM D790, flexural stress at mid-span (recalled)"
_D790 = "ASTM D790, 12.3, large spans (recalled)"


def corrected_stress(values: Values) -> object:
    """Flexural stress with the standard's term for large deflection, or ``None`` below 10 % of span.

    σ = F·L/(4·W) · [1 + 6·q² − 4·(h/L)·q], q = D/L, h = 2c. Parameters as for the plain stress,
    with ``deflection`` and ``half_depth`` in m. Returns Pa. Limits: D above 10 % of the span and
    span at least 16 depths, give or take 5 % for a bar as printed. Source: ASTM D790, 12.3 (recalled).

    >>> v = {"force": 120.0, "span": 0.064, "bending_modulus": 0.01 * 0.004**2 / 6}
    >>> round(corrected_stress({**v, "deflection": 0.012, "half_depth": 0.002}) / 1e6, 6)
    83.8125
    """
    q = values["deflection"] / values["span"]
    h = 2 * values["half_depth"] / values["span"]
    if nominal(q) <= 0.1 or nominal(h) > _DEEPEST:
        return None
    return three_point_stress(values) * large_deflection_factor(q, h)  # type: ignore[operator]


def remarks(values: Values) -> tuple[str, ...]:
    """What limits the figures: strain above 5 %, deflection above 10 % of span, a short span."""
    said = []
    depth, span, sag = 2 * values["half_depth"], values["span"], values.get("deflection", 0.0)
    if 6 * sag * depth / span**2 > 0.05:
        said.append("The outer strain is above 5 %: the standards stop there.")
    if sag > 0.1 * span and depth <= span * _DEEPEST:
        said.append(
            "The deflection is above 10 % of the span: ASTM D790 asks for the large-deflection term."
        )
    if span < 15 * depth:
        said.append("The span is under 15 depths: shear adds to the deflection.")
    return tuple(said)


_NEEDS = ("force", "span", "bending_modulus")
_LARGE = (*_NEEDS, "deflection", "half_depth")
_LARGE_FORMULA = "σ = F · L / (4 · W) · [1 + 6 · (D/L)² − 4 · (h/L) · (D/L)]"
_LARGE_NUMBERS = (
    "{force} · {span} / (4 · {bending_modulus}) · [1 + 6 · ({deflection}/{span})² "
    "− 8 · ({half_depth}/{span}) · ({deflection}/{span})]"
)

METHOD = Method(
    "flexure",
    "Flexure",
    "How hard and how stiff is it in bending?",
    orientation="flat",
    inputs=(PEAK_LOAD, SPAN, DEFLECTION, SLOPE, CORRECTION, *SECTION_INPUTS),
    results=(
        ResultDefinition(
            "flexural_strength",
            _LARGE_FORMULA,
            _LARGE_NUMBERS,
            corrected_stress,
            _D790,
            (*_LARGE, "correction=D790"),
        ),
        ResultDefinition(
            "flexural_strength",
            "σ = F · L / (4 · W)",
            "{force} · {span} / (4 · {bending_modulus})",
            three_point_stress,
            _ISO,
            _NEEDS,
        ),
        ResultDefinition(
            "flexural_strength_corrected",
            _LARGE_FORMULA,
            _LARGE_NUMBERS,
            corrected_stress,
            _D790,
            (*_LARGE, "correction=none"),
        ),
        ResultDefinition(
            "flexural_modulus",
            "E = L³ · m / (48 · I)",
            "({span})³ · {slope} / (48 · {second_moment})",
            beam_modulus,
            "ISO 178 and ASTM D790, modulus from the slope (recalled)",
            ("span", "slope", "second_moment", "beam_factor"),
        ),
        ResultDefinition(
            "flexural_strain",
            "ε = 12 · D · c / L²",
            "12 · {deflection} · {half_depth} / ({span})²",
            outer_strain,
            "ISO 178, outer-fibre strain 6·D·h/L² (recalled)",
            ("deflection", "half_depth", "span"),
            at_end=True,
        ),
    ),
    outcomes=BREAK_OUTCOMES,
    places=(
        Place("under_load", "under the load", "N", 0.5),
        Place(
            "off_load", "off the load", "O", 0.38, "a break off the load reads low: look for a flaw"
        ),
        Place("at_support", "at a support", "P", 0.14, "a break at a support is none of the span"),
    ),
    cautions=(FRAGMENTS, PINCH, FIBRES, LOCAL),
    drawing="three_point",
    example={
        "span": "64 mm",
        "width": "10.02",
        "thickness": "4.01",
        "force": "131 N",
        "deflection": "6",
        "slope": "28",
    },
    derived=(
        Derived(
            "beam_factor",
            "k",
            "load at mid-span",
            compute=lambda v: 48.0,
            needs=("span",),
            dimension="number",
            unit="",
        ),
    ),
    modes=modes("clean break", "opened from below", "layers slid", "bent without breaking", "flaw"),
    curve={"peak_load": "force", "slope": "slope", "at_peak": "deflection"},
    check=remarks,
    cv=0.05,
)
