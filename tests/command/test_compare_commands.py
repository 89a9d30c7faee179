"""``./brunt rank``, ``fit``, ``tolerance``, ``trend`` and ``effects`` as a script meets them."""

import io
import json
import subprocess
import sys
import tempfile
import unittest
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import mock

from brunt_command import compare
from brunt_core.statistics.tolerance import normal_factor

ROOT = Path(__file__).resolve().parents[2]
THREE = "".join(f"{m},{v}\n" for m, vs in (("A", (40, 41, 39)), ("B", (60, 61, 59))) for v in vs)
TABLE = "material,MPa\n" + THREE


class Commands(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)

    def file(self, text: str) -> str:
        """A file with this text."""
        path = Path(self.folder.name) / "results.csv"
        path.write_text(text, encoding="utf-8")
        return str(path)

    def run_it(self, *arguments: str) -> tuple[int, str, str]:
        """A command in this process: its code, what it printed, its complaint."""
        out, err = io.StringIO(), io.StringIO()
        with mock.patch.object(sys, "argv", ["brunt", *arguments]):
            with redirect_stdout(out), redirect_stderr(err):
                try:
                    code = compare.main()
                except SystemExit as end:
                    code = int(end.code or 0)
        return code, out.getvalue(), err.getvalue()

    def record(self, *arguments: str):
        """What it prints as JSON; it must be valid."""
        code, out, err = self.run_it(*arguments, "--json")
        self.assertEqual((code, err), (0, ""))
        return json.loads(out, parse_constant=self.fail)

    def refused(self, sentence: str, *arguments: str) -> None:
        code, out, err = self.run_it(*arguments)
        self.assertEqual((code, out), (2, ""), err)
        self.assertIn(sentence, err)
        self.assertEqual(len(err.strip().splitlines()), 1)


class Rank(Commands):
    def rank(self, text: str, *more: str) -> list[dict]:
        """The ranking of a text."""
        return self.record("rank", self.file(text), "--group", "material", "--value", "MPa", *more)

    def test_as_a_process(self):
        """One of them through the real door."""
        command = [sys.executable, "-m", "brunt_command.compare", "rank", self.file(TABLE)]
        done = subprocess.run(
            [*command, "--group", "material", "--value", "MPa", "--json"],
            cwd=ROOT,
            capture_output=True,
            text=True,
        )
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        self.assertEqual(json.loads(done.stdout)[0]["group"], "B")

    def test_rows_in_order_with_all_fields(self):
        rows = self.rank(TABLE, "--reference", "A")
        self.assertEqual([r["group"] for r in rows], ["B", "A"])
        wanted = {
            *("group", "n", "mean", "sd", "cv_percent", "ci_low", "ci_high", "percent_of_best"),
            *("percent_of_reference", "letters", "n_bounded", "estimate", "median", "pairs"),
        }
        self.assertLessEqual(wanted, set(rows[0]))
        self.assertEqual((rows[0]["n"], rows[0]["mean"], rows[0]["sd"]), (3, 60.0, 1.0))
        self.assertAlmostEqual(rows[0]["percent_of_reference"], 150.0)
        self.assertAlmostEqual(rows[1]["percent_of_best"], 66.6666667, places=5)
        self.assertEqual([r["letters"] for r in rows], ["a", "b"])
        self.assertEqual((rows[0]["median"], rows[0]["n_bounded"]), (60, 0))

    def test_pairs_both_ways_and_alike(self):
        text = "material,MPa\n" + "".join(
            f"{m},{v}\n"
            for m, vs in (
                ("A", (50.0, 50.4, 49.8, 50.1)),
                ("B", (50.2, 49.9, 50.3, 50.1)),
                ("C", (30.0, 31.0, 29.5, 30.2)),
            )
            for v in vs
        )
        rows = {r["group"]: r for r in self.rank(text, "--equivalence", "10")}
        pairs = {(p["a"], p["b"]): p for r in rows.values() for p in r["pairs"]}
        self.assertEqual(len(pairs), 6)
        one, other = pairs["A", "C"], pairs["C", "A"]
        self.assertAlmostEqual(one["difference"], -other["difference"])
        self.assertAlmostEqual(one["low"], -other["high"])
        self.assertTrue(one["significant"] and other["significant"])
        self.assertEqual((one["equivalent"], pairs["A", "B"]["equivalent"]), (False, True))
        self.assertFalse(pairs["A", "B"]["significant"])
        self.assertAlmostEqual(one["ratio"], 50.075 / 30.175, places=9)
        self.assertIsNone(self.rank(text)[0]["pairs"][0]["equivalent"])

    def test_decimal_commas_semicolons_and_bounds(self):
        rows = self.rank("material;MPa\nA;40,5\nA;41,5\nB;> 60\nB;> 62\n")
        self.assertEqual([r["group"] for r in rows], ["B", "A"])
        self.assertEqual((rows[0]["estimate"], rows[0]["n_bounded"]), ("lower_bound", 2))
        self.assertIsNone(rows[0]["ci_low"])
        self.assertIsNone(rows[0]["median"])
        self.assertEqual(rows[1]["mean"], 41.0)

    def test_between_and_nothing_known(self):
        rows = self.rank("material,MPa\nA,6..8\nA,7..9\nB,<3\nB,>1\n")
        self.assertEqual((rows[0]["mean"], rows[0]["n_bounded"]), (7.5, 2))
        self.assertEqual((rows[1]["estimate"], rows[1]["mean"]), ("nothing", None))

    def test_a_step_keeps_equal_readings_from_proving_anything(self):
        text = "material,MPa\nA,50\nA,50\nB,51\nB,51\n"
        self.assertFalse(self.rank(text, "--step", "1")[0]["pairs"][0]["significant"])

    def test_lower_is_better_and_plain_table(self):
        path = self.file("material,MPa\nA,3\nA,3.1\nB,1\nB,1.1\n")
        for flag in (["--lower-is-better"], ["--better", "lower"]):
            _, out, _ = self.run_it("rank", path, "--group", "material", "--value", "MPa", *flag)
            self.assertTrue(out.startswith("group"))
            self.assertTrue(out.splitlines()[1].startswith("B"))

    def test_bad_files_and_columns(self):
        good = self.file("material,MPa\nA,1\nA,2\n")
        usual = ("--group", "material", "--value", "MPa")
        for arguments, sentence in (
            ((good, "--group", "colour", "--value", "MPa"), "no column “colour”"),
            ((good, "--group", "material", "--value", "psi"), "no column “psi”"),
            ((good, *usual, "--reference", "Z"), "not one of"),
            (("/nowhere.csv", "--group", "a", "--value", "b"), "cannot be read"),
            ((good, *usual, "--confidence", "7"), "between 0 and 1"),
            ((good, *usual, "--equivalence", "200"), "between 0 and 100 %"),
            ((good, *usual, "--step", "-1"), "less than zero"),
        ):
            with self.subTest(sentence):
                self.refused(sentence, "rank", *arguments)
        self.refused("line 3", "rank", self.file("material,MPa\nA,1\nA,soon\n"), *usual)
        self.refused("holds no values", "rank", self.file("material,MPa\nA,\n"), *usual)
        self.refused("lower bound (9)", "rank", self.file("material,MPa\nA,9..8\n"), *usual)


class Fitted(Commands):
    HOURS = "hours\n" + "\n".join(map(str, (3, 5, 7, 18, 43, 85, 91, 98, 100, 130, 230, 487)))

    def test_weibull(self):
        """Air-conditioning histories of the package boot: 0.793944 and 94.96490."""
        path = self.file(self.HOURS)
        found = self.record("fit", path, "--value", "hours", "--distribution", "weibull")
        self.assertAlmostEqual(found["parameters"]["shape"], 0.793944, places=5)
        self.assertAlmostEqual(found["parameters"]["scale"], 94.96490, places=3)
        self.assertTrue(found["median_low"] < found["median"] < found["median_high"])
        self.assertEqual((found["n"], found["n_bounded"]), (12, 0))

    def test_with_bounds_and_in_words(self):
        path = self.file("MPa\n50\n52\n51\n>49\n>53\n6..60\n")
        found = self.record("fit", path, "--value", "MPa", "--distribution", "normal")
        self.assertEqual((found["n"], found["n_bounded"]), (6, 3))
        code, out, _ = self.run_it("fit", path, "--value", "MPa")
        self.assertEqual(code, 0)
        self.assertIn("median:", out)

    def test_refusals(self):
        self.refused("All readings are equal", "fit", self.file("MPa\n5\n5\n"), "--value", "MPa")
        code, _, err = self.run_it(
            "fit", self.file("MPa\n5\n"), "--value", "MPa", "--distribution", "x"
        )
        self.assertEqual(code, 2)
        self.assertIn("invalid choice", err)

    def test_tolerance(self):
        path = self.file("MPa\n" + "\n".join(str(v) for v in (48, 49, 50, 51, 52)))
        found = self.record("tolerance", path, "--value", "MPa", "--coverage", "0.99")
        self.assertAlmostEqual(found["k"], normal_factor(5, 0.99, 0.95))
        self.assertAlmostEqual(found["lower"], 50 - found["k"] * 2.5**0.5)
        self.assertEqual((found["n"], found["needed"], found["distribution_free"]), (5, 299, None))
        self.refused("coverage lies", "tolerance", path, "--value", "MPa", "--coverage", "1.5")
        self.refused("two readings", "tolerance", self.file("MPa\n5\n"), "--value", "MPa")


class OverSettings(Commands):
    def test_trend(self):
        rows = [
            (s, 40 - 0.005 * (s - 215) ** 2 + d)
            for s in (180, 200, 220, 240)
            for d in (-0.3, 0.1, 0.25)
        ]
        path = self.file("t;MPa\n" + "".join(f"{s};{v}\n" for s, v in rows))
        found = self.record("trend", path, "--setting", "t", "--value", "MPa")
        self.assertEqual((found["model"], len(found["coefficients"])), ("curved", 3))
        self.assertAlmostEqual(found["optimum"]["value"], 215, delta=1)
        self.assertTrue(found["optimum"]["low"] < 215 < found["optimum"]["high"])
        self.assertEqual(found["odd"], [])
        self.assertGreater(found["lack_of_fit_p"], 0.05)
        held = self.file("t,MPa\n1,10\n1,11\n2,>20\n2,19\n3,28..32\n3,31\n")
        found = self.record("trend", held, "--setting", "t", "--value", "MPa")
        self.assertEqual((found["n"], found["n_bounded"]), (6, 2))
        self.assertIn("used at their bound", found["remarks"][-1])
        usual = (path, "--value", "MPa")
        self.refused("no column “x”", "trend", *usual, "--setting", "x")
        self.refused(
            "line 2", "trend", self.file("t,MPa\nhot,5\n"), "--setting", "t", "--value", "MPa"
        )
        self.refused("two settings", "trend", self.file("t,MPa\n1,5\n1,6\n1,7\n"), "--setting", "t", "--value", "MPa")  # fmt: skip

    def test_effects(self):
        rows = [
            f"{a},{b},{10 * (a == '2') + 4 * (b == 'y') + e}"
            for a in "12"
            for b in "xy"
            for e in (0, 1)
        ]
        path = self.file("A,B,MPa\n" + "\n".join(rows))
        found = self.record("effects", path, "--factor", "A", "--factor", "B", "--value", "MPa")
        self.assertEqual([t["term"] for t in found["terms"]], ["A", "B", "A:B"])
        self.assertAlmostEqual(found["terms"][0]["F"], 400.0)
        self.assertEqual([v["level"] for v in found["terms"][0]["levels"]], ["1", "2"])
        self.assertAlmostEqual(found["residual_sd"], 0.5**0.5)
        self.assertIn("type II", found["method"])
        self.refused("twice or more", "effects", path, "--factor", "A", "--value", "MPa")
        self.refused(
            "no column", "effects", path, "--factor", "A", "--factor", "Z", "--value", "MPa"
        )
