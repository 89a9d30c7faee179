"""Curves against shapes whose answers are known in closed form, and the time law against a fitter."""

import unittest
from itertools import product

import numpy as np
from scipy import integrate, optimize

from brunt_core.curves.law import law_of
from brunt_core.curves.reading import Doubtful, LoadCurve, read_curve, without
from brunt_core.curves.reduction import reduce_curve, residuals
from brunt_core.curves.rise import straight_part
from brunt_core.curves.spikes import spikes_of
from brunt_core.errors import InputError
from brunt_core.mechanics.creep import fit_power_law
from tests.support.curves import AREA, GAUGE, german, pulled, ramberg_osgood


def toed(modulus: float, toe: float = 0.0002) -> LoadCurve:
    """A quadratic toe that runs smoothly into a straight line of known modulus, to 1600 N."""
    slope = modulus * AREA / GAUGE
    x = np.linspace(0, 0.0014, 1401)
    start = slope * x**2 / (4 * toe)
    force = np.where(x < 2 * toe, start, slope * (x - toe))
    return LoadCurve(x, force)


class Reduction(unittest.TestCase):
    def test_toe_compensation_finds_the_modulus(self):
        """ASTM D638 annex A1 (recalled): the line of the rise meets zero load at the true zero."""
        for modulus in (800e6, 2500e6):
            found = reduce_curve(toed(modulus), GAUGE)
            self.assertAlmostEqual(found.slope * GAUGE / AREA / modulus, 1, delta=2e-5)
            self.assertAlmostEqual(found.toe, 0.0002, delta=1e-8)
            self.assertAlmostEqual(found.at_peak, 0.0012, delta=1e-8)

    def test_noise_does_not_look_steep(self):
        clean = toed(2500e6)
        for seed in range(5):
            noise = np.random.default_rng(seed).normal(0, 3.0, len(clean.force))
            found = reduce_curve(LoadCurve(clean.displacement, clean.force + noise), GAUGE)
            self.assertAlmostEqual(found.slope * GAUGE / AREA / 2500e6, 1, delta=0.03)

    def test_offset_yield_of_ramberg_osgood(self):
        for n in (8, 15):
            curve = ramberg_osgood(n=n, points=4000).curve
            found = reduce_curve(curve, GAUGE, {"low": 1e-5, "high": 2e-4})
            self.assertAlmostEqual(found.yield_load / AREA / 45e6, 1, delta=2e-3)

    def test_offset_yield_on_a_plateau(self):
        """Elastic, then level: the offset line meets the level part at its load, past the first peak."""
        x = np.linspace(0, 2e-3, 4001)
        ripple = 0.2 * np.sin(np.arange(len(x)))
        found = reduce_curve(LoadCurve(x, np.minimum(2e6 * x, 1000 + ripple)), GAUGE)
        self.assertAlmostEqual(found.yield_load, 1000, delta=0.5)

    def test_energy_peak_and_break(self):
        """A sine's hill: 2FL/π under it; the break where it has fallen to 40 % of the peak."""
        x = np.linspace(0, 1e-3, 20_001)
        found = reduce_curve(LoadCurve(x, 1000 * np.sin(np.pi * x / 1e-3)), picks={"break": 1e-3})
        area, _ = integrate.quad(lambda u: 1000 * np.sin(np.pi * u / 1e-3), 0, 1e-3)
        self.assertAlmostEqual(found.energy / area, 1, delta=1e-3)
        self.assertAlmostEqual(found.peak_load, 1000, places=4)
        natural = reduce_curve(LoadCurve(x, 1000 * np.sin(np.pi * x / 1e-3)))
        self.assertAlmostEqual(natural.break_load, 400, delta=1)

    def test_a_linear_spring_holds_half_f_x(self):
        """½·F·x, the energy of a spring: the check of ``energy_to_break``."""
        x = np.linspace(0, 1e-3, 101)
        self.assertAlmostEqual(reduce_curve(LoadCurve(x, 2e6 * x)).energy, 1.0, places=9)

    def test_picks_move_and_are_refused(self):
        curve = toed(2500e6)
        moved = reduce_curve(curve, GAUGE, {"peak": 0.001})
        self.assertAlmostEqual(moved.peak_load, 2e6 * 0.0008, delta=1)
        with self.assertRaisesRegex(InputError, "too close together"):
            reduce_curve(curve, GAUGE, {"low": 0.0005, "high": 0.0005})
        with self.assertRaisesRegex(InputError, "never rises"):
            reduce_curve(LoadCurve(curve.displacement, -curve.force), GAUGE)


class Law(unittest.TestCase):
    """The Ramberg–Osgood law against curves made by its definition, and against a general fitter."""

    def test_the_stated_error_is_the_cv(self):
        """Twice the stated error holds the true slope in about 95 of 100; here 60 curves."""
        for points, noise in ((200, 0.002), (1000, 0.01)):
            off = []
            for seed in range(60):
                known = ramberg_osgood(toe=0.1, points=points, noise=noise, seed=seed)
                found = reduce_curve(known.curve, GAUGE)
                off.append((found.slope - known.slope) / found.slope_error)
            self.assertTrue(0.7 < np.std(off) < 1.3, np.std(off))
            self.assertLess(abs(np.mean(off)), 0.4)

    def test_it_is_the_least_there_is(self):
        """scipy.optimize.curve_fit, from the truth, on the law written down again."""
        known = ramberg_osgood(toe=0.0, n=10, points=300, noise=0.003, seed=4)
        end = int(np.argmax(known.curve.force)) + 1
        x, force = known.curve.displacement[:end], known.curve.force[:end]

        def travel(f, slope, scale):
            return f / slope + 1e-4 * (f / scale) ** 10

        def model(at, slope, scale):
            loads = np.linspace(0, 3000, 20_000)
            return np.interp(at, travel(loads, slope, scale), loads)

        best, _ = optimize.curve_fit(model, x, force, p0=[known.slope, known.yield_load])
        found = reduce_curve(known.curve, GAUGE)
        self.assertAlmostEqual(found.slope / best[0], 1, delta=0.006)
        self.assertAlmostEqual(found.yield_load / best[1], 1, delta=0.003)

    def test_another_shape_is_not_explained(self):
        """A rise that breaks into a slower straight one has no such law: the straight part stands."""
        x = np.linspace(0, 2e-3, 800)
        noise = np.random.default_rng(1).normal(0, 0.5, len(x))
        force = np.minimum(2e6 * x, 1000 + 4e5 * (x - 5e-4)) + noise
        self.assertIsNone(law_of(x, force, straight_part(x, force)))
        self.assertAlmostEqual(reduce_curve(LoadCurve(x, force), GAUGE).slope / 2e6, 1, delta=0.03)


class Files(unittest.TestCase):
    ROWS = [(0.0, 0.0), (0.1, 49.03325), (0.2, 98.0665), (0.3, 147.09975), (0.4, 196.133)]

    def test_every_way_of_writing_gives_the_same(self):
        """The same five points, 9.80665 N a kgf and 25.4 mm an inch."""
        plain = "\n".join(f"{x},{f}" for x, f in self.ROWS)
        semicolons = "\n".join(f"{x};{f}".replace(".", ",") for x, f in self.ROWS)
        tabs = "\n".join(f"{x}\t{f / 9.80665:.9f}" for x, f in self.ROWS)
        swapped = "\n".join(f"{f / 1000:.9f};{x / 25.4:.12f}" for x, f in self.ROWS)
        spaced = "\n".join(f"  {x}   {f} " for x, f in self.ROWS)
        for text in (
            "displacement (mm),force (N)\n" + plain,
            "Weg;Kraft\nmm;N\n" + semicolons,
            "Travel [mm];Load [N]\r\n" + semicolons.replace("\n", "\r\n"),
            "extension [mm]\tload [kgf]\n" + tabs,
            "Load [kN];Travel [in]\n" + swapped,
            "\ufeffdisplacement force\n" + spaced,
        ):
            curve = read_curve(text)
            with self.subTest(text[:40]):
                np.testing.assert_allclose(
                    curve.displacement, [x / 1e3 for x, _ in self.ROWS], rtol=1e-8, atol=1e-12
                )
                np.testing.assert_allclose(
                    curve.force, [f for _, f in self.ROWS], rtol=1e-6, atol=1e-9
                )

    def test_a_third_column_and_rows_that_are_none(self):
        rows = "\n".join(f"{i};{x};{f}" for i, (x, f) in enumerate(self.ROWS))
        curve = read_curve(f"time [s];extension [mm];force [N]\n{rows}\nend of test\n")
        self.assertAlmostEqual(curve.force[-1], 196.133)
        self.assertAlmostEqual(curve.displacement[-1], 0.0004)

    def test_refused(self):
        for text, sentence in (
            ("", "No two columns"),
            ("words;only\nmore;words", "No two columns"),
            ("1,2\n2,3\n3,4", "at least five points"),
        ):
            with self.assertRaisesRegex(InputError, sentence):
                read_curve(text)


class UnderNoise(unittest.TestCase):
    """Against curves made from the law itself (Ramberg & Osgood, NACA TN 902, 1943, from memory)."""

    def test_slope_and_yield_are_unbiased(self):
        """Bias within 2 %, worst within 10 %: 60 to 3000 points, noise 0.5 to 2 % of peak, a toe."""
        off, seed = [], 0
        for points, noise, (n, toe), (modulus, stress) in product(
            (60, 200, 1000, 3000),
            (0.005, 0.01, 0.02),
            ((6, 0.1), (10, 0.25), (15, 0.0), (10, 0.1)),
            ((2500e6, 45e6), (1200e6, 30e6)),
        ):
            seed += 1
            known = ramberg_osgood(
                modulus=modulus,
                yield_stress=stress,
                n=n,
                toe=toe,
                points=points,
                noise=noise,
                seed=seed,
            )
            found = reduce_curve(known.curve, GAUGE)
            both = (found.slope / known.slope - 1, found.yield_load / known.yield_load - 1)
            if "few readings on the rise" not in " ".join(found.notes):
                off.append(both)
        self.assertGreater(len(off), 88)
        for which in np.array(off).T:
            self.assertLess(abs(which.mean()), 0.01)
            self.assertLess(np.abs(which).max(), 0.10)

    def test_slope_error_is_what_it_cvs_by(self):
        slopes, said = [], []
        for seed in range(30):
            found = reduce_curve(ramberg_osgood(noise=0.01, toe=0.1, seed=seed).curve, GAUGE)
            slopes.append(found.slope)
            said.append(found.slope_error)
        self.assertTrue(0.4 < np.mean(said) / np.std(slopes) < 2.5)

    def test_an_early_knee_before_a_long_flow(self):
        """A crushed cube: straight to its yield at a third of the load at which it is packed."""
        strain = np.linspace(0, 0.5, 2000)
        stress = np.where(
            strain < 0.03, 2000 * strain, 60 + 10 * strain + 1200 * np.maximum(strain - 0.2, 0) ** 2
        )
        noise = np.random.default_rng(1).normal(0, 60, len(strain))
        found = reduce_curve(LoadCurve(strain * 0.01, stress * 100 + noise), 0.01)
        self.assertAlmostEqual(found.slope / (2000 * 100 / 0.01), 1, delta=0.03)

    def test_what_is_said_of_noise_and_of_an_end_without_a_drop(self):
        x = np.linspace(0, 1e-3, 400)
        noise = np.random.default_rng(2).normal(0, 30, 400)
        notes = " ".join(reduce_curve(LoadCurve(x, 2e6 * x + noise)).notes)
        self.assertIn("the largest single reading", notes)
        self.assertIn("before the load falls", notes)

    def test_residuals_show_no_curve_where_it_is_straight(self):
        known = ramberg_osgood(n=15, toe=0.2, points=1000, noise=0.01)
        found = reduce_curve(known.curve, GAUGE)
        x, rest = residuals(known.curve, found)
        self.assertGreater(len(x), 20)
        self.assertAlmostEqual(float(rest.std()) / found.noise, 1, delta=0.3)
        self.assertAlmostEqual(float(rest.mean()) / found.noise, 0, delta=0.5)


class Spikes(unittest.TestCase):
    def test_found_one_by_one_and_excluded(self):
        clean = ramberg_osgood(points=500, noise=0.003).curve
        for places in ((100,), (60, 200, 310), (150, 151)):
            force = clean.force.copy()
            force[list(places)] += 0.4 * force.max()
            spoiled = LoadCurve(clean.displacement, force)
            with self.subTest(places):
                self.assertEqual(tuple(spikes_of(force)), places)
                mended = reduce_curve(without(spoiled, places), GAUGE)
                self.assertAlmostEqual(
                    mended.peak_load / reduce_curve(clean, GAUGE).peak_load, 1, delta=1e-9
                )

    def test_breaks_knees_and_noise_are_none(self):
        x = np.linspace(0, 1, 60)
        for force in (
            np.where(x < 0.9, 1000 * x, 0),
            np.minimum(1000 * x, 500),
            np.where(x < 0.5, 1000 * x, 500 - 400 * (x - 0.5)),
            ramberg_osgood(noise=0.02, points=3000).curve.force,
            1000 * x + 20 * np.sign(np.sin(60 * x)),
        ):
            self.assertEqual(len(spikes_of(np.asarray(force, float))), 0)

    def test_a_spike_above_the_peak_is_said(self):
        force = ramberg_osgood(points=300).curve.force.copy()
        force[80] = 2 * force.max()
        x = ramberg_osgood(points=300).curve.displacement
        self.assertIn("is isolated", " ".join(reduce_curve(LoadCurve(x, force), GAUGE).notes))


class Doubts(unittest.TestCase):
    """Rows are read or refused by number; columns are told by head, else by shape, else asked."""

    def setUp(self):
        self.time, self.travel, self.load = pulled()

    def read(self, line, head="", **columns):
        rows = [line(t, x, f) for t, x, f in zip(self.time, self.travel, self.load, strict=True)]
        return "\n".join([head, *rows] if head else rows)

    def peak(self, text):
        return float(read_curve(text).force.max())

    def test_thousands_marks(self):
        """1.834,75 is 1834.75, never 1.83475; quoted, by blank, by apostrophe, by comma."""
        top = float(self.load.max())
        for line, off in (
            (lambda t, x, f: f"{german(x)};{german(f)}", 0.01),
            (lambda t, x, f: f'{x:.2f},"{f:,.1f}"', 0.1),
            (lambda t, x, f: f"{x:.2f}\t{f:,.0f}", 1),
            (lambda t, x, f: f"{x:.2f};{f:,.1f}".replace(",", "\u202f"), 0.1),
            (lambda t, x, f: f"{x:.2f};{f:,.1f}".replace(",", "'"), 0.1),
            (lambda t, x, f: f"{german(x, 4)}\t{german(f, 0)}", 1),
        ):
            text = self.read(line)
            with self.subTest(text.split("\n")[40]):
                self.assertAlmostEqual(self.peak(text), top, delta=off)

    def test_refused_by_number(self):
        for text, sentence in (
            (self.read(lambda t, x, f: f"{x:.2f},{f:,.1f}"), r"Line \d+ .* has 3 values where"),
            (self.read(lambda t, x, f: f"{x:.2f};{f:.1f}").replace("0.10;", "0.1o;"), "Line 3 "),
            (self.read(lambda t, x, f: f"{x:.3f};{german(f, 0)}"), r"Line \d+: 1\.\d+ follows 9"),
            ("0.5;1,5\n0.6;2,5\n0.7;3,5\n0.8;1\n0.9;2", "decimal comma, others a decimal point"),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(InputError, sentence):
                read_curve(text)

    def test_words_and_gaps_are_said(self):
        text = self.read(lambda t, x, f: f"{x:.2f};{f:.1f}", "Weg [mm];Kraft [N]")
        rows = text.split("\n")
        rows[9] = rows[9].split(";")[0] + ";"
        notes = read_curve("\n".join([*rows, "", "end of test"])).notes
        self.assertIn("1 row without a load or a travel, excluded", notes)
        self.assertIn("line 63 is words, excluded", notes)

    def test_columns_by_head_in_many_tongues(self):
        for head in (
            "time [s],displacement [mm],force [N]",
            "Zeit;Weg;Kraft\ns;mm;N",
            "temps (s);déplacement (mm);effort (N)",
            "时间 [s];位移 [mm];载荷 [N]",
            "Specimen 4\nspeed;5 mm/min\nT/s;Traverse/mm;Prüfkraft/N",
        ):
            text = self.read(lambda t, x, f: f"{t:.1f};{x:.3f};{f:.1f}", head.replace(",", ";"))
            with self.subTest(head):
                curve = read_curve(text)
                self.assertAlmostEqual(float(curve.force.max()), float(self.load.max()), delta=0.1)
                self.assertAlmostEqual(float(curve.displacement[-1]), 0.003)

    def test_columns_by_shape(self):
        """The load rises and falls; a count goes up by one; time is more even than travel."""
        for line in (
            lambda t, x, f: f"{f:.1f} {x:.3f}",
            lambda t, x, f: f"{int(t * 2) + 1} {x:.3f} {f:.1f}",
            lambda t, x, f: f"{t} {x * (1 + 0.02 * np.sin(t)) + x * x / 4:.4f} {f:.1f}",
        ):
            curve = read_curve(self.read(line))
            self.assertAlmostEqual(float(curve.force.max()), float(self.load.max()), delta=0.1)
            self.assertLess(float(curve.displacement.max()), 0.006)

    def test_time_and_travel_alike_are_asked(self):
        text = self.read(lambda t, x, f: f"{t} {x:.4f} {f:.1f}")
        with self.assertRaises(Doubtful) as asked:
            read_curve(text)
        self.assertEqual(len(asked.exception.guesses), 2)
        wanted = asked.exception.guesses[1]
        self.assertIn("travel column 2", wanted.words)
        self.assertAlmostEqual(float(read_curve(text, wanted.key).displacement[-1]), 0.003)
        with self.assertRaisesRegex(InputError, "not one of the ways"):
            read_curve(text, "7:8:.")

    def test_a_straight_line_without_heads_is_asked(self):
        with self.assertRaises(Doubtful):
            read_curve("\n".join(f"{x / 10},{x * 5}" for x in range(9)))

    def test_a_mark_that_may_be_either_is_told_by_the_curve_or_asked(self):
        """999 → 1.000 runs on only when the point parts thousands."""
        told = "\n".join(f"{i * 3},5;{german(900 + i * 4, 0)}" for i in range(60))
        self.assertAlmostEqual(self.peak("x;F\n" + told), 1136, delta=1)
        either = "x;F\n" + "\n".join(f"{i};1.{200 + i * i % 7}" for i in range(30))
        with self.assertRaises(Doubtful) as asked:
            read_curve(either)
        self.assertEqual(
            {round(float(g.curve.force.max()), 3) for g in asked.exception.guesses}, {1.204, 1204.0}
        )

    def test_negative_curves_are_offered_turned(self):
        text = self.read(lambda t, x, f: f"{-x:.3f};{-f:.1f}", "Weg [mm];Kraft [N]")
        with self.assertRaisesRegex(Doubtful, "Flip the sign") as asked:
            read_curve(text)
        (guess,) = asked.exception.guesses
        curve = read_curve(text, guess.key)
        self.assertAlmostEqual(float(curve.force.max()), float(self.load.max()), delta=0.1)
        self.assertIn("loads were negative, sign flipped", curve.notes)

    def test_files_of_other_things(self):
        for head in ("Zeit [s];Dehnung [%];Spannung [MPa]", "time [s];temp [°C];strain [%]"):
            with self.assertRaisesRegex(InputError, "No two columns of this file can be"):
                read_curve(self.read(lambda t, x, f: f"{t};{x:.3f};{f:.1f}", head))
        with self.assertRaisesRegex(InputError, "names a force and gives a unit of length"):
            read_curve(self.read(lambda t, x, f: f"{x:.3f};{f:.1f}", "Weg [mm];Kraft [mm]"))


class TimeLaw(unittest.TestCase):
    def test_against_a_general_fitter(self):
        """scipy.optimize.curve_fit from the same start: parameters, and the exponent's error."""
        t = np.array([60, 300, 3600, 14400, 86400, 259200, 604800], float)
        for seed, n in ((1, 0.18), (2, 0.33), (3, 0.6)):
            v = 1.2 + 0.01 * t**n + np.random.default_rng(seed).normal(0, 0.004, len(t))
            law = fit_power_law(t, v)
            known, spread = optimize.curve_fit(
                lambda x, a, b, c: a + b * x**c, t, v, p0=(1.2, 0.01, n), maxfev=20_000
            )
            self.assertAlmostEqual(law.exponent / known[2], 1, delta=1e-4)
            self.assertAlmostEqual(law.start / known[0], 1, delta=1e-4)
            self.assertAlmostEqual(
                law.at(1e6) / (known[0] + known[1] * 1e6 ** known[2]), 1, delta=1e-4
            )
            self.assertAlmostEqual(law.error / np.sqrt(spread[2, 2]), 1, delta=1e-2)

    def test_refused(self):
        for times in ([1, 2, 3], [-1, 2, 3, 4]):
            with self.assertRaises(InputError):
                fit_power_law(times, [1.0] * len(times))
