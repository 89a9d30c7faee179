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

SIZES = {"width": "10 mm", "thickness": "4 mm"}


class Methods(unittest.TestCase):
    @given(st.floats(1, 9000))
    @settings(max_examples=40)
    def test_units_do_not_matter_and_more_load_is_more_stress(self, newtons):
        for m in methods().values():
            one = compute(m, {"force": f"{newtons:.9f} N", **SIZES}).results[0].observation.lower
            other = (
                compute(m, {"force": f"{newtons / 9.80665:.12f} kgf", **SIZES})
                .results[0]
                .observation.lower
            )
            more = (
                compute(m, {"force": f"{newtons * 1.1:.9f} N", **SIZES})
                .results[0]
                .observation.lower
            )
            self.assertAlmostEqual(one / other, 1, places=6)
            self.assertGreater(more, one)

    def test_bounds_travel(self):
        for m in methods().values():
            for text, outcome, kind in (
                ("612", "broke", "exact"),
                ("612", "held", "at_least"),
                ("612", "limit", "at_least"),
                ("> 612", "broke", "at_least"),
                ("< 612", "broke", "at_most"),
                ("600 .. 620", "broke", "between"),
            ):
                done = compute(m, {"force": text, **SIZES}, outcome)
                self.assertEqual(done.results[0].observation.kind, kind, (m.key, text, outcome))

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
