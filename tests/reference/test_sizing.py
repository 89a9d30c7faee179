"""Sections sized: against handbook formulas by hand, the inverse of the core's own, and its test methods.

Handbook: Roark's formulas as in reference tables (bending 3FL/(2bh²), cantilever 6Fa/(bh²), shaft
16T/(πd³), FL³/(48EI), Fa³/(3EI)); the exact torsion factors of a rectangle, series of 30 digits.
"""

import json
import math
import unittest
from contextlib import redirect_stderr, redirect_stdout
from io import StringIO
from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st

from brunt_command import decide
from brunt_core.computation import compute
from brunt_core.decisions.factors import CHOICES, suggested
from brunt_core.decisions.margin import HOLDS, NOTHING, OPEN, OUT, Loss, basis_of, margin
from brunt_core.decisions.sizing import MODES, Case, deflection, size, stress
from brunt_core.errors import InputError
from brunt_core.methods.registry import method
from brunt_core.observations import Observation as O

MM = st.floats(1e-3, 0.2)


class Handbook(unittest.TestCase):
    def test_strength_by_hand(self):
        rows = (
            (
                Case("bending", 120.0, span=0.08, width=0.012),
                math.sqrt(3 * 120 * 80 * 4 / (2 * 12 * 55)),
            ),
            (
                Case("cantilever", 90.0, arm=0.11, width=0.012),
                math.sqrt(6 * 90 * 110 * 4 / (12 * 55)),
            ),
            (Case("cantilever", 90.0, arm=0.11), (32 * 90 * 110 * 4 / (math.pi * 55)) ** (1 / 3)),
            (Case("bending", 120.0, span=0.08), (8 * 120 * 80 * 4 / (math.pi * 55)) ** (1 / 3)),
            (Case("tension", 500.0, width=0.01), 500 * 4 / (10 * 55)),
            (Case("tension", 500.0), math.sqrt(4 * 500 * 4 / (math.pi * 55))),
            (Case("torsion", 2.0), (16 * 2000 * 4 / (math.pi * 55)) ** (1 / 3)),
            (Case("shear", 500.0), math.sqrt(2 * 500 * 4 / (math.pi * 55))),
            (Case("shear", 500.0, planes=1), math.sqrt(4 * 500 * 4 / (math.pi * 55))),
        )
        for case, mm in rows:
            with self.subTest(case):
                self.assertAlmostEqual(size(case, 55e6, 4).value * 1e3, mm, places=9)

    def test_stiffness_by_hand(self):
        beam = Case("bending", 120.0, span=0.08, width=0.012)
        found = size(beam, 200e6, 1, 2.4e9, 1e-3)
        self.assertAlmostEqual(
            found.value * 1e3, (120 * 80**3 / (4 * 2400 * 12 * 1)) ** (1 / 3), places=9
        )
        self.assertEqual(found.ruled_by, "stiffness")
        arm = size(Case("cantilever", 5.0, arm=0.05), 200e6, 1, 2.5e9, 1e-3)
        self.assertAlmostEqual(
            arm.value * 1e3, (64 * 5 * 50**3 / (3 * math.pi * 2500 * 1)) ** 0.25, places=9
        )

    def test_a_strip_in_torsion_by_the_exact_series(self):
        """b/h = 2: α 0.2458783, so T = 0.2458783 · 20 · 10² · τ."""
        torque = 0.2458783 * 20 * 10**2 * 30 / 1e3
        found = size(Case("torsion", torque, width=0.02), 30e6)
        self.assertAlmostEqual(found.value * 1e3, 10, places=5)

    def test_what_the_methods_compute_is_what_it_is_sized_by(self):
        for key, inputs, case, depth in (
            ("flexure", {"force": "120 N", "span": "64 mm", "width": "10 mm", "thickness": "4 mm"}, Case("bending", 120.0, span=0.064, width=0.01), 0.004),
            ("tension", {"force": "2 kN", "width": "10 mm", "thickness": "4 mm"}, Case("tension", 2000.0, width=0.01), 0.004),
            ("pull-out", {"force": "1 kN", "joint": "thread", "hole_diameter": "4 mm", "engagement": "6 mm"}, Case("thread", 1000.0, width=0.004), 0.006),
            ("double-shear", {"force": "1 kN", "diameter": "6 mm"}, Case("shear", 1000.0), 0.006),
        ):  # fmt: skip
            with self.subTest(key):
                told = {r.property.key: r for r in compute(method(key), inputs).results}
                wanted = "thread_shear_stress" if key == "pull-out" else next(iter(told))
                result = told[wanted].observation.anchor
                self.assertAlmostEqual(stress(case, depth) / result, 1, places=9)

    @given(
        mode=st.sampled_from(list(MODES)), load=st.floats(0.1, 1e4), length=MM,
        width=st.one_of(st.none(), MM), factor=st.floats(1, 6), strength=st.floats(1e6, 2e8),
    )  # fmt: skip
    @settings(max_examples=120, deadline=None)
    def test_a_sized_section_is_stressed_as_allowed(
        self, mode, load, length, width, factor, strength
    ):
        case = Case(mode, load, span=length, arm=length, width=width)
        try:
            found = size(case, strength, factor)
        except InputError:
            return
        if 2e-6 < found.value < 9:
            self.assertAlmostEqual(stress(case, found.value) * factor / strength, 1, places=6)
        if mode not in ("shear", "thread"):
            sag = deflection(case, max(found.value, 1e-4), 2e9)
            try:
                stiff = size(case, strength, factor, 2e9, sag)
            except InputError as refused:  # a sag of 1e15 m is no sag of a part
                self.assertFalse(1e-9 < sag < 1e9, refused)
                return
            self.assertGreaterEqual(stiff.value, found.value * (1 - 1e-9))

    def test_refused(self):
        good = Case("bending", 1.0, span=0.1)
        for bad, more, field in (
            (Case("bending", 1.0), (1e6,), "span"),
            (Case("cantilever", 1.0), (1e6,), "arm"),
            (Case("hanging", 1.0), (1e6,), "mode"),
            (Case("tension", 0.0), (1e6,), "load"),
            (Case("tension", 1.0, width=-1.0), (1e6,), "width"),
            (Case("torsion", 1.0, width=1e-300), (1e6,), "width"),
            (Case("tension", 1e300), (1e6,), "load"),
            (Case("shear", 1.0, planes=3), (1e6,), "planes"),
            (good, (0.0,), "strength"),
            (good, (1e6, 0.5), "factor"),
            (good, (1e6, 1, 1e9), "sag"),
            (good, (1e6, 1, None, 1e-3), "modulus"),
            (Case("shear", 1.0), (1e6, 1, 1e9, 1e-3), "sag"),
            (Case("thread", 1.0, width=0.004), (1e6, 1, 1e9, 1e-3), "sag"),
            (Case("thread", 1.0), (1e6,), "width"),
            (Case("tension", 1.0), (1e6, 1, 1e9, 1e-3), "span"),
        ):
            with self.subTest(field), self.assertRaises(InputError) as caught:
                size(bad, *more)
            self.assertEqual(caught.exception.field, field)

    def test_what_is_said_of_odd_sections(self):
        deep = size(Case("bending", 5000.0, span=0.03, width=0.004), 50e6)
        self.assertTrue(any("short for its depth" in r for r in deep.remarks))
        self.assertTrue(any("tip over" in r for r in deep.remarks))
        thin = size(Case("cantilever", 5.0, arm=0.3, width=0.05), 80e6, 1, 1e9, 0.2)
        self.assertTrue(any("tenth" in r for r in thin.remarks))


class Command(unittest.TestCase):
    def run_it(self, *arguments):
        out, err = StringIO(), StringIO()
        with (
            mock.patch("sys.argv", ["brunt", "size", *arguments]),
            redirect_stdout(out),
            redirect_stderr(err),
        ):
            code = decide.main()
        return code, out.getvalue(), err.getvalue()

    def test_as_in_the_readme(self):
        code, out, _ = self.run_it("--mode", "bending", "--load", "120 N", "--span", "80 mm", "--width", "12 mm",
                                   "--strength", "55 MPa", "--modulus", "2.4 GPa", "--sag", "1 mm", "--factor", "4", "--json")  # fmt: skip
        record = json.loads(out)
        self.assertEqual((code, record["ruled_by"]), (0, "strength"))
        self.assertAlmostEqual(record["thickness"], 9.34198732994)
        self.assertAlmostEqual(
            record["from_stiffness"], (120 * 512000 / (4 * 2400 * 12)) ** (1 / 3)
        )

    def test_units_and_torque_by_an_arm(self):
        _, out, _ = self.run_it("--mode", "torsion", "--load", "4.5 lbf", "--arm", "60 mm", "--strength", "30 MPa", "--json")  # fmt: skip
        torque = 4.5 * 4.4482216152605 * 60
        self.assertAlmostEqual(
            json.loads(out)["diameter"], (16 * torque / (math.pi * 30)) ** (1 / 3)
        )
        _, out, _ = self.run_it("--mode", "shear", "--load", "500 N", "--strength", "30 MPa")
        self.assertIn("diameter", out)

    def test_bad_input_is_one_sentence(self):
        for arguments, words in (
            (("--mode", "bending", "--load", "120 N", "--strength", "55 MPa"), "Span is missing"),
            (("--mode", "tension", "--load", "12 apples", "--strength", "55 MPa"), "load"),
            (("--mode", "tension", "--load", "12 N", "--strength", "55 MPa", "--factor", "0.5"), "1 or more"),
            (("--mode", "tension", "--load", "12 N", "--strength", "55 MPa", "--factor", "x"), "factor"),
        ):  # fmt: skip
            code, _, err = self.run_it(*arguments)
            self.assertEqual(code, 2)
            self.assertIn(words, err)


class Margins(unittest.TestCase):
    def test_a_bound_where_there_are_enough(self):
        """n = 5, 90 % at 95 %: k = 3.4066 (published table)."""
        values = [70.0, 72.0, 68.0, 71.0, 69.0]
        found = basis_of([O.exact(v) for v in values])
        self.assertAlmostEqual(found.value, 70 - 3.4066 * math.sqrt(2.5), places=3)
        self.assertEqual(basis_of([O.exact(v) for v in values[:4]]).kind, "smallest")
        self.assertEqual(basis_of([O.exact(70.0)]).kind, "single")
        wild = basis_of([O.exact(v) for v in (70.0, 72.0, 5.0, 71.0, 300.0)])
        self.assertEqual((wild.kind, wild.value), ("smallest", 5.0))

    def test_what_held_counts_at_its_load_and_at_most_at_nothing(self):
        held = basis_of([O.exact(50.0), O.at_least(40.0)])
        self.assertEqual((held.kind, held.value), ("smallest", 40.0))
        self.assertIsNone(basis_of([O.exact(50.0), O.at_most(40.0)]))
        self.assertIsNone(basis_of([]))
        self.assertIsNone(basis_of([O.exact(0.0), O.exact(3.0)]))

    def test_verdicts(self):
        basis = basis_of([O.exact(v) for v in (60.0, 61.0, 59.0)])
        heat = Loss("heat", 0.5, None, None, "")
        self.assertEqual(margin(basis, [], [], 50).verdict, HOLDS)
        self.assertEqual(margin(basis, [], ["creep"], 50).verdict, OPEN)
        out = margin(basis, [heat], ["creep"], 50)
        self.assertEqual((out.verdict, out.by), (OUT, "heat"))
        self.assertEqual(margin(basis, [], [], 70).by, "strength")
        self.assertEqual(margin(None, [heat], [], 70).verdict, NOTHING)
        unsure = margin(basis, [Loss("heat", 0.9, 0.5, 1.62, "")], [], 50)
        self.assertEqual((unsure.verdict, unsure.by), (OUT, "untested losses"))
        for bad in (0.0, -1.0, float("nan")):
            with self.assertRaises(InputError):
                margin(basis, [], [], bad)

    def test_the_lower_end_by_simulation(self):
        """Of two measured ratios the product is above the end that is told in about 95 of 100."""
        import numpy as np

        rng = np.random.default_rng(2)
        true, error = (0.8, 0.7), (0.05, 0.06)
        kept = 0
        for _ in range(4000):
            losses = []
            for t, e in zip(true, error, strict=True):
                seen = t * math.exp(rng.normal(0, e))
                losses.append(
                    Loss("x", seen, seen * math.exp(-1.96 * e), seen * math.exp(1.96 * e), "")
                )
            kept += margin(basis_of([O.exact(100.0)]), losses, [], 1.0).there <= 56.0
        self.assertAlmostEqual(kept / 4000, 0.95, delta=0.012)

    def test_factors_are_held_and_say_their_reasons(self):
        for basis in ("bound", "smallest", "single"):
            for a in [o[0] for o in CHOICES["known"][1]]:
                for b in [o[0] for o in CHOICES["jerk"][1]]:
                    for c in [o[0] for o in CHOICES["harm"][1]]:
                        found = suggested({"known": a, "jerk": b, "harm": c}, basis)
                        self.assertTrue(1.2 <= found.value <= 6)
        self.assertEqual(suggested({"known": "guessed", "jerk": "sudden", "harm": "people"}, "single").held, "limited to 6")  # fmt: skip
        self.assertEqual(len(suggested({"known": "guessed"}, "smallest").parts), 2)
