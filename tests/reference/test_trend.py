"""The trend over age against scipy's regression and statsmodels' outlier test; coverage simulated."""

import unittest

import numpy as np
import statsmodels.api as sm
from scipy import stats

from brunt_core.errors import InputError
from brunt_core.statistics.trend import WEEK, Aged, trend, trend_in_words


def aged(seed, slope=-0.5, n=4, ages=(0, 4, 8, 12), sd=0.8):
    rng = np.random.default_rng(seed)
    return [
        Aged(a * WEEK, 50 + slope * a + rng.normal(0, sd), f"{a}-{i}")
        for a in ages
        for i in range(n)
    ]


class Lines(unittest.TestCase):
    def test_slope_and_interval_are_linregress(self):
        points = aged(2)
        found = trend(points)
        x, y = [p.age / WEEK for p in points], [p.value for p in points]
        theirs = stats.linregress(x, y)
        reach = stats.t.ppf(0.975, len(x) - 2) * theirs.stderr
        self.assertAlmostEqual(found.start, theirs.intercept, places=9)
        self.assertAlmostEqual(found.weekly, theirs.slope / theirs.intercept, places=12)
        self.assertAlmostEqual(found.low, (theirs.slope - reach) / theirs.intercept, places=12)
        self.assertAlmostEqual(found.high, (theirs.slope + reach) / theirs.intercept, places=12)

    def test_the_odd_one_is_statsmodels_outlier(self):
        for seed in range(12):
            points = aged(seed)
            if seed % 2:
                points[9] = Aged(points[9].age, points[9].value - 12, points[9].code)
            x = sm.add_constant([p.age / WEEK for p in points])
            told = sm.OLS([p.value for p in points], x).fit().outlier_test()[:, 2]
            found = trend(points)
            wanted = points[int(np.argmin(told))].code if told.min() < 0.05 else ""
            self.assertEqual(found.odd, wanted, seed)

    def test_an_early_break_among_sound_fellows_is_a_flaw(self):
        points = aged(4)
        points[13] = Aged(points[13].age, 20.0, points[13].code)
        found = trend(points)
        self.assertTrue(found.alone)
        self.assertIn("a flaw of one print, not ageing", trend_in_words(found))

    def test_the_interval_holds(self):
        """95 % claimed for the slope; 400 simulated series."""
        held = sum(
            (t := trend(aged(s))).low * t.start <= -0.5 <= t.high * t.start for s in range(400)
        )
        self.assertTrue(0.925 <= held / 400 <= 0.975, held)

    def test_nothing_to_tell(self):
        self.assertIsNone(trend(aged(1, n=1, ages=(0, 4))))
        self.assertIsNone(trend(aged(1, ages=(4,))))
        flat = trend(aged(3, slope=0.0))
        self.assertFalse(flat.told)
        self.assertIn("No significant change with age", trend_in_words(flat))
        with self.assertRaises(InputError):
            trend([Aged(-1.0, 1, "a")])
