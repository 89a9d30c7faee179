"""Curves over a setting against statsmodels, NIST's Norris data and simulation."""

import unittest
from pathlib import Path

import numpy as np
import scipy

from brunt_core.errors import InputError
from brunt_core.statistics.response import respond, response_in_words

LEVELS = np.repeat([180.0, 200.0, 220.0, 240.0, 260.0], 4)


def norris():
    """Certified linear regression of NIST's StRD (shipped inside scipy)."""
    path = Path(scipy.__file__).parent / "stats/tests/data/nist_linregress/Norris.dat"
    rows = [line.split() for line in path.read_text().splitlines()[60:] if line.split()]
    return [float(r[1]) for r in rows], [float(r[0]) for r in rows]


class Curves(unittest.TestCase):
    def test_norris_is_certified(self):
        """B0 −0.262323073774029, B1 1.00211681802045."""
        x, y = norris()
        found = respond(x, y)
        self.assertEqual(found.model, "straight")
        self.assertAlmostEqual(found.coefficients[0], -0.262323073774029, places=8)
        self.assertAlmostEqual(found.coefficients[1], 1.00211681802045, places=10)

    def test_curved_against_statsmodels(self):
        import statsmodels.api as sm
        from statsmodels.stats.anova import anova_lm

        rng = np.random.default_rng(3)
        y = 50 - 0.004 * (LEVELS - 221) ** 2 + rng.normal(0, 1, len(LEVELS))
        found = respond(LEVELS, y)
        design = sm.add_constant(np.column_stack([LEVELS, LEVELS**2]))
        theirs = sm.OLS(y, design).fit()
        self.assertEqual(found.model, "curved")
        for a, b in zip(found.coefficients, theirs.params, strict=True):
            self.assertAlmostEqual(a / b, 1, places=6)
        self.assertAlmostEqual(found.residual_sd**2 / theirs.mse_resid, 1, places=6)
        levels = (LEVELS[:, None] == np.unique(LEVELS)[None, :]).astype(float)
        table = anova_lm(theirs, sm.OLS(y, levels).fit())
        self.assertAlmostEqual(found.lack_of_fit_p, table["Pr(>F)"].iloc[1], places=6)
        self.assertTrue(found.optimum.low < 221 < found.optimum.high)

    def test_a_vertex_is_covered_and_none_is_seldom_a_trend(self):
        """95 % claimed for the optimum; at most 5 % of flat settings said to have a trend."""
        rng = np.random.default_rng(8)
        covered = told = false = 0
        for _ in range(250):
            false += respond(LEVELS, rng.normal(50, 3, 20)).model != "none"
            found = respond(LEVELS, 50 - 0.004 * (LEVELS - 216) ** 2 + rng.normal(0, 2, 20))
            if found.model == "curved" and found.optimum and not found.optimum.at_edge:
                low, high = found.optimum.low or -1e9, found.optimum.high or 1e9
                told, covered = told + 1, covered + (low <= 216 <= high)
        self.assertGreater(told, 200)
        self.assertGreaterEqual(covered / told, 0.92)
        self.assertLessEqual(false / 250, 0.06)

    def test_levelling_off_and_its_knee(self):
        rng = np.random.default_rng(1)
        x = np.repeat([1.0, 2.0, 3.0, 4.0, 5.0, 6.0], 4)
        found = respond(x, 20 + 8 * np.minimum(x, 3.4) + rng.normal(0, 0.8, 24))
        self.assertEqual(found.model, "plateau")
        self.assertTrue(found.optimum.low < 3.4 < found.optimum.high)
        self.assertIn("levels off at", response_in_words(found, "Walls")[0])
        low, high = found.band(5.0)
        self.assertTrue(low < 20 + 8 * 3.4 < high)

    def test_straight_asks_to_go_on(self):
        x = np.repeat([1.0, 2.0, 3.0], 4)
        found = respond(x, 10 * x + np.tile([-0.3, 0.2, 0.4, -0.3], 3))
        self.assertEqual((found.model, found.optimum.value), ("straight", 3.0))
        self.assertIn("test beyond it", response_in_words(found, "Walls")[0])
        self.assertEqual(respond(x, 10 * x, "lower").optimum.value, 1.0)

    def test_the_odd_level_is_cv_or_real(self):
        rng = np.random.default_rng(6)
        x = np.repeat([1.0, 2.0, 3.0, 4.0, 5.0], 4)
        flat = 50 + rng.normal(0, 1, 20)
        flat[8:12] -= 9
        real = respond(x, flat)
        self.assertEqual([o.level for o in real.odd], [3.0])
        self.assertFalse(real.odd[0].alone)
        one = 50 + rng.normal(0, 1, 20)
        one[9] -= 30
        self.assertTrue(all(o.alone for o in respond(x, one).odd))

    def test_thin_input(self):
        for x, y, sentence in (
            ([1, 2], [1, 2], "three values"),
            ([1, 1, 1], [1, 2, 3], "two settings"),
            ([1, 2, float("nan")], [1, 2, 3], "numbers"),
            ([1, 2], [1, 2, 3], "one setting"),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(InputError, sentence):
                respond(x, y)
        self.assertEqual(respond([1, 2, 3], [5, 5, 5]).model, "none")
        self.assertIsNone(respond([1, 2, 3], [5, 6, 5]).lack_of_fit_p)
