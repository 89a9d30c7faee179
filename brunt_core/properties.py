"""The registry of properties: what is compared, in which unit, and which way is better."""

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Property:
    """Something a test yields. ``better`` is ``"higher"`` or ``"lower"``.

    ``ordinal`` marks places on a scale of words: they have an order and no distances.
    """

    key: str
    name: str
    symbol: str
    dimension: str
    unit: str
    better: str = "higher"
    ordinal: bool = False


_STRENGTHS = (
    Property("tensile_strength", "Tensile strength", "σ", "stress", "MPa"),
    Property("layer_adhesion_strength", "Layer adhesion strength", "σ", "stress", "MPa"),
    Property("yield_strength", "Yield strength", "σ_y", "stress", "MPa"),
    Property("strength_as_drawn", "Strength on the section as drawn", "σ_0", "stress", "MPa"),
    Property("strength_of_fracture", "Strength on the fracture surface", "σ_b", "stress", "MPa"),
    Property("strength_by_mass", "Strength on the section by mass", "σ_m", "stress", "MPa"),
    Property("flexural_strength", "Flexural strength", "σ_f", "stress", "MPa"),
    Property(
        "flexural_strength_corrected", "Flexural strength, large deflection", "σ_f", "stress", "MPa"
    ),
    Property("bending_stress", "Bending stress", "σ_b", "stress", "MPa"),
    Property("torsional_strength", "Torsional strength", "τ", "stress", "MPa"),
    Property("torsional_stress_at_90", "Torsional stress at 90°", "τ_90", "stress", "MPa"),
    Property("shear_strength", "Shear strength", "τ", "stress", "MPa"),
    Property("compressive_strength", "Compressive strength", "σ_c", "stress", "MPa"),
    Property(
        "compressive_stress_at_strain", "Compressive stress at strain", "σ_x", "stress", "MPa"
    ),
    Property("section_stress", "Stress at the section", "σ_s", "stress", "MPa"),
    Property("thread_shear_stress", "Shear stress on the thread", "τ", "stress", "MPa"),
)
_STIFFNESSES = (
    Property("tensile_modulus", "Tensile modulus", "E", "stress", "MPa"),
    Property("flexural_modulus", "Flexural modulus", "E_f", "stress", "MPa"),
    Property("compressive_modulus", "Compressive modulus", "E_c", "stress", "MPa"),
    Property("shear_modulus", "Shear modulus", "G", "stress", "MPa"),
    Property("bending_stiffness", "Load per deflection", "m", "stiffness", "N/mm"),
)
_STRAINS = (
    Property("strain_at_peak", "Strain at peak", "ε_p", "ratio", "%"),
    Property("strain_at_break", "Strain at break", "ε_b", "ratio", "%"),
    Property("flexural_strain", "Outer-fibre strain", "ε_f", "ratio", "%"),
    Property("compressive_strain", "Compressive strain", "ε_c", "ratio", "%"),
    Property("travel_at_peak", "Travel to peak", "ΔL_p", "length", "mm"),
    Property("travel_at_break", "Travel to break", "ΔL_b", "length", "mm"),
    Property("deflection_under_load", "Deflection under the load", "δ", "length", "mm", "lower"),
    Property("break_angle", "Angle at break", "φ_b", "angle", "°"),
)
_LOADS = (
    Property("peak_load", "Peak load", "F", "force", "N"),
    Property("yield_load", "Load at yield", "F_y", "force", "N"),
    Property("percent_of_reference", "Load against the reference", "q", "ratio", "%"),
    Property("load_per_gram", "Load per gram", "F/m", "specific_load", "N/g"),
    Property("peak_torque", "Peak torque", "T", "torque", "N·m"),
    Property("break_moment", "Break moment", "M", "torque", "N·m"),
    Property("pull_out_load", "Pull-out load", "F", "force", "N"),
)
_ENERGIES = (
    Property("energy_to_break", "Energy to break", "W", "energy", "J"),
    Property("absorbed_energy", "Absorbed energy", "W", "energy", "J"),
    Property("impact_strength", "Impact strength", "a", "energy_per_area", "kJ/m²"),
    Property(
        "impact_energy_per_thickness",
        "Impact energy per thickness",
        "a_t",
        "energy_per_length",
        "J/m",
    ),
    Property("swing_lost", "Swing lost", "q", "ratio", "%"),
    Property("failure_energy", "Median failure energy", "W_50", "energy", "J"),
    Property("median_failure_height", "Median failure height", "h_50", "length", "mm"),
)
_TIMES = (
    Property("creep_deflection", "Deflection since loading", "Δ", "length", "mm", "lower"),
    Property("creep_rate", "Creep rate", "v", "speed", "mm/day", "lower"),
    Property("creep_exponent", "Time exponent", "n", "number", "", "lower"),
    Property("ladder_creep", "Creep between readings", "κ", "ratio", "%", "lower"),
    Property("height_loss", "Loss of head height", "Δh", "length", "mm", "lower"),
    Property("loosening_rate", "Rate of loss", "v", "speed", "mm/day", "lower"),
    Property("loosening_trend", "Last rate over first rate", "r", "ratio", "%", "lower"),
    Property("clamp_retained", "Torque retained", "q", "ratio", "%"),
)
_HEAT = (
    Property("sag_temperature", "Temperature at first sag", "T_s", "temperature", "°C"),
    Property("collapse_temperature", "Temperature at collapse", "T_c", "temperature", "°C"),
    Property("outer_fibre_stress", "Outer-fibre stress", "σ", "stress", "MPa"),
    Property("own_weight_droop", "Droop by own weight", "δ", "length", "mm", "lower"),
    Property("own_weight_stress", "Stress by own weight", "σ_w", "stress", "MPa"),
)
_CHANGES = (
    Property("length_change", "Change of length", "ΔL/L", "ratio", "%"),
    Property("width_change", "Change of width", "Δb/b", "ratio", "%"),
    Property("thickness_change", "Change of thickness", "Δh/h", "ratio", "%"),
    Property("print_scale", "Scale factor for next print", "s", "number", ""),
    Property("mass_change", "Change of mass", "Δm/m", "ratio", "%"),
)
_FEEDING = (
    Property("extrusion_mass", "Mass of an extrusion", "m", "mass", "g"),
    Property("extrusion_cv", "CV of extrusions", "v", "ratio", "%", "lower"),
    Property("extrusion_rate", "Rate of extrusion", "q", "mass_rate", "kg/h"),
    Property("least_print_time", "Minimum print time", "t_min", "time", "h", "lower"),
    Property("flow_correction", "Flow to set", "k", "ratio", "%"),
)
_OWN = Property("own_quantity", "Custom quantity", "x", "number", "")

PROPERTIES: dict[str, Property] = {
    p.key: p
    for p in (
        *_STRENGTHS,
        *_STIFFNESSES,
        *_STRAINS,
        *_LOADS,
        *_ENERGIES,
        *_TIMES,
        *_HEAT,
        *_CHANGES,
        *_FEEDING,
        _OWN,
    )
}


def own_property(words: Mapping[str, str]) -> Property:
    """The tester's own property: ``name``, ``unit`` and ``better`` (higher or lower) by key.

    With a ``scale`` of words it is a place on it.

    >>> own_property({"name": "Hardness", "unit": "Shore D", "better": "higher"}).unit
    'Shore D'
    """
    if words.get("scale"):
        name = words.get("name") or "Judgement"
        return Property("own_quantity", name, "g", "number", "", ordinal=True)
    return Property(
        "own_quantity",
        words.get("name") or _OWN.name,
        "x",
        "number",
        words.get("unit", ""),
        words.get("better") or "higher",
    )
