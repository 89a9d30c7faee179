"""Guards: the house stays as it is meant to be."""

import ast
import filecmp
import re
import shutil
import subprocess
import sys
import tempfile
import unittest
from io import StringIO
from pathlib import Path

from django.core.management import call_command
from django.test import TestCase

from brunt_core.methods.registry import methods
from brunt_core.properties import PROPERTIES

ROOT = Path(__file__).resolve().parents[2]


def run(*command: str) -> subprocess.CompletedProcess:
    return subprocess.run(command, cwd=ROOT, capture_output=True, text=True)


class Contracts(unittest.TestCase):
    def test_imports_point_one_way(self):
        done = run(str(Path(sys.executable).parent / "lint-imports"))
        self.assertEqual(done.returncode, 0, done.stdout)

    def test_lint(self):
        done = run(sys.executable, "-m", "ruff", "check", ".")
        self.assertEqual(done.returncode, 0, done.stdout)

    def test_core_imports_no_web(self):
        done = run(
            sys.executable,
            "-c",
            "import sys, brunt_core.methods.registry as r; r.methods();"
            "import brunt_core.computation, brunt_core.statistics.ranking; sys.exit(any(m.split('.')[0] in ('django', 'psycopg') for m in sys.modules))",
        )
        self.assertEqual(done.returncode, 0, done.stderr)

    def test_functions_stay_short(self):
        lengths = []
        for path in [*ROOT.glob("brunt_*/**/*.py")]:
            if "migrations" not in path.parts:
                lengths += [
                    (
                        n.end_lineno
                        - n.lineno
                        + 1
                        - len((ast.get_docstring(n) or "").splitlines()),
                        f"{path.name}:{n.name}",
                    )
                    for n in ast.walk(ast.parse(path.read_text()))
                    if isinstance(n, ast.FunctionDef)
                ]
        lengths.sort()
        self.assertLessEqual(lengths[-1][0], 50, lengths[-3:])


class Methods(unittest.TestCase):
    def test_every_method_has_its_page_drawing_and_outside_check(self):
        checks = "".join(p.read_text() for p in (ROOT / "tests/reference").glob("*.py"))
        for key, method in methods().items():
            with self.subTest(key):
                page = ROOT / "docs/methods" / f"{key}.md"
                self.assertTrue(page.exists(), page)
                self.assertTrue(
                    (
                        ROOT
                        / "brunt_web/testing/templates/testing/drawings"
                        / f"{method.drawing}.svg"
                    ).exists()
                )
                self.assertIn(key, checks)
                for result in method.results:
                    self.assertIn(result.property, PROPERTIES)
                    self.assertIn(result.formula, page.read_text())


class Schema(TestCase):
    def test_no_migration_is_missing(self):
        call_command("makemigrations", "--check", "--dry-run", stdout=StringIO())


class Shipped(unittest.TestCase):
    def test_screenshots_are_linked(self):
        readme = (ROOT / "README.md").read_text()
        shots = sorted((ROOT / "docs/screenshots").glob("*.png"))
        self.assertTrue(0 < len(shots) < 20)
        self.assertEqual([s.name for s in shots if s.name not in readme], [])

    def test_no_address_outside_in_what_ships(self):
        for path in [
            *ROOT.glob("brunt_web/**/templates/**/*.html"),
            *ROOT.glob("brunt_web/**/static/**/*.css"),
        ]:
            self.assertEqual(
                re.findall(r"(?:src|href)=[\"']https?://|url\(https?:", path.read_text()), [], path
            )

    @unittest.skipUnless(
        shutil.which("npm"), "npm is not on this machine; built files are taken as committed"
    )
    def test_built_files_are_current(self):
        if not (ROOT / "node_modules").exists():
            done = run("npm", "install", "--no-save", "--silent")
            self.assertEqual(done.returncode, 0, done.stderr)
        with tempfile.TemporaryDirectory() as folder:
            done = run("npm", "run", "build", "--silent", "--", folder)
            self.assertEqual(done.returncode, 0, done.stderr)
            built = [p.relative_to(folder) for p in Path(folder).rglob("*") if p.is_file()]
            shipped = ROOT / "brunt_web/interface/static/interface"
            self.assertGreater(len(built), 5)
            self.assertEqual(
                [
                    str(p)
                    for p in built
                    if not filecmp.cmp(Path(folder) / p, shipped / p, shallow=False)
                ],
                [],
            )
