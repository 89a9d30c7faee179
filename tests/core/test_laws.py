"""Laws that hold for all inputs."""

import unittest
from itertools import combinations

from hypothesis import given, settings
from hypothesis import strategies as st

from brunt_core.computation import compute
from brunt_core.errors import InputError
from brunt_core.identifiers import ALPHABET, CAPACITY, nearest_codes, specimen_code, tidy_code
from brunt_core.methods.registry import method, methods
from brunt_core.observations import Observation as O
from brunt_core.plausibility.slips import expected_range, find_slip
from brunt_core.statistics.findings import findings
from brunt_core.statistics.letters import letter_sets, letters
from brunt_core.statistics.ranking import rank
from brunt_core.tables import read_table
from brunt_web.library.actions.standard_procedures import STARTERS
from tests.support.bench import TYPED

SIZES = {"width": "10 mm", "thickness": "4 mm"}


# What a method is read by: input, a number, its unit, another unit and how many of the first make
# one of it, and whether more of it is more (+1) or less (−1) of the first result.
READ_BY = {
    "tension": ("force", 500, "N", "kgf", 9.80665, 1),
    "layer-adhesion": ("force", 300, "N", "lbf", 4.4482216152605, 1),
    "flexure": ("force", 131, "N", "kgf", 9.80665, 1),
    "impact": ("end_angle", 100, "°", "rad", 57.29577951308232, -1),
    "torsion": ("torque", 3.6, "N·m", "in·lbf", 0.1129848290276167, 1),
    "cantilever": ("break_force", 60, "N", "lbf", 4.4482216152605, 1),
    "compression": ("force", 6000, "N", "kN", 1000, 1),
    "double-shear": ("force", 1600, "N", "kgf", 9.80665, 1),
    "hook": ("force", 210, "N", "kgf", 9.80665, 1),
    "part-break": ("force", 210, "N", "lbf", 4.4482216152605, 1),
    "pull-out": ("force", 820, "N", "kgf", 9.80665, 1),
    "heat-sag": ("temperature_at_sag", 330, "K", "K", 1, 1),
    "measure": ("value", 78, "", "", 1, 1),
    "impact-relative": ("dial_with", 62, "", "", 1, -1),
    "dimensional": ("length_after", 59.6, "mm", "in", 25.4, 1),
    "mass": ("mass_after", 4.012, "g", "oz", 28.349523125, 1),
    "creep": ("readings", 1.4, "mm", "thou", 0.0254, 1),
    "clamp-retention": ("heights", 8.30, "mm", "in", 25.4, -1),
    "deflection-ladder": ("ladder", 0.62, "mm", "thou", 0.0254, -1),
    "drop": ("drops", 500, "mm", "in", 25.4, 1),
}
_ROWS = {
    "creep": "1 min: 1.02 mm; 1 h: {}",
    "clamp-retention": "0 s: 8.42 mm; 1 d: {}",
    "deflection-ladder": "5 N @ 1 s: 0.21 mm; 10 N @ 1 s: {}",
    "drop": "{}: fail; 900 mm: fail",
}


def first_result(key: str, number: float, unit: str, outcome: str = "", sign: str = ""):
    """The method's first result with its reading as given, the rest as its starter and table say."""
    reading = READ_BY[key][0]
    text = f"{sign}{number:.12g} {unit}".strip()
    starter = next(s for s in STARTERS if s.method == key)
    inputs = starter.parameters | TYPED[key] | {reading: _ROWS.get(key, "{}").format(text)}
    return compute(method(key), inputs, outcome).results[0].observation


class Methods(unittest.TestCase):
    def test_every_method_is_in_the_table(self):
        self.assertEqual(set(READ_BY), set(methods()))

    @given(st.sampled_from(sorted(READ_BY)), st.floats(0.9, 1.1), st.floats(1.001, 1.02))
    @settings(max_examples=150, deadline=None)
    def test_units_do_not_matter_and_more_is_more(self, key, factor, more):
        _, number, unit, other, size, direction = READ_BY[key]
        number *= factor
        one = first_result(key, number, unit).anchor
        self.assertAlmostEqual(first_result(key, number / size, other).anchor / one, 1, places=6)
        self.assertGreater((first_result(key, number * more, unit).anchor - one) * direction, 0)

    @given(st.sampled_from(sorted(READ_BY)), st.floats(0.5, 1.5))
    @settings(max_examples=80, deadline=None)
    def test_bounds_travel(self, key, factor):
        """Whatever is at least, at most or between stays so, and keeps its number."""
        reading, number, unit, *_ = READ_BY[key]
        spec = method(key).input(reading)
        if not spec.bounded:
            return
        exact = first_result(key, number * factor, unit)
        for sign, kind in (("> ", "at_least"), ("< ", "at_most")):
            bound = first_result(key, number * factor, unit, sign=sign, outcome="")
            self.assertEqual(bound.kind, kind)
            self.assertAlmostEqual(bound.anchor / exact.anchor, 1, places=9)
        between = first_result(key, number * factor, f".. {number * factor * 1.2:.9g} {unit}")
        self.assertEqual(between.kind, "between")
        self.assertLess(between.lower, between.upper)

    def test_outcomes_that_leave_it_whole_give_at_least(self):
        for key, (_, number, unit, *_) in READ_BY.items():
            for outcome in method(key).outcomes:
                if outcome.bound == "at_least":
                    found = first_result(key, number, unit, outcome.key)
                    self.assertEqual(found.kind, "at_least", (key, outcome.key))

    def test_what_is_reached_at_the_end_is_at_least_when_it_held(self):
        texts = {"force": "500", **SIZES, "work": "2 J", "yield_force": "300"}
        held = {
            r.property.key: r.observation.kind
            for r in compute(method("tension"), texts, "held").results
        }
        self.assertEqual(
            held,
            {
                "tensile_strength": "at_least",
                "yield_strength": "exact",
                "energy_to_break": "at_least",
            },
        )

    def test_what_is_missing_is_named(self):
        for key, inputs, field in (
            ("flexure", {"force": "1", **SIZES}, "span"),
            ("impact", {"end_angle": "90", "start_angle": "140"}, "hammer_mass"),
            ("creep", {"readings": "1 h 1.2"}, "readings"),
            ("deflection-ladder", {"ladder": "5 N: 0.4", "span": "64", **SIZES}, "ladder"),
            (
                "deflection-ladder",
                {"ladder": "9 N @ 1 s: 2; 5 N @ 1 s: 3", "span": "64", **SIZES},
                "ladder",
            ),
            ("drop", {"drops": "400: maybe"}, "drops"),
            ("torsion", {"torque": "5 N"}, "torque"),
            ("impact", {"end_angle": "90", "start_angle": "140", "notch": "Z"}, "notch"),
            (
                "clamp-retention",
                {"torque": "1 N·m", "heights": "1 h: 8; 1 h: 7; 2 h: 6"},
                "heights",
            ),
            ("measure", {"value": "3"}, "name"),
        ):
            with self.subTest(key, inputs=inputs), self.assertRaises(InputError) as caught:
                compute(method(key), inputs)
            self.assertEqual(caught.exception.field, field)

    def test_bad_input_names_its_field(self):
        for inputs, field in (
            ({"width": "10", "thickness": "4"}, "force"),
            ({"force": "612", "width": "10"}, "thickness"),
            ({"force": "612"}, "width"),
            ({"force": "-3", **SIZES}, "force"),
            ({"force": "612", "width": "0", "thickness": "4"}, "width"),
            ({"force": "abc", **SIZES}, "force"),
            ({"force": "6", "width": "> 3", "thickness": "4"}, "width"),
            ({"force": "6", "outer_diameter": "4", "inner_diameter": "6"}, "inner_diameter"),
            ({"force": "6", "bogus": "4", **SIZES}, "bogus"),
            ({"force": "6", "width": "4", "diameter": "5"}, "diameter"),
        ):
            with self.subTest(inputs), self.assertRaises(InputError) as caught:
                compute(method("tension"), inputs)
            self.assertEqual(caught.exception.field, field)


class Slips(unittest.TestCase):
    def test_each_usual_slip_is_named(self):
        for texts, instead in (
            ({"force": "58.4", **SIZES}, None),
            ({"force": "240", **SIZES}, "240 kgf"),
            ({"force": "540", **SIZES}, "540 lbf"),
            ({"force": "2400", "width": "10 in", "thickness": "4"}, "10 mm"),
            ({"force": "2.4", **SIZES}, "2.4 kN"),
        ):
            slip = find_slip(
                compute(method("tension"), texts),
                texts,
                "broke",
                expected_range((30e6, 70e6), []),
                {"width": 0.01, "thickness": 0.004},
            )
            self.assertEqual((slip.instead or None) if slip else None, instead, texts)

    def test_in_range_is_quiet_and_bounds_are_given_the_benefit(self):
        fine = {"force": "2400", **SIZES}
        self.assertIsNone(find_slip(compute(method("tension"), fine), fine, "broke", (30e6, 70e6)))
        held = {"force": "> 240", **SIZES}
        self.assertIsNone(find_slip(compute(method("tension"), held), held, "broke", (30e6, 70e6)))


class Identifiers(unittest.TestCase):
    @given(st.integers(0, CAPACITY - 1))
    def test_any_single_error_and_any_swap_is_caught(self, number):
        code = specimen_code(number)
        bare = code.replace("-", "")
        self.assertEqual(tidy_code(bare.lower()), code)
        for i in range(5):
            for c in ALPHABET:
                if c != bare[i]:
                    self.assertIsNone(tidy_code(bare[:i] + c + bare[i + 1 :]))
        for i, j in combinations(range(5), 2):
            if bare[i] != bare[j]:
                swapped = list(bare)
                swapped[i], swapped[j] = swapped[j], swapped[i]
                self.assertIsNone(tidy_code("".join(swapped)))

    def test_all_different_and_nearest_found(self):
        codes = [specimen_code(i) for i in range(3000)]
        self.assertEqual(len(set(codes)), 3000)
        self.assertEqual(nearest_codes(codes[7][:-1] + "2", codes)[0], codes[7])


class Letters(unittest.TestCase):
    @given(
        st.integers(1, 9).flatmap(
            lambda n: st.tuples(
                st.just(n), st.sets(st.sampled_from(list(combinations(range(n), 2)) or [(0, 0)]))
            )
        )
    )
    def test_display_says_exactly_what_the_pairs_say(self, drawn):
        count, chosen = drawn
        different = {p for p in chosen if p[0] != p[1]}
        marks, sets = letters(count, different), letter_sets(count, different)
        for i, j in combinations(range(count), 2):
            self.assertEqual(not set(marks[i]) & set(marks[j]), (i, j) in different)
        self.assertTrue(all(marks))
        self.assertFalse(any(a < b for a in sets for b in sets))


class Ranking(unittest.TestCase):
    def test_did_not_break_leads_by_its_bound(self):
        held = rank(
            {"A": [O.at_least(60.0)] * 4, "B": [O.exact(v) for v in (44.0, 45.0, 46.0, 45.5)]}
        )
        self.assertEqual(
            (held.rows[0].name, held.rows[0].summary.sign, held.rows[0].summary.low),
            ("A", "≥", None),
        )
        self.assertEqual([r.letters for r in held.rows], ["a", "b"])
        self.assertIn("did not break", findings(held)[0].strong)

    def test_bound_below_is_not_a_difference(self):
        unclear = rank({"A": [O.at_least(40.0)] * 3, "B": [O.exact(v) for v in (44.0, 45.0, 46.0)]})
        self.assertEqual(unclear.pairs[0].basis, "none")
        self.assertEqual(len({r.letters for r in unclear.rows}), 1)

    def test_one_specimen_and_nothing(self):
        alone = rank({"A": [O.exact(3.0)], "B": [O.exact(v) for v in (1.0, 1.1, 0.9)]})
        self.assertEqual(alone.pairs[0].basis, "none")
        self.assertIn("One specimen only", " ".join(map(str, findings(alone))))
        self.assertIn("Nothing to compare", findings(rank({}))[0].strong)

    def test_reference_must_exist(self):
        with self.assertRaisesRegex(InputError, "not one of the groups"):
            rank({"A": [O.exact(1.0)]}, reference="C")

    def test_lower_is_better(self):
        self.assertEqual(
            rank({"A": [O.exact(3.0)] * 2, "B": [O.exact(1.0)] * 2}, better="lower").rows[0].name,
            "B",
        )


class Tables(unittest.TestCase):
    def test_refused_files(self):
        for text in ("", "just words", "a,b\n", "a,a\n1,2\n"):
            with self.assertRaises(InputError):
                read_table(text)

    def test_heads(self):
        heads = {
            c.name: c.unit
            for c in read_table(
                "Load / kgf;width_mm;Note;thickness (mm);peak load, lbf\n1;2;3;4;5"
            ).columns
        }
        self.assertEqual(
            heads, {"load": "kgf", "width": "mm", "note": "", "thickness": "mm", "peak load": "lbf"}
        )
