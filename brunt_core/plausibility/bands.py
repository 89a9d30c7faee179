"""Wide bands of what printed parts of a polymer family reach.

Recalled from general knowledge of the trade, not from a source, and wide on purpose: they serve to
notice a slipped unit and nothing else. Near-solid parts at 23 °C.
"""

from dataclasses import dataclass

Band = tuple[float, float]


@dataclass(frozen=True)
class Family:
    """A polymer family, all in SI.

    ``tensile`` and ``across`` are strengths along and across the layers, ``modulus`` in bending,
    ``impact`` from notched to un-notched with an open top where it may not break, ``sag`` the
    temperature under the lighter standard load. ``None`` is an honest "no band". ``printed`` is
    false for what is only a reference piece: wood, metal.
    """

    key: str
    name: str
    tensile: Band | None
    across: Band | None
    density: Band | None
    modulus: Band | None
    impact: Band | None
    sag: Band | None
    printed: bool = True


_MPA, _GPA, _KJ = 1e6, 1e9, 1e3
_OPEN = 400.0


def _scaled(pair: Band | None, factor: float, offset: float = 0.0) -> Band | None:
    if pair is None:
        return None
    return pair[0] * factor + offset, pair[1] * factor + offset


# key, name, tensile MPa, across MPa, density g/cm³, bending modulus GPa, impact kJ/m², sag °C
_Maybe = Band | None
_ROWS: tuple[tuple[str, str, _Maybe, _Maybe, _Maybe, _Maybe, _Maybe, _Maybe], ...] = (
    ("pla", "PLA", (30, 70), (10, 55), (1.20, 1.30), (2.2, 4.0), (1.5, 30), (48, 130)),
    ("petg", "PETG", (28, 58), (10, 45), (1.23, 1.30), (1.4, 2.3), (2, _OPEN), (60, 78)),
    ("abs", "ABS", (22, 48), (8, 35), (1.02, 1.10), (1.5, 2.6), (6, 100), (80, 102)),
    ("asa", "ASA", (25, 52), (8, 38), (1.04, 1.11), (1.5, 2.6), (5, 100), (82, 104)),
    ("hips", "HIPS", (14, 32), (5, 24), (1.02, 1.08), (1.3, 2.4), (4, _OPEN), (75, 98)),
    ("pc", "PC", (45, 75), (18, 60), (1.18, 1.23), (1.8, 2.6), (5, _OPEN), (120, 145)),
    ("pa6", "PA6", (30, 90), (15, 65), (1.10, 1.17), (0.5, 3.2), (3, _OPEN), (60, 190)),
    ("pa12", "PA12", (30, 58), (20, 50), (0.93, 1.05), (0.8, 2.0), (3, _OPEN), (80, 180)),
    ("pp", "PP", (15, 38), (8, 30), (0.87, 0.95), (0.6, 1.9), (2, _OPEN), (55, 115)),
    ("tpu", "TPU", (18, 60), (8, 40), (1.10, 1.26), (0.02, 0.3), (2, _OPEN), None),
    ("pvb", "PVB", (20, 60), (8, 40), (1.05, 1.15), (1.0, 2.6), (1, 50), (45, 68)),
    ("pla-cf", "PLA, carbon-filled", (30, 70), (10, 40), (1.2, 1.4), (3, 9), (2, 25), (50, 150)),
    ("pa-cf", "PA, fibre-filled", (45, 150), (15, 65), (1.05, 1.3), (2.5, 11), (4, 70), (110, 215)),
    (
        "petg-cf",
        "PETG, carbon-filled",
        (30, 70),
        (10, 45),
        (1.22, 1.38),
        (2.5, 6.5),
        (2, 45),
        (62, 85),
    ),
    ("resin", "Resin, standard", (25, 70), (20, 70), (1.08, 1.22), (1.2, 3.2), (1, 25), (40, 75)),
    (
        "resin-tough",
        "Resin, tough",
        (20, 60),
        (16, 60),
        (1.05, 1.2),
        (0.5, 2.3),
        (2, _OPEN),
        (38, 70),
    ),
    (
        "resin-abs",
        "Resin, ABS-like",
        (25, 60),
        (20, 60),
        (1.05, 1.2),
        (1, 2.6),
        (1.5, 50),
        (42, 75),
    ),
    ("pbt", "PBT", (30, 65), (12, 50), (1.25, 1.38), (1.5, 3.0), (2, 60), (60, 190)),
    ("pps", "PPS", (35, 100), (10, 55), (1.28, 1.42), (2.0, 4.5), (1.5, 30), (95, 240)),
    ("tpe", "TPE", (3, 40), (2, 30), (0.85, 1.25), (0.005, 0.3), (2, _OPEN), None),
    ("pha", "PLA/PHA-type biopolymer", (18, 60), (8, 48), (1.18, 1.28), (0.8, 3.6), (2, 60), None),
    ("starch", "Starch-type biopolymer", (8, 45), (4, 35), (1.15, 1.40), None, None, None),
    ("resin-flex", "Resin, flexible", (1, 25), (1, 25), (1.02, 1.2), (0.001, 0.5), None, None),
    (
        "resin-heat",
        "Resin, heat-resistant",
        (25, 90),
        (20, 90),
        (1.1, 1.3),
        (1.8, 4.5),
        (0.5, 15),
        None,
    ),
    ("resin-filled", "Resin, ceramic-filled", None, None, (1.3, 2.0), (3.0, 12.0), (0.5, 12), None),
    ("other", "Other polymer", (2, 200), (1, 200), (0.3, 3.0), (0.01, 30), (0.5, _OPEN), None),
    ("wood", "Wood, ply, board", (15, 200), None, (0.1, 1.3), (1.0, 25.0), None, None),
    ("metal", "Metal", None, None, (1.5, 12.0), None, None, None),
)

_YARDSTICKS = ("wood", "metal")
FAMILIES: dict[str, Family] = {
    key: Family(
        key,
        name,
        _scaled(tensile, _MPA),
        across=_scaled(across, _MPA),
        density=_scaled(density, 1e3),
        modulus=_scaled(modulus, _GPA),
        impact=_scaled(impact, _KJ),
        sag=_scaled(sag, 1.0, 273.15),
        printed=key not in _YARDSTICKS,
    )
    for key, name, tensile, across, density, modulus, impact, sag in _ROWS
}

# What a property's band is made from: a field of the family, and what its ends are multiplied by.
# The multiples of tensile strength and bending modulus are general strength of materials (a shear
# strength of 0.5 to 0.6 of the tensile one for ductile solids) widened; common practice, no source.
_MADE_FROM: dict[str, tuple[str, float, float]] = {
    "tensile_strength": ("tensile", 1, 1),
    "layer_adhesion_strength": ("across", 1, 1),
    "density": ("density", 1, 1),
    "flexural_strength": ("tensile", 0.8, 2.2),
    "bending_stress": ("tensile", 0.8, 2.2),
    "torsional_strength": ("tensile", 0.35, 1.3),
    "shear_strength": ("tensile", 0.35, 1.1),
    "compressive_strength": ("tensile", 0.7, 2.5),
    "flexural_modulus": ("modulus", 1, 1),
    "tensile_modulus": ("modulus", 0.8, 1.3),
    "compressive_modulus": ("modulus", 0.5, 1.3),
    "shear_modulus": ("modulus", 0.25, 0.5),
    "impact_strength": ("impact", 1, 1),
    "sag_temperature": ("sag", 1, 1),
    "yield_strength": ("tensile", 0.4, 1),
    "flexural_strength_corrected": ("tensile", 0.8, 2.2),
    "torsional_stress_at_90": ("tensile", 0.2, 1.3),
    "compressive_stress_at_strain": ("tensile", 0.3, 3),
    "collapse_temperature": ("sag", 0.97, 1.2),
}

# What parts of a workshop's size reach whatever they are printed from, in SI: it catches a unit mix-up of
# a thousand, not of a unit. Common practice, no source.
_ANY: dict[str, Band] = {
    "strain_at_peak": (0.002, 10),
    "strain_at_break": (0.002, 12),
    "flexural_strain": (0.001, 0.5),
    "compressive_strain": (0.002, 0.95),
    "travel_at_peak": (2e-5, 0.5),
    "travel_at_break": (2e-5, 0.8),
    "deflection_under_load": (5e-6, 0.2),
    "energy_to_break": (1e-3, 500),
    "absorbed_energy": (5e-3, 50),
    "impact_energy_per_thickness": (3, 3000),
    "failure_energy": (5e-3, 300),
    "median_failure_height": (5e-3, 5),
    "peak_torque": (0.01, 200),
    "break_moment": (0.005, 200),
    "break_angle": (0.01, 70),
    "peak_load": (1, 50e3),
    "yield_load": (1, 50e3),
    "pull_out_load": (5, 20e3),
    "thread_shear_stress": (0.5e6, 150e6),
    "load_per_gram": (50, 5e6),
    "percent_of_reference": (0.005, 20),
    "bending_stiffness": (20, 5e6),
    "ladder_creep": (0.001, 2),
    "clamp_retained": (0.02, 1.05),
    "creep_deflection": (1e-6, 0.1),
    "height_loss": (1e-6, 5e-3),
    "outer_fibre_stress": (1e3, 150e6),
    "own_weight_stress": (100, 5e6),
    "own_weight_droop": (1e-7, 0.2),
    "print_scale": (0.9, 1.1),
    "swing_lost": (0.01, 1.0),
    "creep_rate": (1e-13, 1e-4),
    "creep_exponent": (0.005, 1.5),
    "loosening_rate": (1e-14, 1e-6),
    "loosening_trend": (1e-4, 5),
    "strength_as_drawn": (1e5, 500e6),
    "strength_of_fracture": (1e5, 500e6),
    "strength_by_mass": (1e5, 500e6),
    "section_stress": (1e4, 500e6),
    "extrusion_mass": (2e-5, 0.5),
    "extrusion_cv": (1e-4, 1),
    "extrusion_rate": (1e-6, 6e-3),
    "least_print_time": (30, 2e7),
    "flow_correction": (0.5, 1.5),
    "length_change": (-0.1, 0.1),
    "width_change": (-0.2, 0.2),
    "thickness_change": (-0.2, 0.2),
    "mass_change": (-0.3, 0.5),
}

# What a tester measures beyond the methods may be of any size.
_NONE = ("own_quantity",)


def has_band(property_key: str) -> bool:
    """Whether it is written down what is usual of a property, or that nothing is.

    >>> has_band("tensile_strength"), has_band("own_quantity"), has_band("smell")
    (True, True, False)
    """
    return property_key in _MADE_FROM or property_key in _ANY or property_key in _NONE


def band(family: str, property_key: str, infill: float = 1.0) -> Band | None:
    """The plausible band of a property for a family in SI, or ``None`` where none is kept.

    ``infill`` is the share of a sparse filling: what rests on the section measured outside then
    reaches down by infill^1.5 (open cells; Gibson & Ashby, Cellular Solids, from memory, their
    exponents 1.5 for strength and 2 for stiffness), no further than at 5 %.

    >>> band("pla", "tensile_strength")
    (30000000.0, 70000000.0)
    >>> [round(x / 1e9, 2) for x in band("petg", "flexural_modulus")]
    [1.4, 2.3]
    >>> [round(x / 1e6, 1) for x in band("pla", "tensile_strength", infill=0.25)]
    [3.8, 70.0]
    """
    found, made = FAMILIES.get(family), _MADE_FROM.get(property_key)
    if property_key in _ANY:
        return _ANY[property_key]
    if found is None or made is None:
        return None
    field, low, high = made
    pair = getattr(found, field)
    if pair is None:
        return None
    sparse = max(min(infill, 1.0), 0.05) ** 1.5 if field != "sag" else 1.0
    return pair[0] * low * sparse, pair[1] * high
