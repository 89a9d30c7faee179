"""Power against statsmodels and a simulation; fractional designs against the published table of
Box, Hunter & Hunter (resolutions recalled; the textbook's half fraction 2^(4-1) with I = ABCD)."""

import unittest
from itertools import combinations

import numpy as np
from scipy import stats
from statsmodels.stats.power import TTestIndPower

from brunt_core.planning.designs import full_factorial, two_level_fraction
from brunt_core.planning.power import detectable_effect, needed, power, prospect, spares


class Power(unittest.TestCase):
    def test_against_statsmodels(self):
        """Its answer is not a number in the far corner of d = 3.5; those are passed over."""
        theirs, tried = TTestIndPower(), 0
        for d in (0.5, 1.0, 2.0, 3.5):
            for n in (2, 3, 5, 10, 20):
                for alpha in (0.05, 0.05 / 6, 0.01):
                    known = theirs.power(d, n, alpha)
                    if known == known:
                        tried += 1
                        self.assertAlmostEqual(power(d, n, alpha), known, places=4)
        self.assertGreater(tried, 45)
        self.assertAlmostEqual(power(6.0, 50), 1.0, places=9)
        for n in (3, 5, 10):
            self.assertAlmostEqual(
                detectable_effect(n), theirs.solve_power(nobs1=n, alpha=0.05, power=0.8), places=4
            )
        for d, wanted in ((0.5, 0.9), (1.0, 0.8), (1.5, 0.8), (2.0, 0.8)):
            self.assertEqual(
                needed(d, wanted_power=wanted),
                int(np.ceil(theirs.solve_power(effect_size=d, alpha=0.05, power=wanted))),
            )

    def test_against_simulation(self):
        random = np.random.default_rng(11)
        a, b = random.normal(0, 1, (20_000, 5)), random.normal(2, 1, (20_000, 5))
        hits = float(np.mean(stats.ttest_ind(a, b, axis=1).pvalue < 0.05))
        self.assertAlmostEqual(power(2.0, 5), hits, delta=0.01)

    def test_more_pairs_need_more_and_spares_replace_losses(self):
        self.assertGreater(prospect(0.05, 5, 6).detectable, prospect(0.05, 5, 2).detectable)
        for n in (3, 5, 20):
            for loss in (0.05, 0.1, 0.25):
                self.assertGreaterEqual((n + spares(n, loss)) * (1 - loss), n - 1e-9)


class Designs(unittest.TestCase):
    def test_published_resolutions(self):
        for factors, runs, resolution in (
            (4, 8, 4),
            (5, 8, 3),
            (5, 16, 5),
            (6, 8, 3),
            (6, 16, 4),
            (7, 8, 3),
            (7, 16, 4),
        ):
            self.assertEqual(
                two_level_fraction([f"F{i}" for i in range(factors)], runs).resolution,
                resolution,
                (factors, runs),
            )

    def test_half_fraction_of_four(self):
        """2^(4-1) with D = ABC: the runs of the textbook, AB = CD."""
        fraction = two_level_fraction(list("ABCD"), 8)
        self.assertEqual({r[0] * r[1] * r[2] * r[3] for r in fraction.runs}, {1})
        self.assertIn("A × B cannot be told from C × D", fraction.aliases)

    def test_columns_are_balanced_and_orthogonal(self):
        for factors, runs in ((4, 8), (5, 16), (7, 8)):
            rows = np.array(two_level_fraction([str(i) for i in range(factors)], runs).runs)
            self.assertTrue((rows.sum(axis=0) == 0).all())
            for i, j in combinations(range(factors), 2):
                self.assertEqual(int(rows[:, i] @ rows[:, j]), 0)

    def test_full(self):
        self.assertEqual(len(set(full_factorial([3, 2, 4]))), 24)
