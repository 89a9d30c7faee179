"""What the dependency audit makes of its tool's answers; and that the tool itself runs here, reached or not."""

import json
import unittest
from unittest.mock import patch

from brunt_command import audit


def told(*rows):
    return json.dumps({"dependencies": list(rows)})


SAFE = {"name": "alpha", "version": "1.0", "vulns": []}
BAD = {
    "name": "beta",
    "version": "2.0",
    "vulns": [{"id": "PYSEC-0", "fix_versions": ["2.1"], "description": "x"}],
}
SKIPPED = {"name": "gamma", "skip_reason": "not found"}


class Judging(unittest.TestCase):
    def test_answers(self):
        for text, code, words in (
            ("", 0, "cannot be reached"),
            ("not json", 0, "cannot be reached"),
            ("[1]", 0, "cannot be reached"),
            (told(SKIPPED), 0, "cannot be reached"),
            (told(SAFE), 0, "1 packages, nothing known"),
            (told(SAFE, SKIPPED), 0, "1 not known there"),
            (
                told(SAFE, BAD),
                1,
                "1 of 2 packages are known to be unsafe. beta 2.0: PYSEC-0; fixed in 2.1",
            ),
        ):
            found = audit.judge(text)
            self.assertEqual(found[0], code, text)
            self.assertIn(words, found[1])

    def test_one_unsafe_lock_fails_the_whole(self):
        with patch.object(audit, "_asked", lambda name: told(BAD if name == "runtime" else SAFE)):
            with patch("builtins.print"):
                self.assertEqual(audit.audit([]), 1)

    def test_every_lock_is_one_the_auditor_reads(self):
        self.assertEqual(
            {p.stem for p in (audit.ROOT / "requirements").glob("*.txt")}, set(audit._LOCKS)
        )
        self.assertTrue((audit.VENV / "bin" / "pip-audit").exists())
