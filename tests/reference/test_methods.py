"""Every result of every method against somebody else's number; the source stands in the last column.

"sympy" and "finite elements" are values of sympy 1.14's beam module and of sectionproperties 3.10,
worked apart from this project. "definition" is a unit or a quotient that cannot be otherwise.
"arithmetic" is the published formula, recalled, worked by hand.
"""

import unittest

from brunt_command.core import computation_record
from brunt_core.computation import compute
from brunt_core.methods.registry import method, methods

BAR = {"width": "10 mm", "thickness": "4 mm"}
BEAM = {**BAR, "span": "64 mm"}
HAMMER = {"hammer_mass": "1 kg", "hammer_arm": "300 mm", "start_angle": "140°"}
SWING = {**HAMMER, "free_end_angle": "138°", "end_angle": "110°", **BAR}
LATE = "1 h: 6.400000 mm; 10 h: 6.711312 mm; 100 h: 7.264911 mm; 1000 h: 8.249365 mm"
CLAMP = {"torque": "2 N·m", "heights": "0 s: 8.42 mm; 1 d: 8.36 mm; 2 d: 8.33 mm"}
ALIKE = {"length_before": "9 mm", "length_after": "9 mm"}
SAG = {"temperature_at_sag": "50 °C"}
EXTRUDED = {"masses": "5.02; 5.10; 4.95; 5.05; 4.98", "time": "30 s", "part_mass": "180 g"}
CUBE = {"width": "10 mm", "thickness": "10 mm", "force": "1 kN", "height": "10 mm"}

# method, inputs, outcome, property, value in the property's unit, source
CASES = (
    ("tension", {**BAR, "force": "2.4 kN"}, "", "tensile_strength", 60, "definition: MPa = N/mm²"),
    ("tension", {**BAR, "force": "2.4 kN", "yield_force": "1.8 kN"}, "", "yield_strength", 45, "definition"),
    (
        "tension",
        {**BAR, "force": "2 kN", "slope": "2560 N/mm", "gauge_length": "50 mm"},
        "",
        "tensile_modulus",
        3200,
        "ISO 527: 1.65 to 8.05 MPa between strains 0.0005 and 0.0025 (recalled); 256 N on 0.1 mm here",
    ),
    (
        "tension",
        {**BAR, "force": "2 kN", "extension_at_peak": "1 mm", "gauge_length": "50 mm"},
        "",
        "strain_at_peak",
        2,
        "definition",
    ),
    (
        "tension",
        {**BAR, "force": "2 kN", "extension_at_break": "0.1 in", "gauge_length": "2 in"},
        "",
        "strain_at_break",
        5,
        "definition",
    ),
    ("tension", {**BAR, "force": "2 kN", "extension_at_peak": "0.1 in"}, "", "travel_at_peak", 2.54, "25.4 mm an inch"),
    ("tension", {**BAR, "force": "2 kN", "extension_at_break": "0.2 in"}, "", "travel_at_break", 5.08, "25.4 mm an inch"),
    ("deflection-ladder", {**BEAM, "ladder": "5 N @ 1 s: 0.2; 10 N @ 1 s: 0.41; 10 N @ 60 s: 0.43"}, "", "deflection_under_load", 0.43, "as read"),
    ("tension", {**BAR, "force": "2 kN", "work": "1 ft·lbf"}, "", "energy_to_break", 1.3558179483314004, "1 ft·lbf, exact; the area itself in test_curves"),
    (
        "tension",
        {**BAR, "force": "2 kN", "drawn_area": "0.0625 in^2"},
        "",
        "strength_as_drawn",
        49.6000992,
        "2 kN on a square of a quarter inch, 25.4 mm an inch",
    ),
    (
        "tension",
        {**BAR, "force": "2 kN", "fracture_area": "32 mm^2"},
        "",
        "strength_of_fracture",
        62.5,
        "definition: MPa = N/mm²",
    ),
    (
        "tension",
        {**BAR, "force": "2 kN", "drawn_area": "40 mm^2", "drawn_volume": "6 cm^3", "density": "1.25 g/cm^3", "mass": "6 g"},
        "",
        "strength_by_mass",
        62.5,
        "a bar of 0.8 of its solid mass has 0.8 of its section: 2 kN on 32 mm²",
    ),
    ("layer-adhesion", {**BAR, "force": "244.7319 kgf"}, "", "layer_adhesion_strength", 60, "9.80665 N a kgf"),
    ("flexure", {**BEAM, "force": "120 N"}, "", "flexural_strength", 72, "sympy; finite elements 72.0000"),
    (
        "flexure",
        {**BEAM, "force": "120 N", "deflection": "12 mm"},
        "",
        "flexural_strength_corrected",
        83.8125,
        "ASTM D790 12.3 (recalled), arithmetic; its leading term against the elastica below",
    ),
    (
        "flexure",
        {**BEAM, "force": "120 N", "deflection": "12 mm", "correction": "D790"},
        "",
        "flexural_strength",
        83.8125,
        "as above",
    ),
    ("flexure", {**BEAM, "force": "120 N", "slope": "95 N/mm"}, "", "flexural_modulus", 9728, "L³m/(4bd³), also by the package uncertainties"),
    ("flexure", {**BEAM, "force": "120 N", "deflection": "6 mm"}, "", "flexural_strain", 3.515625, "ISO 178's conventional deflection (recalled)"),
    (
        "deflection-ladder",
        {**BEAM, "ladder": "60 N @ 1 s: 2.45760 mm; 120 N @ 1 s: 4.91520 mm"},
        "",
        "flexural_modulus",
        2500,
        "sympy: 120 N bend this bar 4.91520 mm at E = 2500 MPa",
    ),
    (
        "deflection-ladder",
        {**BAR, "span": "50 mm", "arrangement": "cantilever", "ladder": "5 N @ 5 s: 1.5625 mm"},
        "",
        "flexural_modulus",
        2500,
        "sympy: tip deflection PL³/(3EI) = 1.56250 mm",
    ),
    (
        "deflection-ladder",
        {**BEAM, "ladder": "60 N @ 1 s: 2.45760 mm; 120 N @ 1 s: 4.91520 mm"},
        "",
        "bending_stiffness",
        24.4140625,
        "48EI/L³, arithmetic; the regression against scipy below",
    ),
    (
        "deflection-ladder",
        {**BEAM, "ladder": "60 N @ 1 s: 2.00 mm; 60 N @ 60 s: 2.10 mm"},
        "",
        "ladder_creep",
        5,
        "definition",
    ),
    ("cantilever", {**BAR, "force": "5 N", "reach": "50 mm", "deflection": "0.1 in"}, "held", "deflection_under_load", 2.54, "25.4 mm an inch"),
    ("cantilever", {**BAR, "force": "5 N", "reach": "50 mm"}, "broke", "bending_stress", 9.375, "sympy: root moment 250 N·mm over 26.667 mm³"),
    ("cantilever", {**BAR, "break_force": "5 N", "reach": "50 mm"}, "broke", "bending_stress", 9.375, "as above"),
    ("cantilever", {**BAR, "force": "5 N", "reach": "50 mm", "deflection": "1.5625 mm"}, "", "flexural_modulus", 2500, "sympy: tip deflection 1.56250 mm"),
    ("cantilever", {**BAR, "break_force": "5 N", "reach": "50 mm"}, "broke", "break_moment", 0.25, "sympy: 250 N·mm"),
    ("impact", SWING, "", "absorbed_energy", 1.186892, "potential energy less the arc's share of the loss, arithmetic; a simulated swing below"),
    ("impact", {**SWING, "loss_rule": "whole"}, "", "absorbed_energy", 1.180107, "arithmetic"),
    ("impact", {**SWING, "loss_rule": "none"}, "", "absorbed_energy", 1.247477, "arithmetic"),
    ("impact", SWING, "", "impact_strength", 29.67231, "per 10 × 4 mm, arithmetic"),
    ("impact", {**SWING, "width": "8 mm"}, "", "impact_strength", 37.09039, "per 8 × 4 mm at notch A, arithmetic"),
    ("impact", SWING, "", "impact_energy_per_thickness", 296.7231, "kJ/m² × width, arithmetic"),
    ("impact", {**SWING, "hammer_energy": "5.195694 J", "hammer_mass": "", "hammer_arm": ""}, "", "absorbed_energy", 1.186892, "by its stored energy"),
    ("extrusion-consistency", EXTRUDED, "", "extrusion_mass", 5.02, "arithmetic: 25.10 g by five"),
    ("extrusion-consistency", EXTRUDED, "", "extrusion_cv", 1.1700538, "statistics.stdev of Python, 0.0587367 g, over 5.02 g"),
    ("extrusion-consistency", EXTRUDED, "", "extrusion_rate", 0.6024, "definition: 5.02 g in 30 s"),
    ("extrusion-consistency", EXTRUDED, "", "least_print_time", 0.2988048, "arithmetic: 180 g at 0.6024 kg/h"),
    ("wall-flow", {"set_width": "0.45 mm", "measured_width": "0.42 mm"}, "", "flow_correction", 107.142857, "arithmetic: 45/42"),
    ("wall-flow", {"set_width": "0.45 mm", "measured_width": "0.5 mm", "flow": "95 %"}, "", "flow_correction", 85.5, "arithmetic: 95 · 0.9"),
    ("impact-relative", {"dial_with": "30", "dial_free": "120"}, "", "swing_lost", 75, "definition"),
    ("torsion", {"torque": "2 N·m", "diameter": "8 mm"}, "", "torsional_strength", 19.89437, "finite elements 19.901 on a polygon mesh; 16T/(πd³)"),
    ("torsion", {"torque": "2 N·m", "outer_diameter": "10 mm", "inner_diameter": "6 mm"}, "", "torsional_strength", 11.70257, "finite elements 11.706"),
    ("torsion", {"torque": "1 N·m", "width": "4 mm", "thickness": "2 mm"}, "", "torsional_strength", 1 / (0.2458783 * 4 * 4 * 1e-3), "α by mpmath, 30 digits"),
    ("torsion", {"torque": "17.70149 in·lbf", "diameter": "8 mm"}, "", "peak_torque", 2.0, "0.1129848290276167 N·m an in·lbf"),
    ("torsion", {"torque": "3 N·m", "torque_at_90": "2 N·m", "diameter": "8 mm"}, "", "torsional_stress_at_90", 19.89437, "as at peak"),
    (
        "torsion",
        {"torque": "3 N·m", "elastic_torque": "2 N·m", "elastic_angle": "31.66287°", "length": "100 mm", "diameter": "8 mm"},
        "",
        "shear_modulus",
        900,
        "finite elements 401.99 mm⁴ for J; θ = TL/(JG)",
    ),
    ("torsion", {"torque": "3 N·m", "angle_at_break": "3.141592653589793 rad", "diameter": "8 mm"}, "", "break_angle", 180, "definition of the radian"),
    ("double-shear", {"force": "1000 N", "diameter": "6 mm"}, "", "shear_strength", 17.68388, "F/(2A), arithmetic"),
    ("compression", {"force": "10 kN", "width": "12.7 mm", "thickness": "12.7 mm"}, "", "compressive_strength", 62.00012, "ASTM D695 prism, arithmetic"),
    ("compression", {"force": "10 kN", "diameter": "12.7 mm"}, "", "compressive_strength", 78.94101, "ASTM D695 cylinder, arithmetic"),
    ("compression", {"force": "12 kN", "force_at_strain": "10 kN", "diameter": "12.7 mm"}, "", "compressive_stress_at_strain", 78.94101, "as above"),
    ("compression", {**BAR, "force": "1 kN", "shortening": "1 mm", "height": "10 mm"}, "", "compressive_strain", 10, "definition"),
    ("compression", {**CUBE, "slope": "20 kN/mm"}, "", "compressive_modulus", 2000, "Hooke's law, arithmetic"),
    ("creep", {"readings": LATE}, "", "creep_deflection", 1.849365, "10 MPa ÷ creep modulus 1562.50 at 1 h and 1212.21 MPa at 1000 h"),
    ("creep", {"readings": LATE}, "", "creep_rate", (8.249365 - 7.264911) / 37.5, "the difference over 900 h"),
    ("creep", {"readings": LATE}, "", "creep_exponent", 0.25, "made from 0.006 + 0.0004 t^0.25; a general fitter below"),
    ("creep", {**BEAM, "load": "120 N", "readings": "1 h: 1; 2 h: 2"}, "", "outer_fibre_stress", 72, "sympy"),
    ("clamp-retention", CLAMP, "", "height_loss", 0.09, "definition"),
    ("clamp-retention", {**CLAMP, "retorques": "1 h: 1.7 N·m; 1 d: 1.5 N·m"}, "", "clamp_retained", 75, "definition"),
    ("clamp-retention", CLAMP, "", "loosening_rate", 0.03, "definition"),
    ("clamp-retention", CLAMP, "", "loosening_trend", 50, "definition"),
    ("heat-sag", {"temperature_at_sag": "131 °F"}, "", "sag_temperature", 55, "5/9 (F − 32)"),
    (
        "heat-sag",
        {**BEAM, "sags": "50 °C: 0.1; 60 °C: 0.241333; 70 °C: 0.441333"},
        "",
        "sag_temperature",
        65,
        "0.341333 mm at 0.2 % strain (ISO 75-1, recalled), half-way between the last two",
    ),
    ("heat-sag", {**SAG, "temperature_at_collapse": "333.15 K"}, "", "collapse_temperature", 60, "273.15 K, exact"),
    ("heat-sag", {**SAG, "droop": "0.5 in"}, "", "own_weight_droop", 12.7, "25.4 mm an inch"),
    ("heat-sag", {**BEAM, **SAG, "load": "0.75 N"}, "", "outer_fibre_stress", 0.45, "ISO 75 load B by F = 2σbh²/(3L) (recalled)"),
    ("heat-sag", {**BEAM, **SAG, "load": "305.915 gf"}, "", "outer_fibre_stress", 1.80, "ISO 75 load A as hung mass"),
    ("heat-sag", {**BAR, **SAG, "density": "1.24 g/cm³", "reach": "100 mm"}, "", "own_weight_stress", 0.0912018, "root moment by quadrature below"),
    ("pull-out", {"force": "180 lbf"}, "", "pull_out_load", 800.67987898689, "4.4482216152605 N an lbf"),
    ("pull-out", {"force": "900 N", "yield_force": "400 N"}, "", "yield_load", 400, "definition"),
    ("pull-out", {"force": "4000 N", "hole_diameter": "25.4 mm", "engagement": "3.2 mm"}, "", "thread_shear_stress", 15.66486, "F/(πDt), arithmetic"),
    ("drop", {"drops": "400 mm: fail; 350 mm: pass; 400 mm: fail"}, "", "median_failure_height", 375, "between 350 and 400"),
    ("drop", {"mass": "1 kg", "drops": "400 mm: fail; 400 mm: fail"}, "", "failure_energy", 3.92266, "mgh"),
    ("hook", {"force": "6 kgf"}, "", "peak_load", 58.8399, "9.80665 N a kgf"),
    ("hook", {"force": "6 kgf", "yield_force": "3 kgf"}, "", "yield_load", 29.41995, "as above"),
    ("part-break", {"force": "300 N", "reference_force": "400 N"}, "", "percent_of_reference", 75, "definition"),
    ("part-break", {"force": "300 N", "mass": "20 g"}, "", "load_per_gram", 15, "definition"),
    ("part-break", {"force": "100 N", "stress_per_load": "1.875 MPa/N"}, "", "section_stress", 187.5, "6·F·a/(b·h²), 50, 10, 4 mm: handbook"),
    ("judgement", {"grade": "bends", "name": "By hand", "scale": "snaps; bends; springs back"}, "", "own_quantity", 2, "the second of three, counted"),
    ("measure", {"value": "9.2", "before": "10", "name": "Wear", "compared": "change"}, "", "own_quantity", -0.8, "by hand"),
    ("measure", {"value": "9.2", "before": "10", "name": "Wear", "compared": "percent"}, "", "own_quantity", -8, "by hand"),
    ("measure", {"value": "78", "name": "Hardness"}, "", "own_quantity", 78, "as read"),
    ("dimensional", {"length_before": "100 mm", "length_after": "99.6 mm"}, "", "print_scale", 1.004016064, "100/99.6"),
    ("dimensional", {"length_before": "100 mm", "length_after": "99.6 mm"}, "", "length_change", -0.4, "definition"),
    ("dimensional", {**ALIKE, "width_before": "20 mm", "width_after": "19.98 mm"}, "", "width_change", -0.1, "definition"),
    ("dimensional", {**ALIKE, "thickness_before": "4 mm", "thickness_after": "4.2 mm"}, "", "thickness_change", 5, "definition"),
    ("mass", {"mass_before": "4 g", "mass_after": "4.08 g"}, "", "mass_change", 2, "ISO 62's quotient (recalled), arithmetic"),
)  # fmt: skip

_SHARED = {"layer-adhesion": "tension", "hook": "part-break", "part-break": "hook"}


class Values(unittest.TestCase):
    def test_each_result_is_what_others_say(self):
        for key, inputs, outcome, prop, value, source in CASES:
            with self.subTest(f"{key} {prop}: {source}"):
                done = computation_record(compute(method(key), inputs, outcome))
                found = next(r for r in done["results"] if r["property"] == prop)
                self.assertAlmostEqual(found["value"] / value, 1, delta=2e-5)

    def test_no_result_goes_unchecked(self):
        checked = {(key, prop) for key, _, _, prop, _, _ in CASES}
        for key, one in methods().items():
            for result in one.results:
                known = {(key, result.property), (_SHARED.get(key, key), result.property)}
                self.assertTrue(known & checked, f"{key}: {result.property}")
