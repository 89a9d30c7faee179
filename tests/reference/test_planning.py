"""Power against statsmodels and a simulation; fractional designs against the published table of
Box, Hunter & Hunter (resolutions recalled; the textbook's half fraction 2^(4-1) with I = ABCD)."""

import unittest
from itertools import combinations

import numpy as np
from pydoe import fracfact
from scipy import stats
from statsmodels.stats.power import TTestIndPower

from brunt_core.observations import Observation as O
from brunt_core.planning.designs import _GENERATORS, full_factorial, two_level_fraction
from brunt_core.planning.power import power, spares
from brunt_core.planning.prospects import Varied, answers
from brunt_core.statistics.comparisons import compare_all, different_pairs
from brunt_core.statistics.summaries import summarise


class Power(unittest.TestCase):
    def test_against_the_pooled_test_of_statsmodels_for_many(self):
        """With twenty and more of each Welch's test and the pooled one have nearly one power."""
        theirs = TTestIndPower()
        for d in (0.3, 0.6, 1.0):
            for n in (20, 50, 100):
                for alpha in (0.05, 0.01):
                    known = theirs.power(d, n, alpha)
                    if known == known:  # not a number in its far corner
                        self.assertAlmostEqual(power(d, n, alpha), known, delta=0.006)
        self.assertAlmostEqual(power(6.0, 50), 1.0, places=6)

    def test_is_what_welch_sees_of_few(self):
        """Simulation of scipy's Welch test: two, three and five of each, single and of six pairs."""
        random = np.random.default_rng(11)
        for n, d in ((2, 4.0), (2, 12.0), (3, 3.0), (5, 2.0)):
            a, b = random.normal(0, 1, (20_000, n)), random.normal(d, 1, (20_000, n))
            p = stats.ttest_ind(a, b, axis=1, equal_var=False).pvalue
            for alpha in (0.05, 1 - 0.95 ** (1 / 6)):
                with self.subTest(n=n, d=d, alpha=alpha):
                    self.assertAlmostEqual(
                        power(d, n, alpha), float(np.mean(p < alpha)), delta=0.012
                    )

    def test_spares_replace_losses(self):
        for n in (3, 5, 20):
            for loss in (0.05, 0.1, 0.25):
                self.assertGreaterEqual((n + spares(n, loss)) * (1 - loss), n - 1e-9)


class Promised(unittest.TestCase):
    def test_the_ranking_sees_what_the_plan_promised(self):
        """Four conditions, one of them stronger by what the plan says n can tell: eight times in ten."""
        random, runs = np.random.default_rng(5), 400
        for n in (3, 5):
            plan = [Varied("Material", 4)]
            found = {a.contrast.key: a for a in answers(plan, n, 0.05)}["pairs"]
            self.assertEqual(found.contrast.comparisons, 6)
            seen = 0
            for _ in range(runs):
                values = random.normal(1, 0.05, (4, n))
                values[3] += found.detectable
                sums = [summarise([O.exact(float(v)) for v in row]) for row in values]
                seen += (0, 3) in different_pairs(compare_all(sums))
            self.assertAlmostEqual(seen / runs, 0.8, delta=0.06, msg=n)

    def test_more_pairs_need_more(self):
        two, six = (answers([Varied("A", k)], 5, 0.05)[-1].detectable for k in (2, 6))
        self.assertGreater(six, two)


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

    def test_rows_are_those_of_pydoe(self):
        for (factors, runs), generators in _GENERATORS.items():
            with self.subTest(f"{factors} factors in {runs} runs"):
                ours = two_level_fraction([f"F{i}" for i in range(factors)], runs).runs
                self.assertEqual(ours, tuple(map(tuple, fracfact(generators).astype(int).tolist())))

    def test_half_fraction_of_four(self):
        """2^(4-1) with D = ABC: the runs of the textbook, AB = CD."""
        fraction = two_level_fraction(list("ABCD"), 8)
        self.assertEqual({r[0] * r[1] * r[2] * r[3] for r in fraction.runs}, {1})
        self.assertIn("A × B is confounded with C × D", fraction.aliases)

    def test_columns_are_balanced_and_orthogonal(self):
        for factors, runs in ((4, 8), (5, 16), (7, 8)):
            rows = np.array(two_level_fraction([str(i) for i in range(factors)], runs).runs)
            self.assertTrue((rows.sum(axis=0) == 0).all())
            for i, j in combinations(range(factors), 2):
                self.assertEqual(int(rows[:, i] @ rows[:, j]), 0)

    def test_full(self):
        self.assertEqual(len(set(full_factorial([3, 2, 4]))), 24)
