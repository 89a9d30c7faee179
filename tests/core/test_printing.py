"""Recipes, G-code, plates, checks, estimates, confounders."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from brunt_core.errors import InputError
from brunt_core.planning.confounders import find_confounders
from brunt_core.planning.estimates import Demand, estimate
from brunt_core.planning.shapes import SHAPES
from brunt_core.printing.checks import damp, deviations, light
from brunt_core.printing.gcode import read_gcode
from brunt_core.printing.plates import Piece, fill_plates
from brunt_core.printing.recipes import FIELDS, read_setting, unlikely

FILE = [
    "; layer_height = 0.25",
    "; fill density: 40%",
    "; estimated printing time = 1h 20m 5s",
    "M140 S70",
    "M109 S235",
    "M106 S127",
    "M83",
    "G92 E0",
]
FILE += [
    f"G1 Z{0.25 * (k + 1):.2f} F600\nG1 X{10 + 90 * (k % 2)} Y10 E0.5 F3000" for k in range(30)
]


class Gcode(unittest.TestCase):
    def test_what_it_reveals_and_from_where(self):
        facts = read_gcode("\n".join(FILE).splitlines())
        found = {k: f.text for k, f in facts.settings.items()}
        self.assertEqual(
            {
                k: found[k]
                for k in (
                    "layer_height",
                    "infill",
                    "nozzle_temperature",
                    "bed_temperature",
                    "cooling",
                    "speed",
                )
            },
            {
                "layer_height": "0.25 mm",
                "infill": "40 %",
                "nozzle_temperature": "235 °C",
                "bed_temperature": "70 °C",
                "cooling": "50 %",
                "speed": "50 mm/s",
            },
        )
        self.assertIn("line 1, comment", facts.settings["layer_height"].where)
        self.assertIn("command M109", facts.settings["nozzle_temperature"].where)
        self.assertAlmostEqual(facts.filament_m, 30 * 0.5 / 1000)
        self.assertEqual(facts.seconds, 4805)

    def test_absolute_extrusion_and_height_from_moves(self):
        lines = ["M82", "G1 Z0.2 F900"] + [
            x
            for k in range(1, 6)
            for x in (f"G1 X{k * 10} E{k} F2400", f"G1 Z{0.2 + k * 0.2:.1f}", f"G1 X0 E{k + 0.5}")
        ]
        facts = read_gcode(lines)
        self.assertEqual(facts.settings["layer_height"].text, "0.2 mm")
        self.assertAlmostEqual(facts.filament_m, 5.5 / 1000)

    def test_not_gcode(self):
        for lines in (
            ["hello world"] * 50,
            [],
            ["<html>", "<p>M104</p>"],
            ["\0binary"],
            ["; only a comment"],
        ):
            with self.assertRaises(InputError):
                read_gcode(lines)

    def test_streams(self):
        """A generator of a million lines is read without being held."""
        lines = (f"G1 X{i % 200} Y5 E0.01 F3000" for i in range(200_000))
        self.assertEqual(read_gcode(lines).lines, 200_000)


class Recipes(unittest.TestCase):
    def test_every_field_takes_its_own_unit_and_refuses_nonsense(self):
        for kind, fields in FIELDS.items():
            for key, field in fields.items():
                if field.dimension == "text":
                    continue
                middle = (field.least + field.most) / 2
                self.assertTrue(read_setting(kind, key, f"{middle:g} {field.unit}").shown)
                for wrong in ("soon", f"{field.most * 10 + 1:g}", "12 flurbs"):
                    with self.assertRaises(InputError) as caught:
                        read_setting(kind, key, wrong)
                    self.assertEqual(caught.exception.field, key)

    def test_family_ranges(self):
        self.assertEqual(unlikely("filament", "pla", {"nozzle_temperature": 273.15 + 210}), [])
        self.assertEqual(
            len(
                unlikely(
                    "filament",
                    "pc",
                    {"nozzle_temperature": 273.15 + 200, "bed_temperature": 273.15 + 20},
                )
            ),
            2,
        )


class Plates(unittest.TestCase):
    @given(
        st.lists(
            st.tuples(st.sampled_from("ABC"), st.floats(5, 60), st.floats(5, 60)),
            min_size=1,
            max_size=40,
        ),
        st.integers(0, 99),
    )
    def test_nothing_overlaps_or_leaves_the_bed(self, drawn, seed):
        pieces = [Piece(str(i), g, w, d) for i, (g, w, d) in enumerate(drawn)]
        placed = {p.name: p for p in fill_plates(pieces, (150, 150), 3, seed)}
        self.assertEqual(len(placed), len(pieces))
        boxes = [
            (placed[p.name].plate, placed[p.name].x, placed[p.name].y, p.width, p.depth)
            for p in pieces
        ]
        for i, (n, x, y, w, d) in enumerate(boxes):
            self.assertTrue(x >= 0 and y >= 0 and x + w <= 150 and y + d <= 150)
            for m, u, v, a, b in boxes[:i]:
                self.assertTrue(
                    n != m
                    or x + w <= u + 1e-9
                    or u + a <= x + 1e-9
                    or y + d <= v + 1e-9
                    or v + b <= y + 1e-9
                )

    def test_every_plate_carries_every_condition(self):
        pieces = [Piece(f"{g}{i}", g, 20, 70) for g in "ABCD" for i in range(8)]
        placed = fill_plates(pieces, (220, 160), 5, 1)
        for plate in {p.plate for p in placed[:-1]}:
            self.assertEqual({p.name[0] for p in placed if p.plate == plate}, set("ABCD"))

    def test_too_large(self):
        with self.assertRaisesRegex(InputError, "leaves"):
            fill_plates([Piece("a", "A", 300, 10)], (220, 220), 5, 1)


class Costs(unittest.TestCase):
    def test_unknown_is_never_zero(self):
        e = estimate(
            [
                Demand("PLA", 5, 1000, "tension", density=1240),
                Demand("X", 5, 1000, "tension", density=None, price=3),
            ]
        )
        self.assertIsNone(e.price)
        self.assertIsNone(e.print_hours)
        self.assertIsNone(e.needs[1].grams)
        self.assertEqual(len(e.unknown), 3)

    def test_checks(self):
        self.assertTrue(deviations({"width": 6.0}, {"width": 5.0})[0].too_far)
        self.assertIn("over-extrusion", light(1.2e-3, 0.8e-6, 1240))
        self.assertEqual(light(0.97e-3, 0.8e-6, 1240), "")
        self.assertEqual(damp("pla", 9999), "")
        self.assertIn("no drying", damp("pa6", None))

    def test_confounders(self):
        facts = {
            "A": {"walls": "4", "lot": "1", "colour": ""},
            "B": {"walls": "2", "lot": "2", "colour": "red"},
        }
        self.assertEqual(
            [c.key for c in find_confounders(facts, ["material"], {"lot": "material"})], ["walls"]
        )
        self.assertEqual([c.key for c in find_confounders(facts, ["x"])], ["walls", "lot"])

    def test_thirteen_shapes(self):
        self.assertEqual(len(SHAPES), 13)
        for shape in SHAPES.values():
            self.assertTrue(shape.reason and shape.factors and shape.held)
