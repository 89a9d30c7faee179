"""Masses against meshes of shell and core; what n can tell against statsmodels and simulation."""

import unittest

import numpy as np
import statsmodels.api as sm
import trimesh
from statsmodels.stats.power import FTestAnovaPower, TTestIndPower

from brunt_core.planning.prospects import (
    Varied,
    answers,
    contrast_power,
    contrasts,
)
from brunt_core.specimens.mesh import body, oriented
from brunt_core.specimens.solid import Filling, body_and_core, expected_mass
from brunt_core.specimens.types import TYPES

WALLED = Filling(walls=2, line_width=0.45e-3, layer_height=0.2e-3, top=4, bottom=3, infill=0.25)


class Masses(unittest.TestCase):
    """Source: volumes of the meshes themselves, by the trimesh and manifold libraries."""

    def test_a_bar_against_the_mesh_of_its_core(self):
        wall, low, high = 0.9, 0.6, 0.8
        for orientation, extents in (
            ("flat", (10, 80, 4)),
            ("edge", (4, 80, 10)),
            ("upright", (10, 4, 80)),
        ):
            x, y, z = extents
            core = trimesh.creation.box((x - 2 * wall, y - 2 * wall, z - low - high)).volume
            whole = oriented(body(TYPES["bend-80"]), orientation).volume
            found, solid = expected_mass(TYPES["bend-80"], orientation, WALLED, 1240.0)
            shell = whole - core
            expected = (shell + 0.25 * core) * 1e-9 * 1240.0
            self.assertAlmostEqual(found / expected, 1.0, places=6, msg=orientation)
            self.assertAlmostEqual(solid / (whole * 1e-9 * 1240.0), 1.0, places=9)

    def test_a_round_pin_standing_against_the_cylinder_inside(self):
        pin = TYPES["cylinder-12"]
        inner = np.pi * (12.7 / 2 - 0.9) ** 2 * (25.4 - 1.4)
        core = body_and_core(pin, "flat", WALLED).core
        self.assertAlmostEqual(core / inner, 1.0, delta=0.004)

    def test_a_dumbbell_flat_against_the_extruded_offset(self):
        bar = TYPES["tension-i"]
        from shapely import Polygon

        inside = Polygon(bar.outline).buffer(-0.9, join_style="mitre")
        core = trimesh.creation.extrude_polygon(inside, 3.2 - 1.4, engine="manifold").volume
        self.assertAlmostEqual(body_and_core(bar, "flat", WALLED).core / core, 1.0, places=6)
        standing = body_and_core(bar, "upright", WALLED)
        self.assertTrue(0 < standing.core < standing.whole)

    def test_laws(self):
        for key in ("bend-80", "tension-1b", "torsion-round", "insert-block"):
            for orientation in ("flat", "edge", "upright"):
                more = [
                    expected_mass(
                        TYPES[key], orientation, Filling(n, 0.45e-3, 0.2e-3, 3, 3, 0.2), 1240.0
                    )[0]
                    for n in (0, 2, 4, 8)
                ]
                self.assertEqual(more, sorted(more), (key, orientation))
                self.assertLessEqual(more[-1], TYPES[key].mass(1240.0) * (1 + 1e-9))


class Prospects(unittest.TestCase):
    def test_two_groups_against_statsmodels(self):
        for d, n in ((1.0, 5), (2.0, 3), (0.5, 20)):
            outside = TTestIndPower().power(d, n, 0.05)
            self.assertAlmostEqual(contrast_power(d, 2.0, n, 2, 0.05), outside, places=6)

    def test_a_main_effect_against_statsmodels_two_by_two_reduced_to_a_t_test(self):
        """In 2 × 2 with n a cell, a main effect is 2n against 2n with 4(n − 1) degrees of freedom."""
        weight = next(
            c for c in contrasts([Varied("A", 2), Varied("B", 2)]) if c.key == "main A"
        ).weight
        outside = TTestIndPower().power(1.0, 8, 0.05)  # 14 degrees of freedom instead of 12
        self.assertAlmostEqual(contrast_power(1.0, weight, 4, 4, 0.05), outside, delta=0.02)

    def test_a_whole_factor_against_the_anova_power(self):
        """For two groups the F-test of the analysis of variance is the t-test (k = 2, f = d/2)."""
        outside = FTestAnovaPower().power(0.5, 12, 0.05, k_groups=2)
        self.assertAlmostEqual(contrast_power(1.0, 2.0, 6, 2, 0.05), outside, places=4)

    def test_slope_main_effect_and_interaction_are_seen_as_often_as_said(self):
        """Simulated: 80 % of 1500 plans with just the detectable effect show it at 5 %."""
        heats, n, sd = np.array([240.0, 250.0, 260.0, 270.0, 280.0]), 4, 0.05
        plan = [Varied("Drying", 2), Varied("Heat", 5, tuple(heats))]
        said = {a.contrast.key: a.detectable for a in answers(plan, n, sd)}
        rng = np.random.default_rng(11)
        dry = np.repeat([-0.5, 0.5], 5 * n)
        heat = np.tile(np.repeat((heats - 260) / 40, n), 2)
        design = np.column_stack([dry, heat, dry * heat])
        cells = np.arange(len(dry)) // n
        for key, effect, column in (
            ("main Drying", np.array([1, 0, 0.0]), 0),
            ("slope Heat", np.array([0, 1.0, 0]), 1),
            ("interaction", np.array([0, 0, 1.0]), 2),
        ):
            seen = sum(
                self.shows(
                    said[key] * design @ effect + rng.normal(0, sd, len(dry)), design, cells, column
                )
                for _ in range(1500)
            )
            self.assertAlmostEqual(seen / 1500, 0.8, delta=0.035, msg=key)

    def shows(self, y, design, cells, column) -> bool:
        """The contrast's t-test with the pooled SD within cells, worked by least squares."""
        from scipy import stats

        fit = np.linalg.lstsq(np.column_stack([np.ones(len(y)), design]), y, rcond=None)[0]
        means = np.array([y[cells == c].mean() for c in range(cells.max() + 1)])
        freedom = len(y) - len(means)
        cv = np.sqrt(((y - means[cells]) ** 2).sum() / freedom)
        centred = design[:, column] - design[:, column].mean()
        error = cv / np.sqrt((centred**2).sum())
        return abs(fit[column + 1]) / error > stats.t.ppf(0.975, freedom)

    def test_a_slope_by_regression_of_statsmodels(self):
        """The variance of the fitted rise over the range is weight/n · σ²."""
        heats = (225.0, 235.0, 245.0, 255.0)
        weight = contrasts([Varied("Heat", 4, heats)])[0].weight
        x = np.repeat(heats, 6)
        fit = sm.OLS(x * 0 + 1.0, sm.add_constant(x)).fit()
        per = fit.normalized_cov_params[1, 1] * 30.0**2
        self.assertAlmostEqual(weight / 6, per, places=10)

    def test_unequal_and_small(self):
        rows = answers([Varied("A", 3)], 2, 0.1, cells=2)
        self.assertEqual([a.contrast.key for a in rows], ["pairs"])
        self.assertGreater(answers([Varied("A", 2)], 2, 0.05)[-1].detectable, 5 * 0.05)
        self.assertIsNone(answers([Varied("A", 10)], 2, 0.05)[-1].detectable)
