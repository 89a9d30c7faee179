"""Control charts against the published example, constants, and known run lengths."""

import unittest
from math import pi, sqrt

import numpy as np
from scipy import integrate, stats

from brunt_core.errors import InputError
from brunt_core.statistics.control import D2, D4, control_chart, pettitt

# NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.2, batch flow rates.
FLOW = [49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1]


class Published(unittest.TestCase):
    def test_the_handbooks_example(self):
        """Mean 50.81, mean moving range 1.8778, limits 55.8041 and 45.8159 (NIST 6.3.2.2)."""
        chart = control_chart(FLOW)
        self.assertAlmostEqual(chart.centre, 50.81, places=9)
        self.assertAlmostEqual(chart.range_mean, 1.8778, places=4)
        self.assertAlmostEqual(chart.upper, 55.8041, places=4)
        self.assertAlmostEqual(chart.lower, 45.8159, places=4)
        self.assertEqual(chart.signals, ())

    def test_constants(self):
        """d2 of two is 2/√π, its sd √(2 − 4/π): D4 = 1 + 3 d3/d2 (the tables give 1.128 and 3.267)."""
        d2 = 2 / sqrt(pi)
        self.assertAlmostEqual(D2, d2, places=3)
        self.assertAlmostEqual(D4, 1 + 3 * sqrt(2 - d2**2) / d2, places=3)
        by_integral, _ = integrate.quad(lambda w: w * 2 * stats.norm.pdf(w / sqrt(2)) / sqrt(2), 0, 20)  # fmt: skip
        self.assertAlmostEqual(D2, by_integral, places=3)

    def test_rules_speak_at_the_right_point(self):
        base = [-1.0, 1.0] * 12  # moving ranges of 2: sigma 2 / 1.128 = 1.773
        for more, rule, at in (
            ([5.4], "limit", 24),
            ([3.7, 0.0, 3.8], "two", 26),
            ([1.9, 2.0, 0.0, 1.9, 2.1], "four", 28),
            ([0.1, 0.2, 0.1, 0.2, 0.1, 0.2, 0.1], "eight", 30),
            ([-1.0, -0.9, -0.5, -0.1, 0.3, 0.5], "six", 29),
        ):
            with self.subTest(rule):
                chart = control_chart(base + more, base=24)
                told = [s for s in chart.signals if s.rule == rule]
                self.assertEqual([s.at for s in told][:1], [at], chart.signals)
                self.assertEqual({s.side for s in told}, {1})
                mirrored = control_chart([-v for v in base + more], base=24)
                self.assertEqual({s.side for s in mirrored.signals if s.rule == rule}, {-1})

    def test_pettitt(self):
        """U_t by its definition (1979, eq. 2.1): Σ over i ≤ t < j of sign(x_j − x_i)."""
        rng = np.random.default_rng(2)
        for n in (2, 5, 13, 40):
            x = rng.normal(0, 1, n).round(1)
            u = [abs(sum(np.sign(x[j] - x[i]) for i in range(t) for j in range(t, n))) for t in range(1, n)]  # fmt: skip
            turn, p = pettitt(list(x))
            self.assertAlmostEqual(
                p, min(1, 2 * np.exp(-6 * max(u) ** 2 / (n**3 + n**2))), places=12
            )
            if max(u):
                self.assertEqual(u[turn - 1], max(u))

    def test_a_step_within_the_base_does_not_make_the_limits(self):
        rng = np.random.default_rng(3)
        values = [*rng.normal(50, 0.4, 10), *rng.normal(44, 0.4, 10)]
        chart = control_chart(values)
        self.assertEqual((chart.base, chart.shift.start), (10, 10))
        self.assertAlmostEqual(chart.shift.by, -6, delta=0.6)

    def test_one_point_out_is_no_shift(self):
        base = [-1.0, 1.0] * 12
        self.assertIsNone(control_chart([*base, 6.0, 0.2, -0.4], base=24).shift)
        self.assertIsNone(control_chart([*base, 6.0], base=24).shift)
        shift = control_chart([*base, 6.0, 5.0, 6.2], base=24).shift
        self.assertEqual((shift.start, shift.told_at), (24, 24))
        self.assertAlmostEqual(shift.by, (6.0 + 5.0 + 6.2) / 3)

    def test_refused_and_flat(self):
        for bad in ([], [1.0, 2.0, 3.0], [1.0, 2.0, 3.0, float("nan")], [1.0, 2.0, 3.0, float("inf")]):  # fmt: skip
            with self.assertRaises(InputError):
                control_chart(bad)
        with self.assertRaises(InputError):
            control_chart(FLOW, base=3)
        flat = control_chart([5.0] * 10)
        self.assertEqual((flat.sigma, flat.signals, flat.shift), (0.0, (), None))
        self.assertTrue(control_chart([5.0] * 10 + [5.1], base=10).signals)

    def test_unit_does_not_matter(self):
        rng = np.random.default_rng(4)
        values = list(rng.normal(50, 2, 40)) + list(rng.normal(44, 2, 12))
        one, other = control_chart(values, 30), control_chart([v * 145.0 - 7 for v in values], 30)
        self.assertEqual(one.signals, other.signals)
        self.assertEqual(one.shift.start, other.shift.start)


class Simulated(unittest.TestCase):
    """Run lengths with known limits: 1/0.0027 = 370.4 of the limit alone; 91.75 of the four rules
    together (Champ & Woodall, Technometrics 29, 1987, table 1; from memory)."""

    def lengths(self, rules, shift=0.0, runs=160):
        rng = np.random.default_rng(20)
        found = []
        for _ in range(runs):
            # Limits from very many points are known ones: the base has mean 0 and moving range 1.128.
            base = [0.0 + D2 / 2, 0.0 - D2 / 2] * 30
            run = list(rng.normal(shift, 1, 600))
            chart = control_chart(base + run, base=len(base))
            told = [s.at - len(base) + 1 for s in chart.signals if s.rule in rules and s.at >= len(base)]  # fmt: skip
            found.append(min(told, default=600))
        return float(np.mean(found))

    def test_false_alarms(self):
        limit = self.lengths({"limit"})
        self.assertTrue(235 < limit < 360, limit)  # cut off at 600: 370 (1 − e^(−600/370)) = 297
        four = self.lengths({"limit", "two", "four", "eight"})
        self.assertTrue(70 < four < 115, four)

    def test_a_shift_of_one_and_a_half_sigma_is_seen_soon(self):
        """Champ & Woodall: 5.01 points for 1.5 σ ... the limit alone needs 15 (from memory)."""
        soon = self.lengths({"limit", "two", "four", "eight"}, shift=1.5)
        self.assertTrue(4 < soon < 6.5, soon)

    def test_without_a_step_the_base_stays_whole(self):
        """At most 5 % of steady series are cut, as the level claims."""
        rng = np.random.default_rng(5)
        cut = np.mean([control_chart(list(rng.normal(0, 1, n))).base < n for n in (8, 15, 25) for _ in range(700)])  # fmt: skip
        self.assertLess(cut, 0.05)

    def test_where_it_began_is_found(self):
        rng = np.random.default_rng(8)
        off = []
        for _ in range(200):
            values = [*rng.normal(0, 1, 30), *rng.normal(3, 1, 10)]
            shift = control_chart(values, base=30).shift
            if shift and shift.told_at >= 30:
                off.append(abs(shift.start - 30))
        self.assertGreater(len(off), 120)
        self.assertLess(float(np.mean([o <= 1 for o in off])), 1.01)
        self.assertGreater(float(np.mean([o <= 1 for o in off])), 0.8)


if __name__ == "__main__":
    unittest.main()
