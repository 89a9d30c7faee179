"""Reading numbers and units as people type them."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from brunt_core.errors import InputError
from brunt_core.quantities import DIMENSIONS, parse, parse_series, parse_typed
from brunt_core.quantities.numbers import read_number


class Numbers(unittest.TestCase):
    def test_forms_of_one_number(self):
        for text, value in (
            ("58.4", 58.4),
            ("58,4", 58.4),
            ("1.2e3", 1200),
            ("1.2×10^3", 1200),
            ("1,2 x 10³", 1200),
            ("1 250.5", 1250.5),
            ("1,250.5", 1250.5),
            ("1.250,5", 1250.5),
            ("1,250,000", 1.25e6),
            (".5", 0.5),
            ("−3", -3),
            ("0,125", 0.125),
            ("1'250", 1250),
            ("2·10⁻³", 0.002),
        ):
            with self.subTest(text):
                self.assertAlmostEqual(read_number(text), value, places=12)

    def test_refused_with_a_sentence(self):
        for text in (
            "1,250",
            "12,345",
            "abc",
            "1.2.3",
            "1,2,3",
            "",
            "1e999",
            "--5",
            "5-",
            "1,25.0",
        ):
            with self.subTest(text), self.assertRaises(InputError) as caught:
                read_number(text)
            self.assertTrue(caught.exception.sentence.endswith((".", "?")))

    @given(st.floats(min_value=-1e6, max_value=1e6).filter(lambda x: abs(x) > 1e-3 or x == 0))
    def test_what_is_written_is_read_back(self, value):
        self.assertAlmostEqual(read_number(f"{value:.6f}"), round(value, 6), places=9)

    @given(st.text(max_size=12))
    def test_any_text_gives_a_number_or_a_sentence(self, text):
        try:
            self.assertIsInstance(read_number(text), float)
        except InputError as error:
            self.assertTrue(error.sentence)


class Units(unittest.TestCase):
    def test_kg_in_a_force_field_says_so(self):
        self.assertIn("kilogram-force", parse("58.4 kg", "force").note)
        self.assertEqual(parse("58.4 kgf", "force").note, "")
        self.assertEqual(parse("58.4 kg", "force").si, parse("58.4 kgf", "force").si)

    def test_bare_number_takes_the_stated_unit(self):
        self.assertAlmostEqual(parse("10", "length", "mm").si, 0.01)
        self.assertTrue(parse("10", "length", "mm").assumed)

    def test_wrong_kind_is_named(self):
        with self.assertRaisesRegex(InputError, "stress; a force is needed"):
            parse("24 psi", "force")
        with self.assertRaisesRegex(InputError, "not a unit of force"):
            parse("24 flurbs", "force")

    def test_case_matters_where_it_must(self):
        self.assertAlmostEqual(parse("2 mN", "force").si, 0.002)
        self.assertAlmostEqual(parse("2 n", "force").si, 2)
        with self.assertRaises(InputError):
            parse("2 mPa", "stress")

    def test_temperatures(self):
        self.assertAlmostEqual(parse("212 °F", "temperature").si, 373.15)
        self.assertAlmostEqual(parse("95", "temperature").si, 368.15)

    def test_times(self):
        for text, seconds in (
            ("2 h 30", 9000),
            ("2h30min", 9000),
            ("90 min", 5400),
            ("1 d 2 h", 93600),
            ("45", 45),
        ):
            self.assertAlmostEqual(parse(text, "time").si, seconds)

    def test_bounds_and_series(self):
        self.assertEqual(parse_typed("≥ 40 kgf", "force").observation.kind, "at_least")
        self.assertEqual(parse_typed("< 40", "force").observation.kind, "at_most")
        self.assertAlmostEqual(parse_typed("6 to 8 kgf", "force").observation.lower, 6 * 9.80665)
        self.assertEqual(len(parse_series("5.02 5.01 4.99 mm", "length")), 3)
        with self.assertRaises(InputError):
            parse_typed("8 .. 6 kgf", "force")

    def test_plus_minus(self):
        self.assertAlmostEqual(parse("2.4 kN ± 10 N", "force").uncertainty, 10)

    @given(st.sampled_from(sorted(DIMENSIONS)), st.text(max_size=15))
    def test_any_text_gives_a_quantity_or_a_sentence(self, dimension, text):
        try:
            parse_typed(text, dimension)
        except InputError as error:
            self.assertTrue(error.sentence)

    @given(
        st.sampled_from([(d.key, s) for d in DIMENSIONS.values() for s in d.spellings if s]),
        st.floats(0.01, 1000),
    )
    def test_every_spelling_is_read_and_scales(self, spelled, number):
        dimension, spelling = spelled
        if dimension == "temperature":
            return
        one, many = (
            parse(f"1 {spelling}", dimension).si,
            parse(f"{number:.6f} {spelling}", dimension).si,
        )
        self.assertAlmostEqual(many / one, round(number, 6), places=6)
