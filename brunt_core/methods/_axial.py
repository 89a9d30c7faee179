"""What flat tension and upright layer adhesion share: a bar pulled along its length."""

from brunt_core.methods.base import (
    BREAK_OUTCOMES,
    FIBRES,
    FRAGMENTS,
    LOCAL,
    MASS,
    SECTION_INPUTS,
    Input,
    Method,
    Place,
    ResultDefinition,
    Values,
    modes,
)

FORCE = Input(
    "force",
    "Peak load",
    "F",
    "force",
    "N",
    bounded=True,
    hint="as the scale shows it: 58.4 kgf, 131 lbf, 612 N; > 40 kgf if it held",
    aliases=("load", "peak_load"),
)
YIELD = Input("yield_force", "Load at yield", "F_y", "force", "N", required=False)
SLOPE = Input("slope", "Slope", "m", "stiffness", "N/mm", required=False)
GAUGE = Input("gauge_length", "Gauge length", "L_0", "length", "mm", required=False, role="fixed")
AT_PEAK = Input(
    "extension_at_peak", "Extension at peak", "ΔL_p", "length", "mm", required=False, least="zero"
)
AT_BREAK = Input(
    "extension_at_break", "Extension at break", "ΔL_b", "length", "mm", required=False, least="zero"
)
ENERGY = Input("work", "Work to break", "W_b", "energy", "J", required=False)
FRACTURE = Input(
    "fracture_area",
    "Area of the fracture surface",
    "A_b",
    "area",
    "mm²",
    required=False,
    hint="what is left bonded where it parted, from a photo or a scan",
)
DRAWN = "the specimen type's unless given"
DRAWN_AREA = Input(
    "drawn_area", "Section as drawn", "A_0", "area", "mm²", required=False, role="fixed", hint=DRAWN
)
DRAWN_VOLUME = Input(
    "drawn_volume",
    "Volume as drawn",
    "V_0",
    "volume",
    "cm³",
    required=False,
    role="fixed",
    hint=DRAWN,
)
DENSITY = Input(
    "density",
    "Density of the material",
    "ρ",
    "density",
    "g/cm³",
    required=False,
    role="fixed",
    hint="the material's unless given",
)

PLACES = (
    Place("upper_grip", "upper grip", "K", 0.90, "a break in the grip says little of the bar"),
    Place("upper_fillet", "upper fillet", "F", 0.72, "a break at the fillet reads low"),
    Place("gauge", "gauge", "G", 0.50),
    Place("lower_fillet", "lower fillet", "R", 0.28, "a break at the fillet reads low"),
    Place("lower_grip", "lower grip", "J", 0.10, "a break in the grip says little of the bar"),
)
MODES = modes("along a layer line", "across the beads", "oblique", "necking", "flaw")

CAUTIONS = (
    FRAGMENTS + " Stand back before a fast pull.",
    "Keep fingers out of the grips and hair and sleeves out of the line of pull.",
    FIBRES,
    LOCAL,
)
CURVE = {
    "peak_load": "force",
    "yield_load": "yield_force",
    "slope": "slope",
    "at_peak": "extension_at_peak",
    "at_break": "extension_at_break",
    "energy": "work",
}


def axial_stress(values: Values) -> object:
    """Stress of a bar pulled along its length, σ = F / A.

    Parameters: mapping with ``force`` F in N and ``area`` A in m² (above zero). Returns Pa.
    Limits: nominal stress on the section before the test; no necking correction.
    Source: ISO 527-1:2019, 10.1 (engineering stress); ASTM D638, tensile strength — clause
    numbers from memory.

    >>> round(axial_stress({"force": 2400.0, "area": 40e-6}) / 1e6, 9)
    60.0
    """
    return values["force"] / values["area"]


def yield_stress(values: Values) -> object:
    """Stress at yield, σ_y = F_y / A.

    Parameters: ``yield_force`` in N, ``area`` in m². Returns Pa. Limits: yield as read, or by the
    offset of the curve. Source: ISO 527-1, stress at yield; ASTM D638 annex A2, offset (recalled).

    >>> round(yield_stress({"yield_force": 1800.0, "area": 40e-6}) / 1e6, 9)
    45.0
    """
    return values["yield_force"] / values["area"]


def axial_modulus(values: Values) -> object:
    """Young's modulus from the slope of load over extension, E = m · L0 / A.

    Parameters: ``slope`` m in N/m, ``gauge_length`` L0 in m, ``area`` in m². Returns Pa.
    Limits: the extension is of the gauge length alone; a frame's own give makes E read low.
    Source: Hooke's law on the definitions of ISO 527-1.

    >>> round(axial_modulus({"slope": 2e6, "gauge_length": 0.05, "area": 40e-6}) / 1e6, 6)
    2500.0
    """
    return values["slope"] * values["gauge_length"] / values["area"]


def strain_at_peak(values: Values) -> object:
    """Nominal strain at peak, ε_p = ΔL_p / L0. Lengths in m; dimensionless. Source: ISO 527-1.

    >>> strain_at_peak({"extension_at_peak": 0.001, "gauge_length": 0.05})
    0.02
    """
    return values["extension_at_peak"] / values["gauge_length"]


def strain_at_break(values: Values) -> object:
    """Nominal strain at break, ε_b = ΔL_b / L0. Lengths in m; dimensionless. Source: ISO 527-1.

    >>> round(strain_at_break({"extension_at_break": 0.005, "gauge_length": 0.05}), 9)
    0.1
    """
    return values["extension_at_break"] / values["gauge_length"]


def stress_as_drawn(values: Values) -> object:
    """Stress on the section of the drawing, σ_0 = F / A_0.

    Parameters: ``force`` in N, ``drawn_area`` in m². Returns Pa. Limits: takes no notice of what
    the printer made of the drawing; fit for what is bought by its drawing. Source: definition.

    >>> round(stress_as_drawn({"force": 500.0, "drawn_area": 10e-6}) / 1e6, 9)
    50.0
    """
    return values["force"] / values["drawn_area"]


def stress_of_fracture(values: Values) -> object:
    """Stress on what was bonded where it parted, σ_b = F / A_b.

    Parameters: ``force`` in N, ``fracture_area`` in m². Returns Pa. Limits: voids between beads are
    excluded, so it speaks of the bond and not of the part. Source: definition.

    >>> round(stress_of_fracture({"force": 500.0, "fracture_area": 8e-6}) / 1e6, 9)
    62.5
    """
    return values["force"] / values["fracture_area"]


def mass_section(values: Values) -> object:
    """The section its mass would fill without voids, A_m = A_0 · m / (ρ · V_0), m².

    Parameters: ``drawn_area`` in m², ``mass`` in kg, ``density`` in kg/m³, ``drawn_volume`` in m³.
    Limits: the voids are taken as spread alike over the specimen; heads that are printed fuller
    than the gauge length make it read low. Source: definition of density.

    >>> round(mass_section({"drawn_area": 10e-6, "mass": 1.116e-3, "density": 1240.0, "drawn_volume": 1e-6}) * 1e6, 9)
    9.0
    """
    solid = values["density"] * values["drawn_volume"]
    return values["drawn_area"] * values["mass"] / solid


def stress_by_mass(values: Values) -> object:
    """Stress on the section by mass, σ_m = F / A_m; inputs of :func:`mass_section` and ``force``.

    >>> v = {"drawn_area": 10e-6, "mass": 1.116e-3, "density": 1240.0, "drawn_volume": 1e-6}
    >>> round(stress_by_mass({**v, "force": 450.0}) / 1e6, 9)
    50.0
    """
    return values["force"] / mass_section(values)


def remarks(values: Values) -> tuple[str, ...]:
    """Loads and extensions that cannot follow one another.

    >>> remarks({"force": 500.0, "yield_force": 600.0, "extension_at_peak": 2e-3, "extension_at_break": 1e-3})
    ('The load at yield lies above the peak load: one of the two is misread.', 'It broke before its peak: one of the two extensions is misread.')
    """
    said = []
    if values.get("yield_force", 0.0) > values["force"]:
        said.append("The load at yield lies above the peak load: one of the two is misread.")
    if values.get("extension_at_break", 1e9) < values.get("extension_at_peak", 0.0):
        said.append("It broke before its peak: one of the two extensions is misread.")
    if values.get("fracture_area", 0.0) > 1.2 * values.get("area", 1e99):
        said.append("The fracture surface is larger than the section: one of the two is misread.")
    return tuple(said)


_ISO = "ISO 527-1, definitions (recalled)"
FURTHER = (
    ResultDefinition(
        "yield_strength",
        "σ_y = F_y / A",
        "{yield_force} / {area}",
        yield_stress,
        "ISO 527-1, stress at yield; ASTM D638 annex A2 for the offset (recalled)",
        ("yield_force", "area"),
    ),
    ResultDefinition(
        "tensile_modulus",
        "E = m · L_0 / A",
        "{slope} · {gauge_length} / {area}",
        axial_modulus,
        "Hooke's law on the definitions of ISO 527-1",
        ("slope", "gauge_length", "area"),
    ),
    ResultDefinition(
        "strain_at_peak",
        "ε_p = ΔL_p / L_0",
        "{extension_at_peak} / {gauge_length}",
        strain_at_peak,
        _ISO,
        ("extension_at_peak", "gauge_length"),
        at_end=True,
    ),
    ResultDefinition(
        "strain_at_break",
        "ε_b = ΔL_b / L_0",
        "{extension_at_break} / {gauge_length}",
        strain_at_break,
        _ISO,
        ("extension_at_break", "gauge_length"),
        at_end=True,
    ),
    ResultDefinition(
        "travel_at_peak",
        "ΔL_p",
        "{extension_at_peak}",
        lambda v: v["extension_at_peak"],
        "as read",
        ("extension_at_peak",),
        at_end=True,
    ),
    ResultDefinition(
        "travel_at_break",
        "ΔL_b",
        "{extension_at_break}",
        lambda v: v["extension_at_break"],
        "as read",
        ("extension_at_break",),
        at_end=True,
    ),
    ResultDefinition(
        "energy_to_break",
        "W = ∫ F dΔL",
        "{work}",
        lambda v: v["work"],
        "the area under the curve, by trapezia",
        ("work",),
        at_end=True,
    ),
    ResultDefinition(
        "strength_as_drawn",
        "σ_0 = F / A_0",
        "{force} / {drawn_area}",
        stress_as_drawn,
        "definition: load on the section of the drawing",
        ("force", "drawn_area"),
    ),
    ResultDefinition(
        "strength_of_fracture",
        "σ_b = F / A_b",
        "{force} / {fracture_area}",
        stress_of_fracture,
        "definition: load on what was bonded where it parted",
        ("force", "fracture_area"),
    ),
    ResultDefinition(
        "strength_by_mass",
        "σ_m = F · ρ · V_0 / (A_0 · m)",
        "{force} · {density} · {drawn_volume} / ({drawn_area} · {mass})",
        stress_by_mass,
        "definition: load on the section that its mass fills without voids",
        ("force", "drawn_area", "drawn_volume", "density", "mass"),
    ),
)


def pulled(
    key: str,
    name: str,
    question: str,
    orientation: str,
    property_key: str,
    source: str,
    example: Values,
    cv: float,
) -> Method:
    """A method that pulls a bar and divides load by the measured section."""
    strength = ResultDefinition(
        property_key, "σ = F / A", "{force} / {area}", axial_stress, source, ("force", "area")
    )
    return Method(
        key,
        name,
        question,
        orientation=orientation,
        inputs=(
            *(FORCE, YIELD, SLOPE, GAUGE, AT_PEAK, AT_BREAK, ENERGY, FRACTURE, MASS),
            *(DRAWN_AREA, DRAWN_VOLUME, DENSITY),
            *SECTION_INPUTS,
        ),
        results=(strength, *FURTHER),
        outcomes=BREAK_OUTCOMES,
        places=PLACES,
        cautions=CAUTIONS,
        drawing="tension_bar",
        example=example,
        modes=MODES,
        curve=CURVE,
        check=remarks,
        cv=cv,
        minutes=4.0,
    )
