"""Six files of unlike dialect, made up for this test: what each says is known beforehand, and must be read."""

import unittest

from brunt_core.errors import InputError
from brunt_core.printing.gcode import read_gcode
from brunt_core.printing.gcode_comments import said_in, seconds_in
from brunt_core.printing.recipes import FIELDS, read_setting


def moves(layers=12, height=0.2, feed=3600, relative=True, start=0.0):
    """Plain extruding moves, one line out and one back a layer."""
    lines, e = [], start
    for k in range(layers):
        lines.append(f"G1 Z{height * (k + 1):.3f} F900")
        for x in (100, 10):
            e = 1.5 if relative else e + 1.5
            lines.append(f"G1 X{x} Y{20 + k} E{e:.4f} F{feed}")
    return lines


WANTED = {
    "nozzle_temperature": 238.0, "bed_temperature": 68.0, "layer_height": 0.2, "line_width": 0.45,
    "walls": 4.0, "infill": 35.0, "infill_pattern": "gyroid", "cooling": 80.0, "speed": 60.0,
}  # fmt: skip

TAIL_EQUALS = [
    "; estimated printing time (normal mode) = 1h 23m 5s", "; estimated printing time (silent mode) = 1h 40m 0s",
    "; estimated first layer printing time (normal mode) = 2m 0s",
    "G28", "M140 S72", "M190 S72", "M109 S240", "M83", "M106 S0", "M572 D0 S0.045",
    "G1 X5 Y5 E2 F1200", "M104 S238", "M140 S68", "M106 S204", *moves(),
    "M107", "M141 S0", "M104 S0", "M140 S0", "M106 P2 S255",
    "; filament used [mm] = 36.0", "; filament used [g] = 11.42", "; total filament used for wipe tower [g] = 0.00",
    "; layer_height = 0.2", "; first_layer_height = 0.28", "; extrusion_width = 0.45", "; perimeters = 4", "; fill_density = 35%",
    "; fill_pattern = gyroid", "; max_fan_speed = 80", "; min_fan_speed = 35", "; temperature = 238,238", "; first_layer_temperature = 245",
    "; bed_temperature = 68", "; extrusion_multiplier = 0.97", "; print_speed = 60", "; chamber_temperature = 0",
]  # fmt: skip
HEAD_COLONS = [
    ";DIALECT:made up", ";TIME:4985", ";Filament used: 0.036m", ";Layer height: 0.2", ";MINX:10", ";Line Width: 0.45mm",
    ";Wall Count: 4", ";Infill Density: 35%", ";Infill Pattern: Gyroid", ";Flow: 97%", ";Speed print: 60mm/s",
    ";Material print temperature: 238", ";Bed temperature: 68", "M82", "G92 E0", "M109 S238", "M190 S68",
    "M106 S204", *moves(relative=False), "M107", "M106 P1 S64", ";TIME_ELAPSED:4985.0", "M104 S0",
]  # fmt: skip
COMMA_PAIRS = [
    "; made up, with a comma between name and value",
    ";   layerHeight,0.2", ";   extrusionWidth,0.45", ";   perimeterOutlines,4", ";   wallCount,4", ";   fillDensity,35",
    ";   infillPattern,Gyroid", ";   extrusionMultiplier,0.97", ";   defaultSpeed,3600", ";   nozzleDiameter,0.4",
    ";   maxFanSpeed,80", ";   nozzleTemperature,238", ";   bedTemperature,68", "G90", "M82", "M106 S51", "G92 E0",
    *moves(relative=False), "M107", ";   Build time: 1 hour 23 minutes", ";   Plastic weight: 11.42 g (0.03 lb)", ";   Filament length: 36.0 mm",
]  # fmt: skip
MANY_IN_A_LINE = [
    "; model printing time: 1h 18m 5s; total estimated time: 1h 23m 5s",
    "; layer_height = 0.2, line_width = 0.45, walls = 4", "; sparse_infill_density = 35%", "; sparse_infill_pattern = gyroid",
    "; nozzle_temperature = 238,240", "; nozzle_temperature_initial_layer = 245", "; hot_plate_temp = 68", "; fan_max_speed = 80,80", "; fan_min_speed = 40,40",
    "; filament_flow_ratio = 0.97", "; print_speed = 60", "; pressure_advance = 0.045", "; total filament weight [g] : 11.42",
    "; start printing object, unique label id: 3", "M486 S0", "M83", "EXCLUDE_OBJECT_START NAME=K7_3HD", *moves(),
    "EXCLUDE_OBJECT_END NAME=K7_3HD", "EXCLUDE_OBJECT_START NAME=A2_229", *moves(), "M106 S0", "M104 S0",
]  # fmt: skip
ONLY_COMMANDS = [
    "PRINT_START BED=68 EXTRUDER=238 CHAMBER=0", "SET_PRESSURE_ADVANCE ADVANCE=0.045", "M73 P0 R83", "M83", "M221 S97",
    "M106 S0.8", *moves(), "G2 X100 Y40 I45 J0 E9 F3600", "M73 P100 R0", "M106 S1.0", "M107", "TURN_OFF_HEATERS",
    "; filament_diameter: 1.75", "; filament_density: 1.24",
]  # fmt: skip
NUMBERED_INCHES = [
    "N10 G20", "N20 M104 S238 T0", "N30 M104 S200 T1", "N40 M140 R68", "N50 M83", "N60 M900 K0.045", "N70 M106 P0 S204", "N75 M106 P1 S255",
    *(f"N{100 + 2 * k} G1 Z{0.2 / 25.4 * (k + 1):.6f}\nN{101 + 2 * k} G1 X{4 if k % 2 else 0} Y0 E0.05 F{3600 / 25.4:.6f}" for k in range(12)),
    "; printing time: 1:23:05", "; walls: 4", "; infill: 0.35", "; fill pattern: Gyroid",
]  # fmt: skip


def read(lines):
    return read_gcode("\n".join(lines).splitlines())


class Dialects(unittest.TestCase):
    def values(self, facts):
        return {k: f.value for k, f in facts.settings.items()}

    def check(self, facts, without=(), **more):
        found = self.values(facts)
        for key, value in {**WANTED, **more}.items():
            if key not in without:
                with self.subTest(key):
                    if isinstance(value, str):
                        self.assertEqual(found.get(key), value)
                    else:
                        self.assertAlmostEqual(found.get(key, -1), value, places=3)

    def test_settings_at_the_tail(self):
        facts = read(TAIL_EQUALS)
        self.check(facts, flow=97.0, pressure_advance=0.045)
        self.assertEqual((facts.seconds, facts.filament_g.value), (4985, 11.42))
        self.assertNotIn("chamber_temperature", facts.settings)

    def test_settings_at_the_head(self):
        facts = read(HEAD_COLONS)
        self.check(facts, flow=97.0)
        self.assertEqual(facts.seconds, 4985)
        self.assertAlmostEqual(facts.filament_m, 0.036)

    def test_commas_between(self):
        facts = read(COMMA_PAIRS)
        self.check(facts, flow=97.0, nozzle_size=0.4)
        self.assertEqual((facts.seconds, facts.filament_g.value), (4980, 11.42))

    def test_many_in_a_line_and_objects(self):
        facts = read(MANY_IN_A_LINE)
        self.check(facts, flow=97.0, pressure_advance=0.045)
        self.assertEqual((facts.seconds, facts.filament_g.value), (4985, 11.42))
        self.assertEqual(facts.objects, ["K7_3HD", "A2_229"])

    def test_only_commands(self):
        facts = read(ONLY_COMMANDS)
        self.check(facts, ("line_width", "walls", "infill", "infill_pattern"), flow=97.0, pressure_advance=0.045)  # fmt: skip
        self.assertEqual(facts.seconds, 4980)
        # 24 moves of 1.5 mm and an arc of 9: 45 mm · π 1.75² / 4 · 1.24 g/cm³
        self.assertAlmostEqual(facts.filament_g.value, 45 * 2.405282 * 1.24 / 1000, places=5)

    def test_numbered_and_in_inches(self):
        facts = read(NUMBERED_INCHES)
        self.check(facts, ("line_width",), pressure_advance=0.045)
        self.assertEqual(facts.seconds, 4985)
        self.assertAlmostEqual(facts.filament_m, 12 * 0.05 * 25.4 / 1000, places=9)

    def test_every_dialect_fills_a_recipe(self):
        for lines in (TAIL_EQUALS, HEAD_COLONS, COMMA_PAIRS, MANY_IN_A_LINE, ONLY_COMMANDS, NUMBERED_INCHES):  # fmt: skip
            for fact in read(lines).settings.values():
                if fact.key in FIELDS["filament"]:
                    self.assertTrue(read_setting("filament", fact.key, fact.text).shown, fact)
                self.assertTrue(fact.line is None or fact.line >= 1)

    def test_what_is_set_at_the_end_or_before_the_start_is_no_setting(self):
        facts = read(["M106 S255", "M104 S245", "M104 S238", "M106 S102", "M83", *moves(), "M106 S255", "M104 S0"])  # fmt: skip
        found = self.values(facts)
        self.assertEqual((found["cooling"], found["nozzle_temperature"]), (40.0, 238.0))

    def test_the_value_most_was_extruded_under(self):
        lines = ["M83", "M106 S0", "M104 S250", *moves(2), "M106 S255", "M104 S230", *moves(10)]
        found = self.values(read(lines))
        self.assertEqual((found["cooling"], found["nozzle_temperature"]), (100.0, 230.0))

    def test_length_of_an_arc(self):
        """A half circle of radius 45 is π · 45; by its centre and by its radius."""
        for words in ("I45 J0", "R45"):
            lines = ["M83", "G1 X10 Y40 F600", f"G2 X100 Y40 {words} E9 F2400", "G1 X240 Y40 E1 F3000", "G1 X10 Y41"]  # fmt: skip
            # 141.4 mm of the arc beat 140 mm straight only if the arc is measured along itself.
            self.assertEqual(self.values(read(lines))["speed"], 40.0, words)

    def test_times_in_words(self):
        for text, seconds in (("1d 2h 3m", 93780), ("83 min", 4980), ("1 hr 23 mins 5 secs", 4985), ("0:45", 2700), ("soon", None), ("", None)):  # fmt: skip
            self.assertEqual(seconds_in(text), seconds, text)

    def test_what_is_no_setting(self):
        for line in (
            "; TYPE:Outer wall", "; first layer height: 0.3", "; walls: many", "; line_width = 112%", "; infill",
            ";LAYER:3", "; total time silent mode: 3h", "; = 3", "; walls = 1e999",
        ):  # fmt: skip
            self.assertEqual([s.key for s in said_in(line)], [], line)

    def test_noise_never_breaks_it(self):
        for line in (
            "G1 X E", "G1 Xnan E1", "M106 S", "M104 S1e400", "G2 I J", "M221", "; a = b = c",
            "SET_PRESSURE_ADVANCE ADVANCE=x", "G1 X--5", "M572",
        ):  # fmt: skip
            read(["M83", line, *moves(2)])
        with self.assertRaises(InputError):
            read(["nothing"] * 9)
