"""Reading numbers and units as people type them."""

import subprocess
import sys
import unittest

import pint
from hypothesis import given, settings
from hypothesis import strategies as st

from brunt_core.errors import InputError
from brunt_core.quantities import DIMENSIONS, parse, parse_series, parse_typed
from brunt_core.quantities.factors import FACTORS
from brunt_core.quantities.numbers import read_number
from brunt_core.quantities.parsing import last_two
from brunt_core.quantities.rendering import render
from tests.core.second_reader import UNITS, quantity

REGISTRY = pint.UnitRegistry()


def factor_and_offset(unit: str, target: str) -> tuple[float, float]:
    """The factor and offset between two units by the definitions of the package pint."""
    quantity = REGISTRY.Quantity
    if unit in ("degC", "degF") or target in ("degC", "degF"):
        zero = float(quantity(0.0, unit).to(target).magnitude)
        return float(quantity(1.0, unit).to(target).magnitude) - zero, zero
    return float(quantity(1.0, unit or "dimensionless").to(target or "").magnitude), 0.0


class WrittenDown(unittest.TestCase):
    def test_what_is_written_down_is_what_pint_says(self):
        """Every unit of every dimension, there and back; none missing, none left over."""
        pairs = {(u, d.si) for d in DIMENSIONS.values() for u in d.spellings.values()}
        pairs = {(a, b) for pair in pairs for a, b in (pair, pair[::-1]) if a != b}
        self.assertEqual(FACTORS, {pair: factor_and_offset(*pair) for pair in pairs})

    def test_reading_needs_no_registry(self):
        """One computation of each kind of unit in a fresh interpreter loads neither registry nor scipy."""
        said = (
            "import sys; from brunt_command.core import run_compute; "
            "run_compute(['tension', 'force=58.4 kgf', 'width=0.4 in', 'thickness=4 mm']); "
            "print('|'.join(m for m in ('pint', 'scipy') if m in sys.modules))"
        )
        done = subprocess.run(
            [sys.executable, "-c", said], capture_output=True, text=True, check=True
        )
        self.assertIn("MPa", done.stdout)
        self.assertEqual(done.stdout.splitlines()[-1], "")


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


WRITTEN = (
    # text, dimension, unit assumed, SI
    ("1 250 N", "force", "N", 1250),
    ("1\u00a0250 N", "force", "N", 1250),
    ("1\u2009250,5 N", "force", "N", 1250.5),
    ("12 500 000 N", "force", "N", 12.5e6),
    ("1/8 in", "length", "mm", 0.003175),
    ("3/8 in", "length", "mm", 0.009525),
    ("1 1/2 kN", "force", "N", 1500),
    ("2½ kg", "force", "N", 24.516625),
    ("½ in", "length", "mm", 0.0127),
    ("5 kgf; 6; 7", "force", "N", 6 * 9.80665),
    ("5; 6; 7 kgf", "force", "N", 6 * 9.80665),
    ("27.4 kilograms", "force", "N", 27.4 * 9.80665),
    ("2 + 2 + 1 kg", "force", "N", 5 * 9.80665),
    ("2 kg + 500 g", "mass", "g", 2.5),
    ("1.24 g/cm3", "density", "g/cm³", 1240),
    ("1240 kg/m3", "density", "g/cm³", 1240),
    ("31 N/mm2", "stress", "MPa", 31e6),
    ("12 kgf/cm2", "stress", "MPa", 1176798),
    ("4.2 kJ/m2", "energy_per_area", "kJ/m²", 4200),
    ("41 mm4", "second_moment", "mm⁴", 41e-12),
    ("2500000 µm2", "area", "mm²", 2.5e-6),
    ("2500000 um^2", "area", "mm²", 2.5e-6),
    ("2h30m", "time", "s", 9000),
    ("1e3 s", "time", "s", 1000),
    ("5 ftlb", "torque", "N·m", 6.779089741657),
    ("50 cNm", "torque", "N·m", 0.5),
    ("12 daN", "force", "N", 120),
    ("5.02 5.01 5.03", "length", "mm", 0.00502),
    ("100 101.5 99 N", "force", "N", 300.5 / 3),
    ("–5 °C", "temperature", "°C", 268.15),
    ("٣٫٥ N", "force", "N", 3.5),
)
REFUSED = (
    # what is typed, of what kind, and a piece of the sentence
    ("5 x 100 N", "force", "more than one way"),
    ("4 x 105 N", "force", "more than one way"),
    ("102 103 N", "force", "one number, 102103"),
    ("12 50 N", "force", "one number or several"),
    ("1 250 1 260 N", "force", "one number or several"),
    ("3/8 N", "force", "fraction or two readings"),
    ("6/8 lb", "force", "no fraction"),
    ("5.1/5.2 mm", "length", "more than one way"),
    ("10; 20 N; 30 kgf", "force", "has no unit"),
    ("-300 °C", "temperature", "below absolute zero"),
    ("< -500 °F", "temperature", "below absolute zero"),
    ("1e308 GPa", "stress", "too large"),
    ("30 min 2 h", "time", "not a time"),
    ("5 - 6 N", "force", "as 5 .. 6"),
    ("20 °C + 5 °C", "temperature", "do not add up"),
    ("5 N ± 1 N; 6 N", "force", "not both"),
    ("nan", "force", "does not start with a number"),
    ("inf N", "force", "does not start with a number"),
    ("∞", "force", "does not start with a number"),
)


class Written(unittest.TestCase):
    """What workshops write: right, or refused."""

    def test_is_read_right(self):
        for text, dimension, unit, si in WRITTEN:
            with self.subTest(text):
                found = parse_typed(text, dimension, unit).observation
                self.assertTrue(found.is_exact)
                self.assertAlmostEqual(found.anchor, si, delta=abs(si) * 1e-9)

    def test_or_refused_with_a_sentence(self):
        for text, dimension, said in REFUSED:
            with self.subTest(text), self.assertRaises(InputError) as caught:
                parse_typed(text, dimension)
            self.assertIn(said, caught.exception.sentence)

    def test_a_bound_without_a_unit_takes_the_others(self):
        for text in ("700 gf .. 900", "700 .. 900 gf"):
            found = parse_typed(text, "force", "N").observation
            self.assertAlmostEqual(found.lower, 0.7 * 9.80665)
            self.assertAlmostEqual(found.upper, 0.9 * 9.80665)

    def test_a_spread_lends_its_unit(self):
        for text in ("2.4 +- 0.1 kN", "2.4 kN +/- 100 N", "2.4 kN ± 0.1"):
            found = parse(text, "force", "N")
            self.assertAlmostEqual(found.si, 2400)
            self.assertAlmostEqual(found.uncertainty, 100)

    def test_stepwise_loads_give_their_last_interval(self):
        found = last_two(parse_typed("2 + 2; 2 + 2 + 1; 2 + 2 + 2 kg", "mass"))
        self.assertEqual((found.lower, found.upper), (5.0, 6.0))
        for text in ("5 kg", "5; 4 kg", "5; 5 kg"):
            with self.subTest(text), self.assertRaisesRegex(InputError, "ascending"):
                last_two(parse_typed(text, "mass"))

    def test_a_bound_below_zero_keeps_its_side(self):
        cold = parse_typed("> -5 mm", "length").observation
        self.assertEqual(cold.kind, "at_least")
        self.assertEqual(cold.through(lambda x: 2 * x).kind, "at_least")
        self.assertEqual(cold.through(lambda x: -2 * x).kind, "at_most")
        at_zero = parse_typed("> 0 mm", "length").observation
        self.assertEqual(at_zero.through(lambda x: -x).kind, "at_most")


def _numbers():
    """Numbers in the ways people write them."""
    whole, digits = st.integers(0, 999), st.integers(0, 99)
    thousand = st.builds(
        lambda a, b, m: f"{a + 1}{m}{b:03d}", whole, whole, st.sampled_from(" '\u00a0\u2009")
    )
    decimal = st.builds(lambda a, b, m: f"{a}{m}{b:02d}", whole, digits, st.sampled_from(".,"))
    both = st.builds(lambda a, b, c: f"{a + 1}.{b:03d},{c:02d}", whole, whole, digits)
    power = st.builds(lambda a, b: f"{a}e{b}", whole, st.integers(-9, 9))
    fraction = st.builds(
        lambda a, b, k: f"{a} {2 * b + 1}/{2**k}" if a else f"{2 * b + 1}/{2**k}",
        st.integers(0, 9),
        st.integers(0, 15),
        st.integers(1, 6),
    )
    return st.one_of(whole.map(str), thousand, decimal, both, power, fraction)


class TwoReaders(unittest.TestCase):
    """Whatever is read is what a second reader reads."""

    def agree(self, text, dimension, unit):
        try:
            found = parse_typed(text, dimension, unit)
        except InputError as error:
            self.assertTrue(error.sentence.endswith((".", "?", ")")), error.sentence)
            return
        if not found.observation.is_exact or len(found.parts) > 1 or found.uncertainty:
            return
        other = quantity(text, dimension, unit)
        if other is not None:
            tolerance = abs(float(other)) * 1e-9 + 1e-300
            self.assertAlmostEqual(found.observation.anchor, float(other), delta=tolerance)
        self.seen.append(other is not None)

    @settings(max_examples=120, deadline=None)
    @given(st.lists(_numbers(), min_size=1, max_size=3), st.data())
    def test_on_what_people_write(self, numbers, data):
        self.seen = []
        dimension = data.draw(st.sampled_from(sorted(UNITS)))
        units = sorted(UNITS[dimension])
        spelled = [data.draw(st.sampled_from(["", *(f" {u}" for u in units)])) for _ in numbers]
        text = " + ".join(n + u for n, u in zip(numbers, spelled, strict=True))
        self.agree(text, dimension, data.draw(st.sampled_from(units)))

    @settings(max_examples=200, deadline=None)
    @given(
        st.text(alphabet="0123456789.,' /+-eE½xkNgfinmlb\u00a0", max_size=12),
        st.sampled_from(sorted(UNITS)),
    )
    def test_on_what_nobody_writes(self, text, dimension):
        self.seen = []
        self.agree(text, dimension, sorted(UNITS[dimension])[0])

    @settings(max_examples=100, deadline=None)
    @given(
        st.sampled_from(
            [(d.key, s) for d in DIMENSIONS.values() for s in d.spellings if d.key != "temperature"]
        ),
        st.floats(1e-3, 1e6),
        st.integers(3, 6),
    )
    def test_what_is_printed_reads_back(self, kind, value, significant):
        dimension, unit = kind
        si = parse(f"{value!r} {unit}", dimension).si
        printed = render(si, dimension, unit, significant)
        back = parse(printed, dimension, unit).si
        self.assertAlmostEqual(back, si, delta=abs(si) * 0.51 * 10 ** (1 - significant) + 1e-300)
