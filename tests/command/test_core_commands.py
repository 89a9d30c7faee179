"""``./brunt compute`` and ``./brunt rank`` as a script or notebook meets them."""

import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from brunt_core.methods.registry import methods

ROOT = Path(__file__).resolve().parents[2]


def run(*arguments: str) -> subprocess.CompletedProcess:
    """One run of the core's command line."""
    command = [sys.executable, "-m", "brunt_command.core", *arguments]
    return subprocess.run(command, cwd=ROOT, capture_output=True, text=True)


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


class Rank(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)

    def file(self, text: str) -> str:
        """A file with this text."""
        path = Path(self.folder.name) / "results.csv"
        path.write_text(text, encoding="utf-8")
        return str(path)

    def rank(self, text: str, *more: str) -> list[dict]:
        """The ranking of a text as JSON."""
        done = run(
            "rank", self.file(text), "--group", "material", "--value", "MPa", *more, "--json"
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        return json.loads(done.stdout)

    def test_rows_in_order_with_all_fields(self):
        text = "material,MPa\n" + "".join(
            f"{m},{v}\n" for m, vs in (("A", (40, 41, 39)), ("B", (60, 61, 59))) for v in vs
        )
        rows = self.rank(text, "--reference", "A")
        self.assertEqual([r["group"] for r in rows], ["B", "A"])
        wanted = {
            "group",
            "n",
            "mean",
            "sd",
            "cv_percent",
            "ci_low",
            "ci_high",
            "percent_of_best",
            "percent_of_reference",
            "letters",
        }
        self.assertLessEqual(wanted, set(rows[0]))
        self.assertEqual((rows[0]["n"], rows[0]["mean"], rows[0]["sd"]), (3, 60.0, 1.0))
        self.assertAlmostEqual(rows[0]["percent_of_reference"], 150.0)
        self.assertAlmostEqual(rows[1]["percent_of_best"], 66.6666667, places=5)
        self.assertEqual([r["letters"] for r in rows], ["a", "b"])

    def test_decimal_commas_semicolons_and_bounds(self):
        rows = self.rank("material;MPa\nA;40,5\nA;41,5\nB;> 60\nB;> 62\n")
        self.assertEqual([r["group"] for r in rows], ["B", "A"])
        self.assertEqual(rows[0]["estimate"], "lower_bound")
        self.assertIsNone(rows[0]["ci_low"])
        self.assertEqual(rows[1]["mean"], 41.0)

    def test_lower_is_better_and_plain_table(self):
        path = self.file("material,MPa\nA,3\nA,3.1\nB,1\nB,1.1\n")
        done = run("rank", path, "--group", "material", "--value", "MPa", "--lower-is-better")
        lines = done.stdout.splitlines()
        self.assertTrue(lines[0].startswith("group"))
        self.assertTrue(lines[1].startswith("B"))

    def test_bad_files_and_columns(self):
        good = self.file("material,MPa\nA,1\nA,2\n")
        for arguments, sentence in (
            ((good, "--group", "colour", "--value", "MPa"), "no column “colour”"),
            ((good, "--group", "material", "--value", "psi"), "no column “psi”"),
            ((good, "--group", "material", "--value", "MPa", "--reference", "Z"), "not one of"),
            (("/nowhere.csv", "--group", "a", "--value", "b"), "cannot be read"),
            (
                (good, "--group", "material", "--value", "MPa", "--confidence", "7"),
                "between 0 and 1",
            ),
        ):
            with self.subTest(sentence):
                done = run("rank", *arguments)
                self.assertEqual(done.returncode, 2)
                self.assertIn(sentence, done.stderr)
        broken = self.file("material,MPa\nA,1\nA,soon\n")
        done = run("rank", broken, "--group", "material", "--value", "MPa")
        self.assertIn("line 3", done.stderr)
        empty = self.file("material,MPa\nA,\n")
        self.assertEqual(run("rank", empty, "--group", "material", "--value", "MPa").returncode, 2)


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
