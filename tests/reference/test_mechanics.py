"""Sections, tension and the beam against handbook numbers.

ISO 527's nominal bar (10 × 4 mm) at 2400 N is 60 MPa by the definition of stress. Beam: FL³/(48EI)
= 4.9152 mm for F 120 N, L 64 mm, E 2500 MPa, b 10, h 4 (checked with sympy's beam module).
Uncertainty: JCGM 100:2008 5.1.6, relative variances of a product add."""

import unittest
from math import hypot, pi, sqrt

import shapely

from brunt_core.computation import compute
from brunt_core.mechanics.beams import beam_curve, simply_supported_deflection
from brunt_core.methods.registry import method, methods
from brunt_core.sections import round_area, tube_area
from brunt_core.specimens.parting import parted
from brunt_core.specimens.shapes import fillet_length
from brunt_core.specimens.types import TYPES


class Stress(unittest.TestCase):
    def test_definition(self):
        for key in ("tension", "layer-adhesion"):
            done = compute(method(key), {"force": "2.4 kN", "width": "10 mm", "thickness": "4 mm"})
            self.assertAlmostEqual(done.results[0].observation.lower / 60e6, 1, places=12)

    def test_uncertainty_is_root_sum_of_squares(self):
        done = compute(
            method("tension"),
            {"force": "2400 ± 24 N", "width": "10 ± 0.05 mm", "thickness": "4 ± 0.04 mm"},
        )
        self.assertAlmostEqual(
            done.results[0].uncertainty / 60e6, hypot(24 / 2400, 0.05 / 10, 0.04 / 4), places=12
        )

    def test_repeats_shrink_the_cv(self):
        """GUM 4.2.3: s/√n for n readings, here beside the calipers' own ±0.02 mm and 0.01 mm step."""
        done = compute(
            method("tension"),
            {"force": "100 N", "width": "10.0; 10.1; 10.2 mm", "thickness": "4 mm"},
        )
        own = sqrt(0.01**2 / 12 + 0.02**2 / 3)
        self.assertAlmostEqual(
            done.readings["width"].uncertainty * 1e3, hypot(own, 0.1 / sqrt(3)), places=9
        )

    def test_every_method_has_a_place_to_read_more(self):
        self.assertTrue({"tension", "layer-adhesion"} <= set(methods()))


class Sections(unittest.TestCase):
    def test_against_polygons(self):
        """Areas against shapely's polygon area of a fine circle."""
        disc = shapely.Point(0, 0).buffer(3, quad_segs=2000)
        ring = shapely.Point(0, 0).buffer(5, quad_segs=2000) - disc
        self.assertAlmostEqual(round_area(6) / disc.area, 1, places=6)
        self.assertAlmostEqual(tube_area(10, 6) / ring.area, 1, places=6)
        self.assertAlmostEqual(round_area(2) / pi, 1, places=12)


class Beam(unittest.TestCase):
    def test_handbook_middle(self):
        self.assertAlmostEqual(
            simply_supported_deflection(0.032, 0.032, 0.064, 120, 2.5e9 * 0.01 * 0.004**3 / 12),
            4.9152e-3,
            places=9,
        )

    def test_reciprocity(self):
        """Maxwell–Betti: the deflection at x from a load at a equals that at a from a load at x."""
        self.assertAlmostEqual(
            simply_supported_deflection(0.2, 0.7), simply_supported_deflection(0.7, 0.2), places=15
        )

    def test_curve_ends_on_its_supports(self):
        curve = beam_curve(0.6, 10)
        self.assertEqual((curve[0][1], curve[-1][1]), (0.0, 0.0))


class Bars(unittest.TestCase):
    def test_published_lengths(self):
        """ISO 527-2: l2 of type 1B 108 mm, 1A 109.3 mm (recalled from the standard): the distance
        between the broad parallel ends equals parallel length and two fillets. 1BA is excluded: its
        radius is only "30 or more", its l2 58 ± 2 goes with a larger one."""
        for key, l2 in (("tension-1b", 108), ("tension-1a", 109.3)):
            s = TYPES[key].sizes
            length = fillet_length(s["radius"], 0, (s["wide"] - s["narrow"]) / 2)
            self.assertAlmostEqual(s["parallel"] + 2 * length, l2, delta=1.6, msg=key)

    def test_outline_and_halves_agree(self):
        for bar in TYPES.values():
            whole = shapely.Polygon(bar.outline)
            self.assertTrue(whole.is_valid, bar.key)
            halves = [shapely.Polygon(p) for p in parted(bar.outline, 0.5)]
            self.assertAlmostEqual(sum(h.area for h in halves) / whole.area, 1, places=9)
