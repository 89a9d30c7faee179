"""``./brunt compute`` and ``./brunt mass`` as a script or notebook meets them."""

import json
import subprocess
import sys
import unittest
from pathlib import Path

from brunt_core.methods.registry import methods

ROOT = Path(__file__).resolve().parents[2]


def run(*arguments: str) -> subprocess.CompletedProcess:
    """One run of the core's command line."""
    command = [sys.executable, "-m", "brunt_command.core", *arguments]
    return subprocess.run(command, cwd=ROOT, capture_output=True, text=True)


class Ended(unittest.TestCase):
    def test_a_reader_that_has_seen_enough_is_no_error(self):
        command = [sys.executable, "-m", "brunt_command", "help"]
        with subprocess.Popen(command, cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as one:  # fmt: skip
            one.stdout.close()
            self.assertEqual((one.stderr.read(), one.wait(30)), (b"", 141))


class Compute(unittest.TestCase):
    def test_json_of_a_computation(self):
        done = run("compute", "tension", "force=2.4 kN", "width=10 mm", "thickness=4 mm", "--json")
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        record = json.loads(done.stdout)
        self.assertEqual(record["method"], "tension")
        self.assertEqual(record["warnings"], [])
        result = record["results"][0]
        self.assertEqual(
            {k: result[k] for k in ("property", "value", "unit", "bound")},
            {"property": "tensile_strength", "value": 60.0, "unit": "MPa", "bound": "exact"},
        )
        self.assertGreater(result["uncertainty"], 0)
        self.assertIn("2400 N / 40.00 mm²", result["working"])

    def test_layer_adhesion_has_its_own_property(self):
        done = run("compute", "layer-adhesion", "force=131 lbf", "diameter=6 mm", "--json")
        result = json.loads(done.stdout)["results"][0]
        self.assertEqual(result["property"], "layer_adhesion_strength")

    def test_bounds_in_json(self):
        for force, bound, lower, upper in (
            ("> 2.4 kN", "at_least", 60.0, None),
            ("< 2.4 kN", "at_most", None, 60.0),
            ("2 .. 2.4 kN", "between", 50.0, 60.0),
        ):
            done = run("compute", "tension", f"force={force}", "width=10", "thickness=4", "--json")
            result = json.loads(done.stdout)["results"][0]
            self.assertEqual(
                (result["bound"], result["lower"], result["upper"]), (bound, lower, upper)
            )

    def test_spoken_form_shows_the_working_and_the_note(self):
        done = run("compute", "tension", "force=58.4 kg", "width=5", "thickness=2")
        for text in ("57.27", "±", "A = b · h", "σ = F / A", "source:", "kilogram-force"):
            self.assertIn(text, done.stdout)

    def test_list_names_every_method_with_its_inputs(self):
        listed = json.loads(run("compute", "--list", "--json").stdout)
        self.assertEqual([m["method"] for m in listed], list(methods()))
        self.assertIn("force", [i["name"] for i in listed[0]["inputs"]])
        self.assertIn("layer-adhesion", run("compute", "--list").stdout)

    def test_bad_input_is_code_two_and_one_sentence_naming_the_field(self):
        for arguments, named in (
            (("tension", "width=10", "thickness=4"), "load"),
            (("tension", "force=abc", "width=10", "thickness=4"), "force"),
            (("tension", "force=24 psi", "width=10", "thickness=4"), "force"),
            (("tension", "force=5 N", "width=10"), "thickness"),
            (("tension", "force=5 N", "width=-1", "thickness=4"), "width"),
            (("tension", "force=5 N", "colour=red"), "colour"),
            (("tension", "force"), "NAME=VALUE"),
            (("levitation", "force=5 N"), "levitation"),
            (("tension", "force=1,250", "width=10", "thickness=4"), "1250"),
        ):
            with self.subTest(arguments):
                done = run("compute", *arguments)
                self.assertEqual((done.returncode, done.stdout), (2, ""))
                self.assertEqual(len(done.stderr.strip().splitlines()), 1)
                self.assertIn(named, done.stderr)


class Mass(unittest.TestCase):
    """A bar of 80 × 10 × 4 mm: shell and core are boxes, so that the sum can be done by hand."""

    given = ("--type", "bend-80", "--density", "1.24 g/cm^3", "--walls", "3", "--line-width", "0.45 mm",
             "--layer-height", "0.2 mm", "--top", "4", "--bottom", "4")  # fmt: skip

    def test_shell_and_core_by_hand(self):
        done = run("mass", *self.given, "--infill", "20 %", "--json")
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        record = json.loads(done.stdout)
        core = (80 - 2 * 1.35) * (10 - 2 * 1.35) * (4 - 2 * 0.8)
        self.assertEqual(set(record), {"mass", "solid_mass"})
        self.assertAlmostEqual(record["solid_mass"], 3200 * 1.24e-3, places=6)
        self.assertAlmostEqual(record["mass"], (3200 - 0.8 * core) * 1.24e-3, places=6)

    def test_full_of_infill_is_solid_and_nonsense_is_one_sentence(self):
        record = json.loads(run("mass", *self.given, "--infill", "100 %", "--json").stdout)
        self.assertAlmostEqual(record["mass"], record["solid_mass"], places=9)
        for wrong in (("--infill", "120 %"), ("--infill", "some"), ("--infill", "-5 %")):
            done = run("mass", *self.given, *wrong)
            self.assertEqual(done.returncode, 2, wrong)
            self.assertEqual(done.stderr.strip().count("\n"), 0)
            self.assertNotIn("Traceback", done.stderr)
