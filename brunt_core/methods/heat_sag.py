"""Heat sag: a small weight at mid-span and a slow rise of temperature."""

from itertools import pairwise

from brunt_core.methods.base import (
    HELD,
    LIMIT,
    LOCAL,
    SECTION_INPUTS,
    VOID,
    Estimated,
    Input,
    Method,
    Outcome,
    ResultDefinition,
    Values,
    nominal,
)
from brunt_core.methods.impact import STANDARD_GRAVITY
from brunt_core.observations import Observation
from brunt_core.quantities.rendering import render

SAG = Input(
    "temperature_at_sag",
    "Temperature at first sag",
    "T_s",
    "temperature",
    "°C",
    required=False,
    bounded=True,
    least="any",
    aliases=("temperature",),
)
SAGS = Input(
    "sags",
    "Sag at several temperatures",
    "δ(T)",
    "length",
    "mm",
    required=False,
    kind="series",
    along=(("temperature", "°C"),),
    hint="50 °C: 0; 60 °C: 0.1; 70 °C: 0.8",
)
SPRINGS = Input(
    "springback",
    "Springs back when cold",
    "",
    "text",
    "",
    required=False,
    kind="choice",
    choices=(("yes", "yes, straight again"), ("partly", "partly"), ("no", "no, it stays bent")),
    hint="yes, partly or no",
)
COLLAPSE = Input(
    "temperature_at_collapse",
    "Temperature at collapse",
    "T_c",
    "temperature",
    "°C",
    required=False,
    least="any",
)
LOAD = Input("load", "Weight at mid-span", "F", "force", "N", required=False, role="fixed")
SPAN = Input("span", "Span", "L", "length", "mm", required=False, role="fixed")
RAMP = Input("ramp", "Ramp", "r", "heating_rate", "°C/min", required=False, role="fixed")
DROOP = Input("droop", "Droop of a free flag", "δ", "length", "mm", required=False, least="zero")
REACH = Input("reach", "Flag's free length", "l", "length", "mm", required=False, role="fixed")
DENSITY = Input("density", "Density", "ρ", "density", "g/cm³", required=False, role="fixed")

STANDARD_STRESSES = (("B", 0.45e6), ("A", 1.80e6), ("C", 8.00e6))


def fibre_stress(values: Values) -> object:
    """Outer-fibre stress under the weight, σ = F·L / (4·W); Pa from N, m, m³.

    Limits: three-point; ISO 75 loads flatwise over 64 mm at 0.45, 1.80 or 8.00 MPa.
    Source: ISO 75-2, F = 2·σ·b·h²/(3·L) solved for σ (recalled).

    >>> v = {"load": 3.0, "span": 0.064, "bending_modulus": 0.01 * 0.004**2 / 6}
    >>> round(fibre_stress(v) / 1e6, 9)
    1.8
    """
    return values["load"] * values["span"] / (4 * values["bending_modulus"])


def standard_sag(values: Values) -> float:
    """The sag that counts, Δs = L²·Δε / (6·h) at an outer-fibre strain of 0.2 %; m.

    With neither span nor thickness it is that of 64 mm and 4 mm, 0.34 mm.
    Source: ISO 75-1, standard deflection (recalled).

    >>> round(standard_sag({"span": 0.064, "thickness": 0.004}) * 1e3, 3)
    0.341
    """
    span, thickness = nominal(values.get("span", 0.064)), nominal(values.get("thickness", 0.004))
    return float(span**2 * 0.002 / (6 * thickness))


def sag_crossing(values: Values) -> Estimated:
    """The temperature at which the noted sags reach the standard one, by straight lines between; K.

    Below the lowest or above the highest temperature it is a bound. Uncertain by a quarter of the
    step it lies in, as a rectangle: u = ΔT/√12.

    >>> from brunt_core.quantities.series import SeriesRow
    >>> rows = (SeriesRow((333.15,), 0.1e-3, ""), SeriesRow((343.15,), 0.582667e-3, ""))
    >>> round(sag_crossing({"sags": rows, "span": 0.064, "thickness": 0.004}).observation.anchor, 2)
    338.15
    """
    wanted = standard_sag(values)
    rows = sorted((row.at[0], row.value) for row in values["sags"])
    step = ("sag that counts", "Δs = L² · 0.2 % / (6 · h)", render(wanted, "length", "mm", 3))
    if rows[0][1] >= wanted:
        return Estimated(Observation.at_most(rows[0][0]), 0.0, (step,))
    for (t0, s0), (t1, s1) in pairwise(rows):
        if s0 < wanted <= s1:
            found = t0 + (t1 - t0) * (wanted - s0) / (s1 - s0)
            return Estimated(Observation.exact(found), (t1 - t0) / 12**0.5, (step,))
    return Estimated(Observation.at_least(rows[-1][0]), 0.0, (step,))


def own_weight_stress(values: Values) -> object:
    """Stress at the root of a flag by its own weight, σ = 3·ρ·g·l² / h; Pa.

    Parameters: ``density`` kg/m³, ``reach`` l and ``thickness`` h in m. The width cancels.
    Source: cantilever under uniform load, M = w·l²/2.

    >>> v = {"density": 1240.0, "reach": 0.1, "thickness": 0.004}
    >>> round(own_weight_stress(v), 1)
    91201.8
    """
    return 3 * values["density"] * STANDARD_GRAVITY * values["reach"] ** 2 / values["thickness"]


def beside_standard(stress: float) -> str:
    """Where an outer-fibre stress in Pa sits between the standard loads.

    >>> beside_standard(1.0e6)
    'between the standard loads B (0.45 MPa) and A (1.80 MPa)'
    """
    for letter, level in STANDARD_STRESSES:
        if abs(stress / level - 1) < 0.02:
            return f"the standard load {letter} ({level / 1e6:.2f} MPa)"
    below = [s for s in STANDARD_STRESSES if s[1] < stress]
    above = [s for s in STANDARD_STRESSES if s[1] > stress]
    if below and above:
        (a, x), (b, y) = below[-1], above[0]
        return f"between the standard loads {a} ({x / 1e6:.2f} MPa) and {b} ({y / 1e6:.2f} MPa)"
    letter, level = (above or STANDARD_STRESSES[-1:])[0]
    return f"{'below' if above else 'above'} the standard load {letter} ({level / 1e6:.2f} MPa)"


def remarks(values: Values) -> tuple[str, ...]:
    """Sets the load beside the standard ones and catches a collapse before the sag."""
    said = []
    if {"load", "span", "bending_modulus"} <= set(values):
        stress = float(fibre_stress(values))  # type: ignore[arg-type]
        said.append(
            f"{stress / 1e6:.2f} MPa at the outer fibre is {beside_standard(stress)}; "
            "ramp and reading of the sag differ, so the temperatures are no more than neighbours."
        )
    held = {"outcome=held", "outcome=limit"} & set(values)
    if held and "temperature_at_collapse" in values:
        said.append(
            "It did not sag, and yet a temperature at collapse is given: a collapse that did not "
            "happen has no temperature."
        )
    if values.get("temperature_at_collapse", 1e9) < values.get("temperature_at_sag", 0.0):
        said.append("It collapsed before it sagged: one of the two temperatures is misread.")
    if "outcome=fell" in values:
        said.append("It fell under its own weight: the temperature is that of the fall.")
    for word, says in (("no", "stayed bent"), ("partly", "sprang back only partly")):
        if f"springback={word}" in values:
            said.append(f"It {says} when cold: the sag is set for good.")
    return tuple(said)


METHOD = Method(
    "heat-sag",
    "Heat sag",
    "How hot may it get under a small load?",
    orientation="flat",
    inputs=(SAG, SAGS, COLLAPSE, SPRINGS, DROOP, LOAD, SPAN, RAMP, REACH, DENSITY, *SECTION_INPUTS),
    results=(
        ResultDefinition(
            "sag_temperature",
            "T_s = T at first sag",
            "{temperature_at_sag}",
            lambda v: v["temperature_at_sag"],
            "as read; the ramp is part of the method",
            ("temperature_at_sag",),
        ),
        ResultDefinition(
            "sag_temperature",
            "T_s where δ(T) = Δs",
            "by straight lines between the readings",
            sag_crossing,
            "ISO 75-1, standard deflection (recalled); the ramp is part of the method",
            ("sags",),
        ),
        ResultDefinition(
            "collapse_temperature",
            "T_c = T at collapse",
            "{temperature_at_collapse}",
            lambda v: v["temperature_at_collapse"],
            "as read",
            ("temperature_at_collapse",),
        ),
        ResultDefinition(
            "own_weight_droop",
            "δ = droop of the free end",
            "{droop}",
            lambda v: v["droop"],
            "as read; common practice, no source",
            ("droop",),
            bounded=False,
        ),
        ResultDefinition(
            "outer_fibre_stress",
            "σ = F · L / (4 · W)",
            "{load} · {span} / (4 · {bending_modulus})",
            fibre_stress,
            "ISO 75-2 solved for the stress (recalled)",
            ("load", "span", "bending_modulus"),
        ),
        ResultDefinition(
            "own_weight_stress",
            "σ_w = 3 · ρ · g · l² / h",
            "3 · {density} · g · ({reach})² / {thickness}",
            own_weight_stress,
            "cantilever under its own weight",
            ("density", "reach", "thickness"),
        ),
    ),
    outcomes=(
        Outcome("sagged", "sagged", "B", "exact"),
        Outcome("fell", "fell by its own weight", "F", "exact"),
        HELD,
        LIMIT,
        VOID,
    ),
    places=(),
    cautions=(
        "Hot oven or water: gloves, tongs, nothing flammable near; not the oven food is made in.",
        "Overheated plastic gives off fumes: ventilate, and stop at the first smoke.",
        LOCAL,
    ),
    drawing="heat",
    example={
        "load": "0.75 N",
        "span": "64 mm",
        "ramp": "2 °C/min",
        "temperature_at_sag": "56",
        "temperature_at_collapse": "63",
        "width": "10.02",
        "thickness": "4.01",
    },
    needs_section=False,
    check=remarks,
)
