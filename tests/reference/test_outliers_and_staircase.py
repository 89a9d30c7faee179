"""Grubbs' test against tabulated values, up-and-down and probit against a general likelihood."""

import unittest

import numpy as np
import statsmodels.api as sm
from scipy import optimize, stats
from statsmodels.discrete.discrete_model import Probit

from brunt_core.errors import InputError
from brunt_core.statistics.outliers import beside_the_rest, grubbs, grubbs_critical, odd_one
from brunt_core.statistics.staircase import bruceton, median_level, probit, staircase_step

# Readings of the Tietjen–Moore example of the NIST/SEMATECH e-Handbook, recalled.
ISOTOPE = [199.31, 199.53, 200.19, 200.82, 201.92, 201.95, 202.18, 245.57]


class Grubbs(unittest.TestCase):
    def test_critical_values(self):
        """Two-sided, from scipy's t quantile worked apart; n = 5 also by simulation, 1.71503."""
        five = {
            3: 1.1543,
            4: 1.4813,
            5: 1.7150,
            6: 1.8871,
            7: 2.0200,
            8: 2.1266,
            10: 2.2900,
            30: 2.9085,
        }
        one = {
            3: 1.1547,
            4: 1.4962,
            5: 1.7637,
            6: 1.9728,
            7: 2.1391,
            8: 2.2744,
            10: 2.4821,
            30: 3.2361,
        }
        for alpha, table in ((0.05, five), (0.01, one)):
            for n, g in table.items():
                self.assertAlmostEqual(grubbs_critical(n, alpha), g, delta=6e-5)

    def test_the_handbook_example(self):
        """G = 2.46876461, mean 206.43375, s 15.8525646, Bonferroni p 3.0026e-7 two-sided."""
        flag = grubbs(ISOTOPE)
        self.assertTrue(flag.outlier)
        self.assertEqual(flag.value, 245.57)
        self.assertAlmostEqual(flag.g, 2.46876461, places=7)
        self.assertAlmostEqual(flag.mean, 206.43375, places=8)
        self.assertAlmostEqual(flag.sd, 15.8525646, places=6)
        self.assertAlmostEqual(flag.p / 3.0026e-7, 1, delta=1e-3)
        left = grubbs(ISOTOPE[:-1])
        self.assertFalse(left.outlier)
        self.assertAlmostEqual(left.g, 1.27488, places=4)

    def test_three_can_hardly_be_flagged(self):
        """The largest G of three is (n−1)/√n = 1.1547, a hair above its critical value."""
        self.assertAlmostEqual(grubbs([1.0, 1.0, 9.0]).g, 2 / 3**0.5, places=9)
        self.assertIsNone(grubbs([1.0, 1.0]))
        self.assertIsNone(grubbs([2.0, 2.0, 2.0]))
        with self.assertRaises(InputError):
            grubbs_critical(2)


def likelihood_median(trials) -> tuple[float, float]:
    """Median and spread by maximum likelihood with scipy, apart from the project's fitters."""
    levels = np.array([h for h, _ in trials])
    failed = np.array([f for _, f in trials])

    def loss(p):
        z = (levels - p[0]) / np.exp(p[1])
        return -np.where(failed, stats.norm.logcdf(z), stats.norm.logcdf(-z)).sum()

    found = optimize.minimize(
        loss,
        [levels.mean(), np.log(levels.std())],
        method="Nelder-Mead",
        options={"xatol": 1e-10, "fatol": 1e-12, "maxiter": 5000},
    )
    return float(found.x[0]), float(np.exp(found.x[1]))


def staircase(median: float, spread: float, step: float, n: int, seed: int):
    """Simulated up-and-down trials."""
    random, level, trials = np.random.default_rng(seed), median, []
    for _ in range(n):
        failed = bool(random.normal(median, spread) < level)
        trials.append((level, failed))
        level += -step if failed else step
    return trials


class Drops(unittest.TestCase):
    def test_bruceton_by_hand(self):
        """m = h0 + d(A/N − ½) for failures as the rarer: at 450 ×3 and 500 ×2, d = 50, N = 5,
        A = 2, B = 2: m = 450 + 50(0.4 − 0.5) = 445; s = 1.62·50·(0.3 + 0.029), the bracket
        (5·2 − 4)/25 = 0.24 being below its least, 0.3. Dixon & Mood 1948 (recalled), arithmetic."""
        marks = "PFPPFPPFPFPFP"
        level, trials = 0.40, []
        for mark in marks:
            trials.append((level, mark == "F"))
            level += -0.05 if mark == "F" else 0.05
        self.assertAlmostEqual(staircase_step(trials), 0.05)
        failures = sorted(round(h, 2) for h, f in trials if f)
        found = bruceton(trials)
        n, low = len(failures), failures[0]
        a = sum(round((h - low) / 0.05) for h in failures)
        b = sum(round((h - low) / 0.05) ** 2 for h in failures)
        self.assertAlmostEqual(found.observation.anchor, low + 0.05 * (a / n - 0.5), places=9)
        bracket = max((n * b - a * a) / n**2, 0.3)
        self.assertAlmostEqual(found.spread, 1.62 * 0.05 * (bracket + 0.029), places=9)

    def test_bruceton_finds_what_likelihood_finds(self):
        for seed in range(6):
            trials = staircase(0.45, 0.04, 0.04, 60, seed)
            found, (median, _) = bruceton(trials), likelihood_median(trials)
            self.assertAlmostEqual(found.observation.anchor, median, delta=0.3 * 0.04)
            self.assertLess(abs(found.observation.anchor - 0.45), 4 * found.error)

    def test_probit_is_maximum_likelihood(self):
        levels = np.repeat([0.3, 0.35, 0.4, 0.45, 0.5, 0.55], 6)
        random = np.random.default_rng(8)
        trials = [(float(h), bool(random.normal(0.43, 0.05) < h)) for h in levels]
        found, (median, spread) = probit(trials), likelihood_median(trials)
        self.assertAlmostEqual(found.observation.anchor, median, places=6)
        self.assertAlmostEqual(found.spread, spread, places=5)
        self.assertEqual(median_level(trials).how, "probit")

    def test_probit_and_its_error_are_those_of_statsmodels(self):
        for seed in range(20):
            trials = staircase(0.45, 0.05, 0.04, 14, seed)
            levels, failed = np.array(trials).T
            if levels[failed == 0].max() <= levels[failed == 1].min():
                self.assertEqual(probit(trials).how, "no trend with height")
                continue
            fit = Probit(failed, sm.add_constant(levels)).fit(disp=0)
            a, b = fit.params
            slope = np.array([-1 / b, a / b**2])
            found = probit(trials)
            with self.subTest(seed=seed):
                if b <= 0:
                    self.assertEqual(found.how, "no trend with height")
                    continue
                self.assertAlmostEqual(found.observation.anchor, -a / b, places=8)
                self.assertAlmostEqual(found.error, np.sqrt(slope @ fit.cov_params() @ slope), 6)

    def test_few_give_bounds(self):
        self.assertEqual(median_level([(0.4, False), (0.5, False)]).observation.kind, "at_least")
        self.assertEqual(median_level([(0.4, True)]).observation.kind, "at_most")
        self.assertEqual(median_level([(0.4, False), (0.5, True)]).observation.kind, "between")
        with self.assertRaises(InputError):
            median_level([])


class OfThree(unittest.TestCase):
    """One of three that Grubbs' test cannot see."""

    def test_four_times_the_others_is_flagged_and_grubbs_is_blind_to_it(self):
        """(n−1)/√n bounds G at 1.1547 for three, and 1.1543 is critical: NIST e-Handbook 1.3.5.17.1."""
        values = [50.0, 55.0, 210.0]
        self.assertFalse(grubbs(values).outlier)
        flag = odd_one(values, cv=0.08)
        self.assertEqual((flag.index, flag.ratio), (2, 4.0))
        self.assertTrue(odd_one([12.0, 50.0, 52.0], cv=0.08).index == 0)

    def test_statistic_by_hand(self):
        """z = |210 − 52.5| / (0.08 · 52.5 · √1.5); critical value: normal quantile 1 − 0.05/6, scipy."""
        flag = beside_the_rest([50.0, 55.0, 210.0], 0.08)
        self.assertAlmostEqual(flag.g, 157.5 / (0.08 * 52.5 * 1.5**0.5), places=9)
        self.assertAlmostEqual(flag.critical, stats.norm.ppf(1 - 0.05 / 6), places=9)

    def test_usual_cv_is_hardly_ever_flagged(self):
        """Simulation: groups of three of the usual variation, and of twice as much."""
        random = np.random.default_rng(4)
        for factor, most in ((1, 0.01), (2, 0.08)):
            draws = random.normal(50, 50 * 0.08 * factor, (2000, 3))
            flagged = sum(bool(odd_one([float(v) for v in d], cv=0.08)) for d in draws)
            self.assertLessEqual(flagged / 2000, 0.05 + most, factor)

    def test_more_than_four_are_left_to_grubbs(self):
        self.assertIsNone(odd_one([50.0, 49.0, 51.0, 50.5, 80.0, 20.0], cv=0.08))
