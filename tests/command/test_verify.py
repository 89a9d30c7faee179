"""``verify``: the simulation runs, repeats itself, and says so in figures that can be read."""

import io
import json
import unittest
from contextlib import redirect_stdout
from unittest.mock import patch

from tools.verify import coverage as verify


def told(*arguments: str) -> str:
    out = io.StringIO()
    with patch("sys.argv", ["verify", *arguments]), redirect_stdout(out):
        verify.main()
    return out.getvalue()


class Verify(unittest.TestCase):
    def test_says_the_same_twice_and_is_valid(self):
        asked = ("--runs", "4", "--only", "n  3, equal variation, normal, 0% held", "--json")
        first, second = json.loads(told(*asked)), json.loads(told(*asked))
        self.assertEqual(first, second)
        self.assertEqual(first["runs"], 4)
        for row in first["rows"]:
            for column in verify.COLUMNS:
                self.assertTrue(row[column] is None or 0 <= row[column] <= 1, row)

    def test_every_case_is_drawn_as_it_says(self):
        """Means and shares of many draws against what the case names; NumPy's own generator."""
        import numpy as np

        for case in verify.cases():
            if case.n < 10 or case.rounded:
                continue
            random, values, held = np.random.default_rng(2), [], 0
            for _ in range(200):
                for group in verify.draw(case, random).values():
                    held += sum(not o.is_exact for o in group)
                    values += [o.anchor for o in group]
            with self.subTest(case.words):
                self.assertAlmostEqual(held / len(values), case.held, delta=0.02)
                if not case.held:
                    self.assertAlmostEqual(float(np.mean(values)), verify.MEAN, delta=0.3)

    def test_further_claims_hold(self):
        """Few runs: shares that are shares, and none of the 95s far below."""
        found = json.loads(told("--runs", "40", "--only", "further", "--json"))
        self.assertEqual(found["rows"], [])
        self.assertGreater(len(found["further"]), 15)
        for claim in found["further"]:
            with self.subTest(claim["words"]):
                self.assertTrue(0 <= claim["seen"] <= 1)
                if claim["claimed"] == "95 %":
                    self.assertGreaterEqual(claim["seen"], 0.8)
                elif claim["claimed"] != "–":
                    self.assertLessEqual(claim["seen"], 0.2)

    def test_no_interval_no_claim(self):
        """Two of each, never significantly different: no headline names a lead, so none can be wrong."""
        text = told("--runs", "3", "--only", "n  2, equal variation, normal, 0% held, as read")
        self.assertIn("–", text)
        self.assertIn("3 runs a case", text)
