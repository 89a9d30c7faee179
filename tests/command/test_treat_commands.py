"""``moisture``, ``soak``, ``schedule`` and ``particles`` as a script meets them."""

import contextlib
import io
import json
import sys
import tempfile
import unittest
from math import exp
from pathlib import Path
from unittest import mock

from PIL import Image, ImageDraw

from brunt_command import treat
from brunt_core.treatments.diffusion import uptake


class Commands(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, name: str, content: str) -> str:
        path = self.folder / name
        path.write_text(content, "utf-8")
        return str(path)

    def run_it(self, *arguments: str) -> tuple[int, str, str]:
        """Exit code, output and errors of one run, in this process."""
        out, err = io.StringIO(), io.StringIO()
        with (
            mock.patch.object(sys, "argv", ["treat", *arguments]),
            contextlib.redirect_stdout(out),
            contextlib.redirect_stderr(err),
        ):
            code = treat.main()
        return code, out.getvalue(), err.getvalue()

    def record(self, *arguments: str) -> dict:
        code, out, err = self.run_it(*arguments, "--json")
        self.assertEqual((code, err), (0, ""))
        return json.loads(out, parse_constant=lambda name: self.fail(name))

    def refused(self, *arguments: str) -> str:
        code, out, err = self.run_it(*arguments)
        self.assertEqual((code, out), (2, ""))
        self.assertEqual(err.count("\n"), 1)
        return err


class Water(Commands):
    def weighings(self, hours) -> str:
        rows = "".join(
            f"{h},{12.4 * (1 + 0.004 * float(uptake(1e-6 * h * 3600))):.5f}\n" for h in hours
        )
        return self.file("m.csv", "time (h),mass (g)\n" + rows)

    def test_a_series_to_settling(self):
        path = self.weighings((0, 2, 5, 12, 24, 48, 72, 96, 120, 144, 168))
        found = self.record("moisture", path, "--dry", "12.4 g", "--thickness", "4 mm")
        self.assertTrue(found["settled"])
        self.assertAlmostEqual(found["equilibrium_percent"], 0.4, places=3)
        self.assertTrue(found["equilibrium_low"] <= 0.4 <= found["equilibrium_high"])
        self.assertAlmostEqual(found["half_time_hours"], 0.04918268 / 1e-6 / 3600, delta=0.02)
        self.assertAlmostEqual(found["diffusivity_m2_per_s"], 1.6e-11, delta=3e-14)
        self.assertAlmostEqual(found["predicted_settling_hours"], 93.4, delta=0.3)

    def test_early_it_is_open(self):
        found = self.record("moisture", self.weighings((0, 1, 2)))
        self.assertEqual((found["settled"], found["equilibrium_percent"]), (False, None))
        self.assertIn("too few", " ".join(found["remarks"]))

    def test_refusals(self):
        path = self.weighings((0, 5, 12, 24))
        self.assertIn("below the dry mass", self.refused("moisture", path, "--dry", "13 g"))
        self.assertIn("thickness", self.refused("moisture", path, "--thickness", "-4 mm"))
        self.assertIn("thickness", self.refused("moisture", path, "--thickness", "4 kg"))
        self.assertIn("cannot be read", self.refused("moisture", str(self.folder / "none.csv")))
        self.assertIn("no column", self.refused("moisture", self.file("x.csv", "a,b\n1,2\n")))
        self.assertIn(
            "Line 3", self.refused("moisture", self.file("y.csv", "time,mass\n0,1\n1,x\n"))
        )


class Heat(Commands):
    def log(self, minutes) -> str:
        rows = "".join(f"{t};{190 - 168 * exp(-(t - 20) / 46):.2f}\n" for t in minutes)
        return self.file("s.csv", "time min;core degC\n0;22\n" + rows)

    def test_foreseen_and_reached(self):
        found = self.record(
            "soak", self.log((30, 45, 60, 75)), "--set", "190 degC", "--within", "10 K"
        )
        self.assertFalse(found["reached"])
        self.assertAlmostEqual(found["at_minutes"], 149.78, delta=0.1)
        self.assertTrue(found["low"] <= found["at_minutes"] <= found["high"])
        self.assertAlmostEqual(found["time_constant_minutes"], 46, delta=0.05)
        later = self.record(
            "soak", self.log((30, 60, 120, 180)), "--set", "374 degF", "--within", "18 °F"
        )
        self.assertTrue(later["reached"])
        self.assertTrue(120 < later["at_minutes"] < 180)

    def test_it_counts_from_the_first_row_and_not_from_the_clock_of_the_file(self):
        minutes = (0, 30, 45, 60, 75)
        core = [22.0, *(190 - 168 * exp(-(t - 20) / 46) for t in minutes[1:])]
        asked = ("--set", "190 degC", "--within", "10 K")
        found = []
        for shown in (
            lambda t: f"{t}",
            lambda t: f"{t + 25}",
            lambda t: f"{(t + 605) // 60:02d}:{(t + 605) % 60:02d}",
        ):
            rows = "".join(f"{shown(t)};{c:.2f}\n" for t, c in zip(minutes, core, strict=True))
            head = "time;core degC\n" if ":" in shown(0) else "time min;core degC\n"
            found.append(self.record("soak", self.file("s.csv", head + rows), *asked)["at_minutes"])
        self.assertAlmostEqual(found[0], 149.78, delta=0.1)
        for one in found[1:]:
            self.assertAlmostEqual(one, found[0], delta=1e-6)

    def test_refusals_and_too_few(self):
        few = self.record("soak", self.log((30,)), "--set", "190 degC")
        self.assertIsNone(few["at_minutes"])
        self.assertIn("Too few", few["remarks"][0])
        for gap in ("0 K", "-5 K", "wide"):
            self.refused("soak", self.log((30, 45, 60)), "--set", "190", "--within", gap)
        self.assertIn("set", self.refused("soak", self.log((30, 45)), "--set", "hot"))


class Plans(Commands):
    def test_one_is_placed_and_a_knot_is_named(self):
        document = {
            "start": "2026-03-02T08:00",
            "hours": [["08:00", "16:00"]],
            "resources": [{"id": "oven", "capacity": 2}],
            "tasks": [
                {"id": "a", "resource": "oven", "minutes": 60, "temperature": "80 degC"},
                {"id": "b", "resource": "oven", "minutes": 60, "temperature": "90 degC", "due": 60},
            ],
        }
        found = self.record("schedule", self.file("p.json", json.dumps(document)))
        self.assertEqual(found["late"], [])
        self.assertEqual(found["tasks"][1]["start"], "2026-03-02T08:00:00")
        self.assertEqual((found["makespan_minutes"], set(found["why"])), (120, {"a", "b"}))
        document["tasks"][0]["after"] = ["b"]
        document["tasks"][1]["after"] = ["a"]
        knot = self.refused("schedule", self.file("k.json", json.dumps(document)))
        self.assertIn("wait for one another", knot)
        self.assertIn("no JSON", self.refused("schedule", self.file("n.json", "{")))
        code, out, _ = self.run_it(
            "schedule", self.file("e.json", json.dumps({**document, "tasks": []}))
        )
        self.assertEqual((code, "0 min in all" in out), (0, True))


class Flakes(Commands):
    def test_a_picture_and_a_table(self):
        image = Image.new("L", (600, 400), 250)
        draw = ImageDraw.Draw(image)
        for i in range(4):
            draw.rectangle([40 + 140 * i, 100, 89 + 140 * i, 139 + 40 * i], fill=30)
        path = self.folder / "flakes.png"
        image.save(path)
        found = self.record("particles", str(path), "--scale", "0.05 mm", "--over", "5 mm")
        self.assertEqual(found["count"], 4)
        self.assertAlmostEqual(found["areas_mm2"]["max"], 50 * 160 * 0.05**2)
        self.assertEqual(found["share_over"], 0.5)
        table = self.record("particles", self.file("a.csv", "no,area\n1,2.0\n2,4.0\n3,30\n"))
        self.assertEqual((table["count"], table["areas_mm2"]["median"]), (3, 4.0))
        self.assertAlmostEqual(table["share_over"], 1 / 3)

    def test_refusals(self):
        picture = self.file("no.png", "not a picture")
        self.assertIn("no picture", self.refused("particles", picture, "--scale", "0.05 mm"))
        self.assertIn("scale", self.refused("particles", picture))
        self.assertIn("scale", self.refused("particles", picture, "--scale", "0 mm"))
        blank = self.folder / "blank.png"
        Image.new("L", (60, 60), 255).save(blank)
        self.assertIn("stands out", self.refused("particles", str(blank), "--scale", "0.05 mm"))
        self.assertIn("area", self.refused("particles", self.file("a.csv", "no,size\n1,2\n")))
