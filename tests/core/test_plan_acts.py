"""What a level means, how recipes resolve, what may share a plate, what departs from a plan."""

import unittest
from itertools import combinations

from hypothesis import given
from hypothesis import strategies as st

from brunt_core.errors import InputError
from brunt_core.planning.confounders import find_confounders
from brunt_core.planning.deviations import (
    age_deviation,
    setting_deviations,
    speed_deviation,
    word_deviation,
)
from brunt_core.planning.levels import heat_in, read_meaning, time_in
from brunt_core.printing.checks import dryness
from brunt_core.printing.plates import Piece, alone_on_plates, capacity, fill_plates, tall
from brunt_core.printing.recipes import FIELDS
from brunt_core.printing.resolved import only_per_object, plate_key, resolve

DAY = 86400.0


class Meanings(unittest.TestCase):
    def test_words_of_the_trade(self):
        for kind, text, outstanding, value in (
            ("treatment", "as printed", False, None),
            ("treatment", "Untreated", False, None),
            ("treatment", "annealed 95 °C, 2 h", True, None),
            ("condition", "room, 23 °C", False, None),
            ("condition", "dried", True, None),
            ("condition", "−18 °C", True, None),
            ("age", "fresh", False, 0.0),
            ("age", "8 weeks under load", True, 56 * DAY),
            ("age", "30 d", True, 30 * DAY),
            ("drying", "as opened", False, None),
            ("drying", "dried 80 °C, 8 h", True, None),
            ("rate", "500 mm/min", False, 0.5 / 60),
            ("rate", "50", False, 0.05 / 60),
            ("other", "thicker web", False, None),
        ):
            with self.subTest(text):
                meaning = read_meaning(kind, text)
                self.assertEqual(meaning.outstanding, outstanding)
                if value is None:
                    self.assertIsNone(meaning.value)
                else:
                    self.assertAlmostEqual(meaning.value, value)
        self.assertEqual(read_meaning("orientation", "standing").word, "upright")
        self.assertEqual((heat_in("at 95 °C"), heat_in("203 °F")), (368.15, 368.15))
        self.assertEqual(time_in("1,5 h"), 5400.0)

    def test_what_means_nothing_is_refused(self):
        for kind, text in (
            ("rate", "fast"),
            ("rate", "-5"),
            ("age", "old"),
            ("orientation", "askew"),
        ):
            with self.subTest(text), self.assertRaises(InputError):
                read_meaning(kind, text)


class Deviations(unittest.TestCase):
    def test_settings_speed_age_words(self):
        def heat(c):
            return {"nozzle_temperature": {"value": c + 273.15, "shown": f"{c} °C"}}

        found = setting_deviations("filament", heat(250), heat(235))
        self.assertEqual(
            [d.sentence for d in found], ["Nozzle temperature: planned 250 °C, printed at 235 °C"]
        )
        for planned, used in ((heat(250), heat(250.4)), (heat(250), {}), ({}, heat(235))):
            self.assertEqual(setting_deviations("filament", planned, used), [])
        self.assertIsNone(speed_deviation(0.1, 0.104))
        self.assertIsNone(speed_deviation(None, 0.1))
        self.assertIn("500 mm/min", speed_deviation(0.5 / 60, 0.005 / 60).sentence)
        self.assertIsNone(age_deviation(None, 9e9))
        self.assertIsNone(age_deviation(0.0, 3 * DAY))
        self.assertIn("planned fresh", age_deviation(0.0, 30 * DAY).sentence)
        self.assertIn("tested at 40 d", age_deviation(56 * DAY, 40 * DAY).sentence)
        self.assertIsNone(word_deviation("lot", "Lot", "spool 7", "Spool 7 "))
        self.assertEqual(dryness("pa12", 20.0, True), "dried")


class Recipes(unittest.TestCase):
    def test_levels_go_into_the_base_and_refuse_what_it_has_no_field_for(self):
        base = {"walls": {"value": 4.0, "shown": "4"}, "speed": {"value": 0.05, "shown": "50 mm/s"}}
        done = resolve("filament", base, [("walls", {"value": 2.0, "shown": "2"})])
        self.assertEqual((done["walls"]["shown"], done["speed"]["shown"]), ("2", "50 mm/s"))
        self.assertEqual(base["walls"]["shown"], "4")
        with self.assertRaisesRegex(InputError, "no exposure"):
            resolve("filament", base, [("exposure", {"shown": "2 s"})])
        self.assertTrue(only_per_object("filament", [base, done]))
        hot = resolve("filament", base, [("nozzle_temperature", {"shown": "250 °C"})])
        self.assertFalse(only_per_object("filament", [base, hot]))
        self.assertNotEqual(plate_key("filament", base, True), plate_key("filament", hot, True))

    def test_every_field_belongs_somewhere(self):
        of_material = {f.key for kind in FIELDS.values() for f in kind.values() if f.of_material}
        self.assertIn("nozzle_temperature", of_material)
        for key in ("walls", "infill", "layer_height", "line_width", "nozzle_size", "top_layers"):
            self.assertNotIn(key, of_material)


class Plates(unittest.TestCase):
    @given(
        st.lists(
            st.tuples(
                st.sampled_from("AB"),
                st.sampled_from("xyz"),
                st.integers(3, 40),
                st.integers(3, 90),
            ),
            min_size=1,
            max_size=40,
        ),
        st.floats(0, 9),
        st.integers(0, 99),
        st.integers(1, 3),
    )
    def test_the_gap_asked_for_is_the_gap_kept(self, rows, gap, seed, each):
        pieces = [Piece(str(i), group, w, d, (key,)) for i, (key, group, w, d) in enumerate(rows)]
        placed = fill_plates(pieces, (120.0, 120.0), gap, seed, each=each)
        self.assertEqual(sorted(p.name for p in placed), sorted(p.name for p in pieces))
        known = {p.name: p for p in pieces}
        by_plate = {}
        for p in placed:
            by_plate.setdefault(p.plate, []).append(p)
        for plate in by_plate.values():
            self.assertEqual(len({known[p.name].key for p in plate}), 1)
            for p in plate:
                one = known[p.name]
                self.assertGreaterEqual(min(p.x, p.y), 5 - 1e-3)
                self.assertLessEqual(max(p.x + one.width, p.y + one.depth), 115 + 1e-3)
            for a, b in combinations(plate, 2):
                self.assertTrue(self.apart(known, a, b, gap), (a, b))

    def apart(self, known, a, b, gap) -> bool:
        one, other = known[a.name], known[b.name]
        across = max(b.x - (a.x + one.width), a.x - (b.x + other.width))
        along = max(b.y - (a.y + one.depth), a.y - (b.y + other.depth))
        return max(across, along) >= gap - 1e-3

    def test_packed_in_the_middle_conditions_spread_order_by_chance(self):
        pieces = [Piece(f"{g}{i}", g, 10, 75) for g in "abcde" for i in range(10)]
        placed = fill_plates(pieces, (220, 220), 5, 3)
        plates = {p.plate for p in placed}
        for plate in plates:
            on = [p for p in placed if p.plate == plate]
            counts = [sum(p.name[0] == g for p in on) for g in "abcde"]
            self.assertLessEqual(max(counts) - min(counts), 1)
            middle = (min(p.x for p in on) + max(p.x + 10 for p in on)) / 2
            self.assertAlmostEqual(middle, 110, delta=8)
        heats = [Piece(f"{g}{i}", g, 10, 75, (g,)) for g in "abcdef" for i in range(3)]
        orders = {
            tuple(dict.fromkeys(p.name[0] for p in fill_plates(heats, (220, 220), 5, seed)))
            for seed in range(6)
        }
        self.assertGreater(len(orders), 2)
        twice = fill_plates(heats, (220, 220), 5, 1, each=2)
        self.assertEqual(len({p.plate for p in twice}), 12)

    def test_alone_tall_and_capacity(self):
        self.assertEqual(alone_on_plates({"a": ["1"], "b": ["1"]}), [])
        self.assertEqual(alone_on_plates({"a": ["1"], "b": ["2"]}), ["a", "b"])
        self.assertEqual(alone_on_plates({"a": ["1", "2"], "b": ["3", "4"]}), [])
        self.assertEqual(alone_on_plates({"a": ["1"]}), [])
        self.assertEqual(tall(Piece("x", "x", 20, 20, height=60)), "")
        self.assertEqual(capacity((300, 10), (220, 220), 5), 0)


class Guard(unittest.TestCase):
    def test_shared_hands_do_no_harm_and_apart_ones_do(self):
        def facts(*sets):
            return {str(i): {"operator": frozenset(s)} for i, s in enumerate(sets)}

        self.assertEqual(find_confounders(facts("ab", "b", "bc"), [], None, ["operator"]), [])
        found = find_confounders(facts("a", "b"), [], None, ["operator"])
        self.assertIn("Operator differs", found[0].sentence)
        self.assertTrue(find_confounders(facts("ab", "b"), []))
