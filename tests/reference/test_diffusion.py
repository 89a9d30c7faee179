"""Water in a plate and heat in a pack, against tables, finite differences and a general fitter."""

import unittest
from math import exp, log, pi

import numpy as np
from scipy import integrate, optimize

from brunt_core.errors import InputError
from brunt_core.treatments.diffusion import (
    DAY,
    Weighing,
    fit_uptake,
    met_at,
    rate_of_uptake,
    settled,
    settles_at,
    uptake,
)
from brunt_core.treatments.logs import read_log
from brunt_core.treatments.moisture import moisture
from brunt_core.treatments.soak import CoreReading, approach

HOUR = 3600.0

# F and M/M∞ to eight figures: the cosine series and the ierfc series agree, mpmath, 30 digits.
TABLE = (
    (0.001, 0.07136497),
    (0.01, 0.22567583),
    (0.04, 0.45123685),
    (0.06, 0.55121954),
    (0.10, 0.69788191),
    (0.20, 0.88740287),
    (0.30, 0.95803417),
    (0.50, 0.99417048),
)
# F at which a share is reached, mpmath.
REACHED = ((0.5, 0.04918268), (0.6, 0.07159983), (0.9, 0.21202135), (0.99, 0.44532200))


def series(per_second, hours, start=0.012, share=0.004, noise=0.0, seed=1):
    """Weighings of a plate that takes up ``share``, in kg."""
    rng = np.random.default_rng(seed)
    return [
        Weighing(
            h * HOUR,
            start * (1 + share * float(uptake(per_second * h * HOUR))) + rng.normal(0, noise),
        )
        for h in hours
    ]


class Plate(unittest.TestCase):
    def test_tabulated_values(self):
        for f, share in TABLE:
            self.assertAlmostEqual(float(uptake(f)), share, places=7)
        for share, f in REACHED:
            self.assertAlmostEqual(float(uptake(f)), share, places=6)

    def test_short_form(self):
        """4√(F/π) (Crank 4.20, leading term): within 0.03 % up to F = 0.04."""
        for f in (1e-6, 1e-4, 0.01, 0.04):
            self.assertAlmostEqual(float(uptake(f)) / (4 * (f / pi) ** 0.5), 1, delta=3e-4)

    def test_the_two_forms_meet(self):
        below, above = float(uptake(0.02 - 1e-9)), float(uptake(0.02))
        self.assertAlmostEqual(below, above, places=7)

    def test_finite_differences(self):
        """∂c/∂t = ∂²c/∂x² on a plate of one, edges at one, method of lines by scipy."""
        n = 400
        step = 1 / n

        def slope(t, c):
            out = np.empty_like(c)
            out[1:-1] = (c[2:] - 2 * c[1:-1] + c[:-2]) / step**2
            out[0] = out[-1] = 0.0
            return out

        start = np.zeros(n + 1)
        start[0] = start[-1] = 1.0
        found = integrate.solve_ivp(
            slope, (0, 0.3), start, "BDF", t_eval=[0.04, 0.1, 0.3], rtol=1e-7, atol=1e-9
        )
        for f, profile in zip(found.t, found.y.T, strict=True):
            self.assertAlmostEqual(float(uptake(f)), np.trapezoid(profile, dx=step), delta=2e-5)

    def test_rate_is_the_slope(self):
        for f in (0.005, 0.03, 0.2):
            rise = (float(uptake(f + 1e-6)) - float(uptake(f - 1e-6))) / 2e-6
            self.assertAlmostEqual(rate_of_uptake(f) / rise, 1, delta=1e-4)

    def test_no_time_before_the_start(self):
        with self.assertRaises(InputError):
            uptake(-0.1)


class Fitting(unittest.TestCase):
    def test_what_was_put_in_comes_out(self):
        fit = fit_uptake(series(1e-6, (0, 2, 5, 12, 24, 48, 96)))
        self.assertAlmostEqual(fit.end, 0.012 * 1.004, places=9)
        self.assertAlmostEqual(fit.per_second / 1e-6, 1, places=4)
        self.assertAlmostEqual(fit.diffusivity(4e-3), 1.6e-11, delta=1e-15)
        self.assertAlmostEqual(fit.half_time, 0.04918268 / 1e-6, delta=2)

    def test_drying_is_the_same_downwards(self):
        fit = fit_uptake(series(3e-6, (0, 1, 3, 6, 12, 24, 48), share=-0.012))
        self.assertAlmostEqual(fit.end, 0.012 * 0.988, places=9)

    def test_a_general_fitter_finds_the_same(self):
        rows = series(1e-6, (0, 3, 8, 20, 40, 80, 120), noise=8e-7, seed=4)
        t = np.array([w.time for w in rows])
        m = np.array([w.mass for w in rows]) * 1e3

        def law(t, a, b, c):
            return a + (b - a) * uptake(exp(c) * t)

        (_, end, k), _ = optimize.curve_fit(law, t, m, (m[0], m[-1], log(2e-6)), xtol=1e-12)
        fit = fit_uptake(rows)
        self.assertAlmostEqual(fit.end * 1e3, end, places=6)
        self.assertAlmostEqual(fit.per_second / exp(k), 1, places=3)

    def test_the_interval_holds_as_often_as_claimed(self):
        """95 % claimed; 120 simulated series of eight weighings, to 1 mg."""
        held = asked = 0
        for seed in range(120):
            rows = series(1e-6, np.r_[0, np.geomspace(4, 140, 7)], noise=1e-6, seed=seed)
            fit = fit_uptake([Weighing(w.time, round(w.mass, 6)) for w in rows])
            if fit is None or fit.end_low is None or fit.end_high is None:
                continue
            asked += 1
            held += fit.end_low <= 0.012 * 1.004 <= fit.end_high
        self.assertGreater(asked, 100)
        self.assertGreaterEqual(held / asked, 0.90)

    def test_early_weighings_leave_the_end_open(self):
        fit = fit_uptake(series(1e-6, (0, 0.25, 0.5, 1, 2), noise=3e-7))
        self.assertTrue(fit is None or fit.end_high is None)

    def test_nothing_to_fit(self):
        self.assertIsNone(fit_uptake(series(1e-6, (0, 5, 10))))
        self.assertIsNone(fit_uptake([Weighing(t, 0.012) for t in (0, 1, 2, 3, 4)]))


class Settling(unittest.TestCase):
    def test_settled_when_the_law_says_so(self):
        """The stated rate is met a window after the fitted curve becomes slower than it."""
        rows = series(1e-6, range(0, 241, 6))
        fit = fit_uptake(rows)
        foreseen = settles_at(fit) / HOUR
        change = 0.004 * 1e-6 * rate_of_uptake(1e-6 * foreseen * HOUR) * DAY
        self.assertAlmostEqual(change, 1e-4, delta=1e-7)
        seen = settled(rows)
        self.assertTrue(seen.settled)
        self.assertLess(abs(seen.at / HOUR - foreseen), 30)

    def test_not_while_it_moves_and_not_before_a_day(self):
        self.assertFalse(settled(series(1e-6, range(0, 61, 6))).settled)
        flat = [Weighing(h * HOUR, 0.012) for h in (0, 4, 8, 20)]
        self.assertFalse(settled(flat).settled)

    def test_one_that_moves_again_is_not_settled(self):
        rows = [Weighing(d * DAY, m) for d, m in ((0, 0.01), (1, 0.01), (2, 0.01), (3, 0.010101))]
        self.assertFalse(settled(rows).settled)

    def test_a_coarse_scale_is_told(self):
        rows = [Weighing(d * DAY, 0.01) for d in (0, 1, 2)]
        self.assertTrue(settled([Weighing(w.time, 0.01001) for w in rows], 1e-5 / DAY).coarse)

    def test_two_meet_from_both_sides(self):
        wet = series(1e-6, range(0, 121, 6), share=-0.006, start=0.0121)
        dry = series(1e-6, range(0, 121, 6), share=0.004, start=0.0120)
        base = (0.012, 0.012)
        ends = [abs(w.mass / 0.012 - d.mass / 0.012) for w, d in zip(wet, dry, strict=True)]
        at = met_at(wet, dry, base, 0.003)
        i = next(i for i, e in enumerate(ends) if e <= 0.003)
        self.assertTrue(wet[i - 1].time <= at <= wet[i].time)
        self.assertIsNone(met_at(wet[:3], dry[:3], base, 0.003))


class Judged(unittest.TestCase):
    def test_a_mass_below_dry_is_refused(self):
        with self.assertRaisesRegex(InputError, "below the dry mass"):
            moisture([Weighing(0, 0.0120), Weighing(60, 0.0110)], dry=0.0119)
        with self.assertRaisesRegex(InputError, "weigh again"):
            moisture([Weighing(0, 0.012)])

    def test_shares_are_of_the_dry_mass(self):
        found = moisture(series(1e-6, (0, 5, 12, 24, 48, 96, 144)), dry=0.0119, thickness=4e-3)
        end, low, high = found.equilibrium
        self.assertAlmostEqual(end, 0.012 * 1.004 / 0.0119 - 1, places=6)
        self.assertTrue(low <= end <= high)
        self.assertAlmostEqual(found.diffusivity, 1.6e-11, delta=1e-14)


class Core(unittest.TestCase):
    """T = S − (S − T₀)·exp(−(t − lag)/τ), the crossing worked by hand: lag + τ·ln((S − T₀)/gap)."""

    SET, FIRST, LAG, TAU = 463.15, 295.15, 20.0, 46.0

    def readings(self, minutes, noise=0.0, seed=1):
        rng = np.random.default_rng(seed)
        rise = self.SET - self.FIRST
        return [CoreReading(0.0, self.FIRST)] + [
            CoreReading(
                t * 60, self.SET - rise * exp(-(t - self.LAG) / self.TAU) + rng.normal(0, noise)
            )
            for t in minutes
        ]

    def test_by_hand(self):
        found = approach(self.readings((30, 45, 60, 75)), self.SET, 10.0)
        self.assertAlmostEqual(found.at / 60, self.LAG + self.TAU * log(168 / 10), places=3)
        self.assertAlmostEqual(found.time_constant / 60, self.TAU, places=3)
        self.assertAlmostEqual(found.lag / 60, self.LAG, places=2)

    def test_a_general_fitter_finds_the_same(self):
        rows = self.readings((30, 40, 50, 60, 70, 80), noise=0.6, seed=3)
        t = np.array([r.time for r in rows[1:]]) / 60
        k = np.array([r.kelvin for r in rows[1:]])

        def law(t, a, tau):
            return self.SET - a * np.exp(-t / tau)

        (a, tau), _ = optimize.curve_fit(law, t, k, (200, 40), xtol=1e-12)
        found = approach(rows, self.SET, 10.0)
        self.assertAlmostEqual(found.time_constant / 60 / tau, 1, places=4)
        self.assertAlmostEqual(found.at / 60, tau * log(a / 10), places=2)

    def test_the_interval_holds_as_often_as_claimed(self):
        true = (self.LAG + self.TAU * log(16.8)) * 60
        held = 0
        for seed in range(200):
            found = approach(self.readings((32, 42, 52, 62, 72), 0.5, seed), self.SET, 10.0)
            held += found.low <= true and (found.high is None or true <= found.high)
        self.assertGreaterEqual(held / 200, 0.91)

    def test_reached_few_and_never(self):
        reached = approach(self.readings((60, 120, 180)), self.SET, 10.0)
        self.assertTrue(reached.reached)
        self.assertTrue(120 < reached.at / 60 < 180)
        few = approach(self.readings((30, 40)), self.SET, 10.0)
        self.assertIsNone(few.at)
        self.assertIn("Too few", few.remark)
        with self.assertRaisesRegex(InputError, "cools"):
            approach([CoreReading(t, 330.0 - t) for t in (0, 10, 20, 30)], self.SET, 10.0)
        with self.assertRaisesRegex(InputError, "order"):
            approach([CoreReading(9, 300), CoreReading(3, 301)], self.SET, 10.0)
        with self.assertRaisesRegex(InputError, "more than zero"):
            approach(self.readings((30, 40, 50)), self.SET, 0.0)


class Logs(unittest.TestCase):
    def rows(self, text, names=("mass",), dimension="mass", unit="g"):
        return [(r.time, round(r.value, 9)) for r in read_log(text, names, dimension, unit).rows]

    def test_ways_of_writing_a_log(self):
        wanted = [(0.0, 0.0124), (7200.0, 0.01241)]
        for text in (
            "time (h),mass (g)\n0,12.4\n2,12.41\n",
            "Zeit [min];Masse [g]\n0;12,4\n120;12,41\n",
            "mass_g\ttime_s\n12.41\t7200\n12.4\t0\n",
            "time,mass\n2026-03-02 10:00,12.4 g\n2026-03-02 12:00,12410 mg\n",
            "time,mass\n23:30,12.4\n1:30,12.41\n",
            "0 12.4\n2 12.41\n",
            "0;12.4\n2h;12.41\n",
        ):
            names = ("mass", "masse")
            with self.subTest(text):
                self.assertEqual(self.rows(text, names), wanted)

    def test_what_cannot_be_read_names_its_line(self):
        for text, sentence in (
            ("time,mass\n0,12\n1,heavy\n", "Line 3"),
            ("time,mass\nsoon,12\n1,12\n", "Line 2"),
            ("time,weight\n0,12\n1,12\n", "no column “mass”"),
            ("time,mass\n0,12\n0,13\n", "Two different rows"),
            ("time,mass\n0,\n1,\n", "No row holds"),
        ):
            with self.subTest(text), self.assertRaisesRegex(InputError, sentence):
                self.rows(text)

    def test_a_gap_is_remarked(self):
        text = "time h,mass g\n" + "".join(f"{t},12\n" for t in (0, 10, 11, 12, 13, 14, 15, 26))
        log = read_log(text, ("mass",), "mass", "g")
        self.assertEqual(len(log.remarks), 1)
        self.assertIn("15 h and", log.remarks[0])
