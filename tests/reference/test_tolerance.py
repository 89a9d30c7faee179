"""Tolerance bounds against the printed factors, scipy's noncentral t, and by simulation.

Factors: one-sided normal tolerance table (ISO 16269-6 style), values recomputed with scipy and R;
NIST/SEMATECH e-Handbook 7.2.6.3 for n = 43 (printed 1.874, from memory).
"""

import unittest

import numpy as np
from scipy import stats

from brunt_core.errors import InputError
from brunt_core.observations import Observation as O
from brunt_core.statistics.tolerance import (
    lower_bound,
    needed_without_a_distribution,
    normal_factor,
    order_without_a_distribution,
)

TABLE = {
    3: (6.15528, 10.55273),
    4: (4.16193, 7.04236),
    5: (3.40663, 5.74108),
    6: (3.00626, 5.06199),
    10: (2.35464, 3.98112),
    20: (1.92599, 3.29516),
    30: (1.77733, 3.06390),
}


class Factors(unittest.TestCase):
    def test_the_table(self):
        for n, (b, a) in TABLE.items():
            self.assertAlmostEqual(normal_factor(n, 0.90, 0.95), b, places=4)
            self.assertAlmostEqual(normal_factor(n, 0.99, 0.95), a, places=4)
        self.assertAlmostEqual(normal_factor(43, 0.90, 0.99), 1.87395, places=4)

    def test_mean_fifty(self):
        """Mean 50, s 2: n = 5 gives 43.187 and 38.518."""
        x = np.array([-1.2, -0.4, 0.1, 0.5, 1.0])
        x = 50 + 2 * (x - x.mean()) / x.std(ddof=1)
        data = [O.exact(float(v)) for v in x]
        self.assertAlmostEqual(lower_bound(data, 0.90).lower, 43.187, places=3)
        self.assertAlmostEqual(lower_bound(data, 0.99).lower, 38.518, places=3)

    def test_without_a_distribution(self):
        """29 and 299 are the usual numbers for B and A; orders by the binomial."""
        self.assertEqual(needed_without_a_distribution(0.90, 0.95), 29)
        self.assertEqual(needed_without_a_distribution(0.99, 0.95), 299)
        self.assertIsNone(order_without_a_distribution(28, 0.90, 0.95))
        for n in (29, 46, 61, 100):
            r = order_without_a_distribution(n, 0.90, 0.95)
            self.assertGreaterEqual(1 - stats.binom.cdf(r - 1, n, 0.1), 0.95)
            self.assertLess(1 - stats.binom.cdf(r, n, 0.1), 0.95)

    def test_the_general_bound_is_the_normal_one(self):
        """The likelihood's bound of a complete normal sample is mean − k·s."""
        from brunt_core.statistics.distributions import fit_family

        rng = np.random.default_rng(3)
        for n in (3, 6, 15):
            x = rng.normal(50, 2, n)
            k = (x.mean() - fit_family([O.exact(v) for v in x]).bound(0.1, 0.05)) / x.std(ddof=1)
            self.assertAlmostEqual(k / normal_factor(n, 0.9, 0.95), 1, delta=0.01)

    def test_a_share_of_bounds_hold(self):
        """95 % claimed: Weibull and log-normal, complete and two of six held."""
        rng = np.random.default_rng(5)
        for family in ("weibull", "lognormal"):
            for held in (False, True):
                kept = 0
                for _ in range(60):
                    x = (
                        50 * rng.weibull(12, 6)
                        if family == "weibull"
                        else np.exp(rng.normal(4, 0.1, 6))
                    )
                    true = (
                        50 * (-np.log(0.9)) ** (1 / 12)
                        if family == "weibull"
                        else np.exp(4 + 0.1 * stats.norm.ppf(0.1))
                    )
                    cut = sorted(x)[3] if held else np.inf
                    data = [O.exact(v) if v <= cut else O.at_least(cut) for v in x]
                    kept += lower_bound(data, 0.90, 0.95, family).lower <= true
                self.assertGreaterEqual(kept / 60, 0.88, (family, held))

    def test_held_count_at_their_load_without_a_distribution(self):
        data = [O.exact(50.0 + i) for i in range(20)] + [O.at_least(45.0)] + [O.exact(80.0)] * 10
        found = lower_bound(data)
        self.assertEqual((found.free, found.order, found.k), (45.0, 1, None))
        self.assertEqual(found.n_bounded, 1)
        self.assertIsNone(lower_bound([*data, O.at_most(60.0)]).free)

    def test_what_cannot_be(self):
        one = [O.exact(1.0)]
        for call, sentence in (
            (lambda: lower_bound(one), "two readings"),
            (lambda: normal_factor(1, 0.9, 0.95), "two readings"),
            (lambda: lower_bound(one * 2, 1.0), "coverage lies"),
            (lambda: lower_bound(one * 2, 0.9, 0.0), "confidence lies"),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(InputError, sentence):
                call()
