"""What a recipe draws, trials that bring it up, resin times, blends, attempts. Expected values by hand.

Sources: geometry and kinematics; rule of mixtures (any handbook); the grades are common practice, no source.
"""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from brunt_core.errors import InputError
from brunt_core.printing.attempts import ease
from brunt_core.printing.blends import Ingredient, blend
from brunt_core.printing.cut import cut_across, pattern_angle
from brunt_core.printing.recipes import FIELDS
from brunt_core.printing.resin import cycle, print_seconds
from brunt_core.printing.tuning import TRIALS, flow_after, judge_trial, suggested_steps

SET = {
    "layer_height": 2e-4,
    "line_width": 5e-4,
    "walls": 3.0,
    "top_layers": 4.0,
    "bottom_layers": 4.0,
    "infill": 0.25,
}


class Cut(unittest.TestCase):
    def test_beads_counted_by_hand(self):
        """10 × 4 mm: 20 layers; 3 walls a side; 7 mm inside in 14 roads on 8 skin layers."""
        cut = cut_across(SET, "lines at 0°", 10, 4)
        count = {p: sum(b.part == p for b in cut.beads) for p in ("wall", "top", "bottom")}
        self.assertEqual(count, {"wall": 120, "top": 56, "bottom": 56})
        self.assertEqual((cut.layers, cut.built, cut.remarks), (20, 4.0, ()))

    def test_sparse_lines_lie_at_width_over_share(self):
        """Lines along the length at 25 %: a road of 0.5 mm every 2 mm; at 45° both √2 as much."""
        for pattern, lean in (("lines at 0°", 1.0), ("lines at 45°", 2**0.5)):
            cut = cut_across(SET, pattern, 10, 4)
            rows = [[b for b in cut.beads if b.part == "infill" and b.layer == k] for k in (8, 9)]
            inner = [b for b in rows[0] if abs(b.x) < 2.5]
            self.assertAlmostEqual(inner[0].width, 0.5 * lean, places=6)
            gaps = [b.x - a.x for a, b in zip(inner, inner[1:], strict=False)]
            self.assertTrue(all(abs(g - 2 * lean) < 1e-6 for g in gaps), gaps)
            self.assertNotEqual([b.x for b in rows[0]], [b.x for b in rows[1]])

    @settings(max_examples=150, deadline=None)
    @given(
        walls=st.integers(0, 30),
        line=st.floats(0.2, 1.2),
        layer=st.floats(0.05, 0.6),
        infill=st.one_of(st.none(), st.floats(0, 1)),
        skins=st.integers(0, 40),
        size=st.tuples(st.floats(1, 40), st.floats(0.3, 20)),
        pattern=st.sampled_from(["", "grid", "gyroid", "concentric", "lines at 90°", "lines at 30°", "三角"]),
    )  # fmt: skip
    def test_no_bead_leaves_the_section_or_lies_on_another(self, walls, line, layer, infill, skins, size, pattern):  # fmt: skip
        values = {
            "layer_height": layer * 1e-3,
            "line_width": line * 1e-3,
            "walls": float(walls),
            "infill": infill,
            "top_layers": float(skins),
            "bottom_layers": float(skins),
        }
        cut = cut_across(values, pattern, *size)
        width, _ = size
        rows: dict[int, list] = {}
        for b in cut.beads:
            self.assertGreaterEqual(b.x - b.width / 2, -width / 2 - 1e-6)
            self.assertLessEqual(b.x + b.width / 2, width / 2 + 1e-6)
            self.assertLessEqual(b.z + b.height, cut.built + 1e-6)
            rows.setdefault(b.layer, []).append((b.x - b.width / 2, b.x + b.width / 2))
        if "grid" not in pattern:
            for row in rows.values():
                row.sort()
                for (_, end), (start, _) in zip(row, row[1:], strict=False):
                    self.assertGreaterEqual(start, end - 1e-6)

    def test_what_does_not_come_out_even_is_said(self):
        self.assertIn(
            "0.05 over", cut_across({**SET, "first_layer_height": 2.5e-4}, "", 10, 4).remarks[0]
        )
        self.assertIn("Only 4 of 9", " ".join(cut_across({**SET, "walls": 9.0}, "", 4, 4).remarks))
        self.assertIsNone(cut_across({"walls": 2.0}, "", 10, 4))
        self.assertIsNone(cut_across({**SET, "layer_height": 0.0}, "", 10, 4))

    def test_only_what_changed_is_lit(self):
        before = cut_across({**SET, "walls": 2.0}, "lines at 0°", 10, 4)
        after = cut_across(SET, "lines at 0°", 10, 4)
        lit = [after.beads[i] for i in after.changed_from(before)]
        self.assertEqual({b.part for b in lit} - {"infill"}, {"wall"})
        self.assertEqual(sum(b.part == "wall" for b in lit), 40)
        self.assertEqual(after.changed_from(after), set())
        self.assertEqual(after.changed_from(None), set())

    def test_angles_in_words(self):
        self.assertEqual(
            [pattern_angle(w) for w in ("±45°", "90 °", "lines", "200°")], [45, 90, 45, 20]
        )


class Trials(unittest.TestCase):
    def test_judged_by_hand(self):
        cases = (
            ("temperature", [(250, 2), (240, 4), (230, 5), (220, 3)], 230, 0),
            ("temperature", [(250, 5), (240, 4), (230, 3)], 250, 1),
            ("pressure_advance", [(0.02, 3), (0.03, 5), (0.04, 5), (0.05, 5), (0.06, 1)], 0.04, 0),
            ("bridge", [(100, 0.5), (60, 0.2), (40, 0.6)], 60, 0),
            ("overhang", [(100, 65), (60, 55), (40, 50)], 100, 1),
            ("temperature", [(250, 5), (240, 2), (230, 5), (220, 1)], 230, 1),
            ("fit", [(0.4, 5), (0.3, 4), (0.2, 3), (0.1, 1)], 0.2, 0),
            ("fit", [(0.3, 1), (0.2, 3), (0.1, 1)], 0.2, 1),
        )
        for key, rows, value, remarks in cases:
            found = judge_trial(TRIALS[key], rows, "")
            self.assertEqual((found.value, len(found.remarks)), (value, remarks), (key, rows))

    def test_nothing_to_tell_is_said(self):
        for key, rows in (
            ("temperature", []),
            ("temperature", [(230, 4)]),
            ("temperature", [(230, 4), (240, 4), (250, 4)]),
            ("temperature", [(230, 4), (230, 5)]),
            ("fit", [(0.1, 1), (0.2, 2)]),
        ):
            with self.assertRaises(InputError):
                judge_trial(TRIALS[key], rows)
        for walls, asked in (([], 0.45), ([0.0], 0.45), ([0.4], 0.0)):
            with self.assertRaises(InputError):
                flow_after(100.0, asked, walls)

    def test_every_trial_steps_a_field_that_is_there(self):
        for trial in TRIALS.values():
            self.assertTrue(set(trial.settings) <= set(FIELDS["filament"]), trial.key)
            tried = suggested_steps(trial, 50.0, trial.settings[0])
            self.assertEqual(tried, sorted(set(tried), reverse=True))
            self.assertTrue(all(t >= 0 for t in tried))

    def test_flow_from_a_wall(self):
        self.assertEqual(flow_after(98.0, 0.45, [0.45]).value, 98.0)
        self.assertEqual(flow_after(100.0, 0.44, [0.40, 0.40]).value, 110.0)
        self.assertEqual(len(flow_after(100.0, 0.45, [0.30, 0.36]).remarks), 2)


class ResinTimes(unittest.TestCase):
    def test_by_hand(self):
        """80 layers of 50 µm; 5 at the plate: 5·(28+1+6+3) + 75·(2.4+1+6+3) = 1120 s."""
        values = {
            "layer_height": 5e-5,
            "exposure": 2.4,
            "bottom_exposure": 28.0,
            "bottom_layers": 5.0,
            "rest_before_exposure": 1.0,
            "lift_distance": 6e-3,
            "lift_speed": 1e-3,
            "retract_speed": 2e-3,
        }
        self.assertAlmostEqual(print_seconds(values, 4e-3), 5 * 38 + 75 * 12.4)
        self.assertAlmostEqual(print_seconds(values, 4.01e-3), 5 * 38 + 76 * 12.4)
        self.assertAlmostEqual(print_seconds({**values, "bottom_layers": 500.0}, 4e-3), 80 * 38)
        self.assertIsNone(print_seconds({**values, "lift_speed": None}, 4e-3))
        self.assertEqual(len(cycle({"exposure": 2.0, "lift_speed": 1e-3}).assumed), 2)


class Blends(unittest.TestCase):
    def test_rule_of_mixtures(self):
        found = blend([Ingredient(0.2, 1000.0, 10.0), Ingredient(0.2, 2000.0, 30.0)])
        self.assertAlmostEqual(found.density, 0.4 / (2e-4 + 1e-4))
        self.assertAlmostEqual(found.price, 8.0)
        self.assertEqual(found.shares, (0.5, 0.5))
        unknown = blend([Ingredient(0.2, None, 10.0), Ingredient(0.2, 2000.0, None)])
        self.assertEqual((unknown.density, unknown.price), (None, None))
        for parts in ([Ingredient(1.0)], [Ingredient(1.0), Ingredient(0.0)], []):
            with self.assertRaises(InputError):
                blend(parts)


class Attempts(unittest.TestCase):
    def test_grades(self):
        cases = (
            ([(1, True)] * 9, 5),
            ([(1, True)] * 4 + [(2, True)], 4),
            ([(1, True), (2, True)], 3),
            ([(2, True), (3, True)], 2),
            ([(4, True)], 1),
            ([(1, False)], 2),
        )
        for attempts, grade in cases:
            self.assertEqual(ease(attempts).grade, grade, attempts)
        self.assertIsNone(ease([]))
        self.assertIsNone(ease([(0, False)]))
