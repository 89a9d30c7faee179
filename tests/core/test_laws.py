"""Laws that hold for all inputs."""

import unittest
from itertools import combinations

from hypothesis import given, settings
from hypothesis import strategies as st

from brunt_core.computation import compute
from brunt_core.errors import InputError
from brunt_core.identifiers import (
    ALPHABET,
    CAPACITY,
    SHORT_ONES,
    nearest_codes,
    specimen_code,
    tidy_code,
)
from brunt_core.methods.base import Input
from brunt_core.methods.registry import method, methods
from brunt_core.observations import Observation as O
from brunt_core.plausibility.unit_mixups import expected_range, find_unit_mixup
from brunt_core.quantities import in_unit
from brunt_core.statistics.campaign_summary import campaign_summary
from brunt_core.statistics.letters import letter_sets, letters
from brunt_core.statistics.ranking import rank
from brunt_core.statistics.summaries import summarise, summarise_many
from brunt_core.tables import read_table

SIZES = {"width": "10 mm", "thickness": "4 mm"}


# How many of one unit make another, by dimension; and readings of which more gives less.
OTHER = {
    "force": ("N", "kgf", 9.80665),
    "torque": ("N·m", "in·lbf", 0.1129848290276167),
    "length": ("mm", "in", 25.4),
    "angle": ("°", "rad", 57.29577951308232),
    "mass": ("g", "oz", 28.349523125),
    "temperature": ("K", "K", 1.0),
    "number": ("", "", 1.0),
}
FALLS = {
    "impact",
    "impact-relative",
    "clamp-retention",
    "deflection-ladder",
    "cantilever",
    "wall-flow",
}


def rests_on(key: str) -> tuple[str, Input]:
    """The first property whose reading the method's example gives, and that reading."""
    one = method(key)
    found = ((r.property, one.reading_for(r.property)) for r in one.results)
    return next((prop, spec) for prop, spec in found if spec.key in one.example)


def read_as(key: str, number: float, unit: str, sign: str = "") -> O:
    """What the example comes to with its reading as given."""
    one = method(key)
    prop, spec = rests_on(key)
    text = f"{sign}{number:.12g} {unit}".strip()
    if spec.kind == "series" and not spec.along:
        others = one.example[spec.key].split(";")[:-1]
        text = "; ".join([*(f"{o} {spec.unit}" for o in others), text])
    elif spec.kind == "series":
        text = f"{one.example[spec.key].rpartition(':')[0]}: {text}"
    return compute(one, {**one.example, spec.key: text}).result(prop).observation


def reading_of(key: str) -> tuple[float, str, str, float]:
    """The number the example reads in a unit, another unit, and how many of the first it is."""
    spec = rests_on(key)[1]
    unit, other, size = OTHER[spec.dimension]
    reading = compute(method(key), method(key).example).readings[spec.key]
    given = reading.rows[-1].value if reading.rows else reading.si
    return in_unit(given, spec.dimension, unit), unit, other, size


READ = sorted(k for k in methods() if rests_on(k)[1].dimension in OTHER)


class Methods(unittest.TestCase):
    def test_every_example_computes(self):
        for key, one in methods().items():
            with self.subTest(key):
                self.assertTrue(compute(one, one.example).results)

    @given(st.sampled_from(READ), st.floats(0.95, 1.05), st.floats(1.001, 1.02))
    @settings(max_examples=150, deadline=None)
    def test_units_do_not_matter_and_more_is_more(self, key, factor, more):
        number, unit, other, size = reading_of(key)
        number *= factor
        one = read_as(key, number, unit).anchor
        self.assertAlmostEqual(read_as(key, number / size, other).anchor / one, 1, places=6)
        change = read_as(key, number * more, unit).anchor - one
        self.assertGreater(-change if key in FALLS else change, 0)

    @given(st.sampled_from(READ), st.floats(0.5, 1.5))
    @settings(max_examples=80, deadline=None)
    def test_bounds_travel(self, key, factor):
        """Whatever is at least, at most or between stays so, and keeps its number."""
        if not rests_on(key)[1].bounded:
            return
        number, unit, *_ = reading_of(key)
        number *= factor
        exact = read_as(key, number, unit)
        for sign, kind in (("> ", "at_least"), ("< ", "at_most")):
            bound = read_as(key, number, unit, sign=sign)
            self.assertEqual(bound.kind, kind)
            self.assertAlmostEqual(bound.anchor / exact.anchor, 1, places=9)
        between = read_as(key, number, f".. {number * 1.2:.9g} {unit}")
        self.assertEqual(between.kind, "between")
        self.assertLess(between.lower, between.upper)

    def test_outcomes_that_leave_it_whole_give_at_least(self):
        for key, one in methods().items():
            for outcome in one.outcomes:
                if outcome.bound == "at_least":
                    example = {k: v.rpartition(" .. ")[2] for k, v in one.example.items()}
                    found = compute(one, example, outcome.key).result(one.results[0].property)
                    self.assertEqual(found.observation.kind, "at_least", (key, outcome.key))

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


class UnitMixups(unittest.TestCase):
    def test_each_usual_unit_mixup_is_named(self):
        for texts, instead in (
            ({"force": "58.4", **SIZES}, None),
            ({"force": "240", **SIZES}, "240 kgf"),
            ({"force": "540", **SIZES}, "540 lbf"),
            ({"force": "2400", "width": "10 in", "thickness": "4"}, "10 mm"),
            ({"force": "2.4", **SIZES}, "2.4 kN"),
        ):
            unit_mixup = find_unit_mixup(
                compute(method("tension"), texts),
                texts,
                "broke",
                expected_range((30e6, 70e6), []),
                {"width": 0.01, "thickness": 0.004},
            )
            self.assertEqual((unit_mixup.instead or None) if unit_mixup else None, instead, texts)

    def test_in_range_is_quiet_and_bounds_are_given_the_benefit(self):
        fine = {"force": "2400", **SIZES}
        self.assertIsNone(
            find_unit_mixup(compute(method("tension"), fine), fine, "broke", (30e6, 70e6))
        )
        held = {"force": "> 240", **SIZES}
        self.assertIsNone(
            find_unit_mixup(compute(method("tension"), held), held, "broke", (30e6, 70e6))
        )


class Identifiers(unittest.TestCase):
    @given(st.integers(0, CAPACITY - 1))
    def test_any_single_error_and_any_swap_is_caught(self, number):
        code = specimen_code(number)
        bare = code.replace("-", "")
        self.assertEqual(tidy_code(bare.lower()), code)
        for i in range(len(bare)):
            for c in ALPHABET:
                if c != bare[i]:
                    self.assertIsNone(tidy_code(bare[:i] + c + bare[i + 1 :]))
        for i, j in combinations(range(len(bare)), 2):
            if bare[i] != bare[j]:
                swapped = list(bare)
                swapped[i], swapped[j] = swapped[j], swapped[i]
                self.assertIsNone(tidy_code("".join(swapped)))

    def test_all_different_and_nearest_found(self):
        codes = [specimen_code(i) for i in range(3000)]
        longer = [specimen_code(SHORT_ONES + i) for i in range(3000)]
        self.assertEqual(len({*codes, *longer}), 6000)
        self.assertTrue(all(c[1].isdigit() for c in codes) and all(c[1].isalpha() for c in longer))
        with self.assertRaisesRegex(InputError, "1015680"):
            specimen_code(CAPACITY)
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
        self.assertIn("did not break", campaign_summary(held)[0].strong)

    def test_bound_below_is_not_a_difference(self):
        unclear = rank({"A": [O.at_least(40.0)] * 3, "B": [O.exact(v) for v in (44.0, 45.0, 46.0)]})
        self.assertEqual(unclear.pairs[0].basis, "none")
        self.assertEqual(len({r.letters for r in unclear.rows}), 1)

    def test_one_specimen_and_nothing(self):
        alone = rank({"A": [O.exact(3.0)], "B": [O.exact(v) for v in (1.0, 1.1, 0.9)]})
        self.assertEqual(alone.pairs[0].basis, "none")
        self.assertIn("One specimen only", " ".join(map(str, campaign_summary(alone))))
        self.assertIn("Nothing to compare", campaign_summary(rank({}))[0].strong)

    def test_reference_must_exist(self):
        with self.assertRaisesRegex(InputError, "not one of the groups"):
            rank({"A": [O.exact(1.0)]}, reference="C")

    def test_lower_is_better(self):
        self.assertEqual(
            rank({"A": [O.exact(3.0)] * 2, "B": [O.exact(1.0)] * 2}, better="lower").rows[0].name,
            "B",
        )


class Many(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.lists(st.floats(0.1, 1e4), min_size=1, max_size=7), min_size=1, max_size=6),
        st.sampled_from([0.0, 0.3]),
    )
    def test_many_at_once_are_what_each_is(self, groups, rounding):
        values = [v for g in groups for v in g]
        many = summarise_many(values, [len(g) for g in groups], rounding=rounding)
        for i, g in enumerate(groups):
            one = summarise([O.exact(v) for v in g], rounding=rounding)
            self.assertAlmostEqual(many.mean[i] / one.mean, 1, places=9)
            if one.sd is None:
                self.assertTrue(many.sd[i] != many.sd[i])
                continue
            for ours, theirs in ((many.low[i], one.low), (many.high[i], one.high)):
                self.assertAlmostEqual(ours, theirs, delta=1e-6 * max(abs(theirs), 1.0))

    def test_sizes_that_do_not_fit(self):
        for values, sizes in (([1.0], [2]), ([1.0], []), ([1.0, 2.0], [2, 0])):
            with self.assertRaisesRegex(InputError, "do not fit"):
                summarise_many(values, sizes)


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


BAR = {"width": "10 mm", "thickness": "4 mm"}


class Endings(unittest.TestCase):
    """How a test ended and what was read must agree."""

    def test_what_held_is_no_upper_bound(self):
        for text, said in (("< 5 kN", "leave out the “<”"), ("4 .. 5 kN", "highest it held")):
            with self.subTest(text), self.assertRaisesRegex(InputError, said) as caught:
                compute(method("tension"), {**BAR, "force": text}, "held")
            self.assertEqual(caught.exception.field, "force")
        kept = compute(method("tension"), {**BAR, "force": "> 5 kN"}, "held").results[0]
        self.assertEqual(kept.observation.kind, "at_least")

    def test_stepwise_loads_are_piles_of_weights(self):
        done = compute(
            method("tension"), {**BAR, "force": "20; 20 + 10; 20 + 10 + 5 kg"}, "between"
        )
        found = done.results[0].observation
        self.assertAlmostEqual(found.lower, 30 * 9.80665 / 40e-6)
        self.assertAlmostEqual(found.upper, 35 * 9.80665 / 40e-6)
        for text in ("20 kg", "20; 10 kg"):
            with self.subTest(text), self.assertRaises(InputError) as caught:
                compute(method("tension"), {**BAR, "force": text}, "between")
            self.assertEqual(caught.exception.field, "force")

    def test_no_hammer_swings_so(self):
        given = method("impact").example
        for key, text, said in (
            ("start_angle", "360°", "beyond the upright"),
            ("end_angle", "200°", "beyond the upright"),
            ("free_end_angle", "150°", "above its start"),
        ):
            with self.subTest(key), self.assertRaisesRegex(InputError, said) as caught:
                compute(method("impact"), {**given, key: text})
            self.assertEqual(caught.exception.field, key)


class Thousands(unittest.TestCase):
    """A point before three digits that may be a thousands mark."""

    def unit_mixup(self, text, expected):
        texts = {**BAR, "force": text}
        return find_unit_mixup(compute(method("tension"), texts), texts, "broke", expected)

    def test_is_asked_about_when_only_the_thousands_fit(self):
        unit_mixup = self.unit_mixup("1.250 N", (25e6, 40e6))
        self.assertEqual((unit_mixup.instead, unit_mixup.unit), ("1250 N", "thousands"))
        self.assertIn("thousands mark", unit_mixup.sentence)
        self.assertIsNone(self.unit_mixup("1.250 kN", (25e6, 40e6)))

    def test_is_named_when_nothing_fits(self):
        self.assertIn(
            "“14.631 mN” may be 14631 mN as well",
            self.unit_mixup("14.631 mN", (25e6, 40e6)).sentence,
        )
