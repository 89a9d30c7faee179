"""Curves against shapes whose answers are known in closed form, and the time law against a fitter."""

import unittest

import numpy as np
from scipy import integrate, optimize

from brunt_core.curves.reading import Curve, read_curve
from brunt_core.curves.reduction import reduce_curve
from brunt_core.errors import InputError
from brunt_core.mechanics.creep import fit_power_law

AREA, GAUGE = 40e-6, 0.05


def toed(modulus: float, toe: float = 0.0002) -> Curve:
    """A quadratic toe that runs smoothly into a straight line of known modulus, to 1600 N."""
    slope = modulus * AREA / GAUGE
    x = np.linspace(0, 0.0014, 1401)
    start = slope * x**2 / (4 * toe)
    force = np.where(x < 2 * toe, start, slope * (x - toe))
    return Curve(x, force)


def ramberg_osgood(modulus: float, yield_stress: float, n: float) -> Curve:
    """Strain = σ/E + 0.002 (σ/σ_y)ⁿ: by its definition the 0.2 % offset yield is σ_y."""
    stress = np.linspace(0, yield_stress * 1.3, 4000)
    strain = stress / modulus + 0.002 * (stress / yield_stress) ** n
    return Curve(strain * GAUGE, stress * AREA)


class Reduction(unittest.TestCase):
    def test_toe_compensation_finds_the_modulus(self):
        """ASTM D638 annex A1 (recalled): the line of the rise meets zero load at the true zero."""
        for modulus in (800e6, 2500e6):
            found = reduce_curve(toed(modulus), GAUGE)
            self.assertAlmostEqual(found.slope * GAUGE / AREA / modulus, 1, delta=1e-6)
            self.assertAlmostEqual(found.toe, 0.0002, places=8)
            self.assertAlmostEqual(found.at_peak, 0.0012, places=8)

    def test_noise_does_not_look_steep(self):
        clean = toed(2500e6)
        for seed in range(5):
            noise = np.random.default_rng(seed).normal(0, 3.0, len(clean.force))
            found = reduce_curve(Curve(clean.displacement, clean.force + noise), GAUGE)
            self.assertAlmostEqual(found.slope * GAUGE / AREA / 2500e6, 1, delta=0.03)

    def test_offset_yield_of_ramberg_osgood(self):
        for n in (8, 15):
            curve = ramberg_osgood(2500e6, 45e6, n)
            found = reduce_curve(curve, GAUGE, {"low": 1e-5, "high": 2e-4})
            self.assertAlmostEqual(found.yield_load / AREA / 45e6, 1, delta=2e-3)

    def test_offset_yield_on_a_plateau(self):
        """Elastic, then level: the offset line meets the level part at its load, past the first peak."""
        x = np.linspace(0, 2e-3, 4001)
        ripple = 0.2 * np.sin(np.arange(len(x)))
        found = reduce_curve(Curve(x, np.minimum(2e6 * x, 1000 + ripple)), GAUGE)
        self.assertAlmostEqual(found.yield_load, 1000, delta=0.5)

    def test_energy_peak_and_break(self):
        """A sine's hill: 2FL/π under it; the break where it has fallen to 40 % of the peak."""
        x = np.linspace(0, 1e-3, 20_001)
        found = reduce_curve(Curve(x, 1000 * np.sin(np.pi * x / 1e-3)), picks={"break": 1e-3})
        area, _ = integrate.quad(lambda u: 1000 * np.sin(np.pi * u / 1e-3), 0, 1e-3)
        self.assertAlmostEqual(found.energy / area, 1, delta=1e-3)
        self.assertAlmostEqual(found.peak_load, 1000, places=4)
        natural = reduce_curve(Curve(x, 1000 * np.sin(np.pi * x / 1e-3)))
        self.assertAlmostEqual(natural.break_load, 400, delta=1)

    def test_a_linear_spring_holds_half_f_x(self):
        """½·F·x, the energy of a spring: the check of ``energy_to_break``."""
        x = np.linspace(0, 1e-3, 101)
        self.assertAlmostEqual(reduce_curve(Curve(x, 2e6 * x)).energy, 1.0, places=9)

    def test_picks_move_and_are_refused(self):
        curve = toed(2500e6)
        moved = reduce_curve(curve, GAUGE, {"peak": 0.001})
        self.assertAlmostEqual(moved.peak_load, 2e6 * 0.0008, delta=1)
        with self.assertRaisesRegex(InputError, "too close together"):
            reduce_curve(curve, GAUGE, {"low": 0.0005, "high": 0.0005})
        with self.assertRaisesRegex(InputError, "never rises"):
            reduce_curve(Curve(curve.displacement, -curve.force), GAUGE)


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
            plain,
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
