"""The ratio's interval against a second method: root-finding on Fieller's inequality, and a
parametric simulation. The printed numbers were worked independently with scipy root-finding."""

import unittest

import numpy as np
from scipy import optimize, stats

from brunt_core.observations import Observation as O
from brunt_core.statistics.direction import rank_ratios
from brunt_core.statistics.ratios import ratio_of_means
from brunt_core.statistics.summaries import summarise

Z, XY = [28.0, 30, 26, 31, 25], [48.0, 50, 51, 47, 49]


class Fieller(unittest.TestCase):
    def setUp(self):
        self.top, self.bottom = (summarise([O.exact(v) for v in g]) for g in (Z, XY))
        self.ratio = ratio_of_means(self.top, self.bottom)

    def test_worked_example(self):
        for got, worked in (
            (self.ratio.value, 0.5714286),
            (self.ratio.df, 4.98911),
            (self.ratio.low, 0.5086671),
            (self.ratio.high, 0.6357670),
        ):
            self.assertAlmostEqual(got, worked, places=5)

    def test_against_root_finding(self):
        t = stats.t.ppf(0.975, self.ratio.df)
        a, b, u, v = np.mean(Z), np.mean(XY), stats.sem(Z), stats.sem(XY)

        def edge(theta):
            return (a - theta * b) ** 2 - t * t * (u * u + theta * theta * v * v)

        self.assertAlmostEqual(
            self.ratio.low, optimize.brentq(edge, 0.3, self.ratio.value), places=9
        )
        self.assertAlmostEqual(
            self.ratio.high, optimize.brentq(edge, self.ratio.value, 0.9), places=9
        )

    def test_degrees_of_freedom_against_scipy(self):
        """Those of a − θb at the ratio θ, by Welch and Satterthwaite; unequal counts, both ways round."""
        few, many = [50.0, 53.0, 47.5], [31.0, 30.2, 33.1, 29.4, 30.7, 32.2, 31.9, 30.1]
        for top, bottom in ((few, many), (many, few)):
            groups = [summarise([O.exact(v) for v in g]) for g in (top, bottom)]
            ratio = ratio_of_means(*groups)
            scaled = [ratio.value * v for v in bottom]
            wanted = stats.ttest_ind(top, scaled, equal_var=False).df
            self.assertAlmostEqual(ratio.df, wanted, places=9)

    def test_near_simulation(self):
        random = np.random.default_rng(3)
        top = np.mean(Z) + stats.sem(Z) * random.standard_t(4, 200_000)
        bottom = np.mean(XY) + stats.sem(XY) * random.standard_t(4, 200_000)
        low, high = np.quantile(top / bottom, [0.025, 0.975])
        self.assertAlmostEqual(self.ratio.low, low, delta=0.012)
        self.assertAlmostEqual(self.ratio.high, high, delta=0.012)

    def test_denominator_lost_in_its_cv_has_no_interval(self):
        wild = summarise([O.exact(v) for v in (-1.0, 0.5, 2.0)])
        ratio = ratio_of_means(self.top, wild)
        self.assertIsNone(ratio.low)

    def test_directional_ratio_uses_it(self):
        row = rank_ratios({"A": [O.exact(v) for v in Z]}, {"A": [O.exact(v) for v in XY]}).rows[0]
        self.assertAlmostEqual(row.summary.low, 0.5086671, places=6)
