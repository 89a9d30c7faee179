"""Guards: the house stays as it is meant to be."""

import ast
import filecmp
import re
import shutil
import subprocess
import sys
import tempfile
import tomllib
import unittest
from io import StringIO
from pathlib import Path

from django.apps import apps
from django.core.management import call_command
from django.test import TestCase
from django.urls import get_resolver

from brunt_core.methods.registry import methods
from brunt_core.properties import PROPERTIES
from brunt_core.treatments.kinds import KINDS
from brunt_web.comparison.tabs import VIEWS
from brunt_web.people import roles
from tests.support.whole import (
    missing_of_method,
    missing_of_property,
    missing_of_treatment,
    missing_of_view,
)

ROOT = Path(__file__).resolve().parents[2]


def run(*command: str) -> subprocess.CompletedProcess:
    return subprocess.run(command, cwd=ROOT, capture_output=True, text=True)


def named_in(kind: type) -> dict[str, list[str]]:
    """Where each public class or function of a module's own is defined."""
    homes: dict[str, list[str]] = {}
    for path in [*ROOT.glob("brunt_*/**/*.py"), *ROOT.glob("tools/**/*.py")]:
        if "migrations" not in path.parts:
            for n in ast.parse(path.read_text()).body:
                if isinstance(n, kind) and not n.name.startswith("_"):
                    homes.setdefault(n.name, []).append(str(path.relative_to(ROOT)))
    return homes


class Contracts(unittest.TestCase):
    def test_imports_point_one_way(self):
        done = run(str(Path(sys.executable).parent / "lint-imports"))
        self.assertEqual(done.returncode, 0, done.stdout)

    def test_lint(self):
        done = run(sys.executable, "-m", "ruff", "check", ".")
        self.assertEqual(done.returncode, 0, done.stdout)

    def test_types(self):
        done = run(sys.executable, "-m", "mypy")
        self.assertEqual(done.returncode, 0, done.stdout[-3000:])

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

    def test_templates_keep_to_the_page_and_name_their_addresses(self):
        wide, written = [], []
        for path in ROOT.glob("brunt_web/*/templates/**/*.*"):
            for n, line in enumerate(path.read_text().splitlines(), 1):
                if len(line) > 120:
                    wide.append(f"{path.name}:{n}")
                # The page for a server without its database cannot look an address up.
                if path.name != "broken.html" and re.search(r'(href|src|action)="/', line):
                    written.append(f"{path.name}:{n}")
        self.assertEqual((wide, written), ([], []))

    def test_methods_are_asked_for_by_keys_there_are(self):
        """A filter on a key that no method has finds nothing and says nothing."""
        known, asked = set(methods()), set()
        for path in ROOT.glob("brunt_web/**/*.py"):
            for n in ast.walk(ast.parse(path.read_text())):
                if isinstance(n, ast.keyword) and "method_key" in (n.arg or "").split("__"):
                    asked |= {
                        c.value
                        for c in ast.walk(n.value)
                        if isinstance(c, ast.Constant) and isinstance(c.value, str)
                    }
        self.assertTrue(asked)
        self.assertEqual(asked - known, set())

    def test_a_class_name_means_one_thing(self):
        """Management commands are all called ``Command``, as Django asks."""
        homes = named_in(ast.ClassDef)
        homes.pop("Command")
        self.assertEqual({k: v for k, v in homes.items() if len(v) > 1}, {})

    def test_a_function_name_means_one_thing(self):
        """A method's ``remarks`` and a program's ``main`` are the same thing in each module; tools stand apart."""
        homes = named_in(ast.FunctionDef)
        ours = {k: [f for f in v if not f.startswith("tools")] for k, v in homes.items()}
        twice = {k: v for k, v in ours.items() if len(v) > 1 and k not in ("remarks", "main")}
        self.assertEqual(twice, {})

    def test_every_right_names_an_address(self):
        known = get_resolver().reverse_dict
        named = roles._LEADS | roles._OWNERS | roles._READERS
        self.assertEqual([name for name in sorted(named) if name not in known], [])

    def test_records_are_made_by_keyword(self):
        long = []
        for path in ROOT.glob("brunt_*/**/*.py"):
            if "migrations" not in path.parts:
                long += [
                    f"{path.name}:{n.lineno} {n.func.id}"
                    for n in ast.walk(ast.parse(path.read_text()))
                    if isinstance(n, ast.Call) and isinstance(n.func, ast.Name) and len(n.args) > 6
                ]
        self.assertEqual(long, [])


class Classes(unittest.TestCase):
    """Every class a template names has a rule: a lost one once drew curves as black areas."""

    # A built-in or printed part of a class attribute, which the page fills in.
    PRINTED, TAG = re.compile(r"\{\{.*?\}\}"), re.compile(r"\s?\{%.*?%\}\s?")

    def named(self, text: str) -> set[str]:
        """The classes of a template; one that is completed when printed ends in ``*``."""
        text = self.TAG.sub(" ", self.PRINTED.sub("*", re.sub(r"\{#.*?#\}", "", text)))
        return {name for found in re.findall(r'class="([^"]*)"', text) for name in found.split()}

    def ruled(self) -> set[str]:
        sheets = [*ROOT.glob("assets/**/*.css"), *ROOT.glob("brunt_web/interface/static/**/*.css")]
        text = "\n".join(path.read_text() for path in sheets)
        return {name.replace("\\", "") for name in re.findall(r"\.((?:[\w-]|\\.)+)", text)}

    def lacking(self, text: str, ruled: set[str]) -> set[str]:
        """What is named in a template and has no rule."""
        return {
            name
            for name in self.named(text)
            if not (
                any(r.startswith(name.partition("*")[0]) for r in ruled)
                if "*" in name
                else name in ruled
            )
        }

    def test_every_class_in_a_template_has_a_rule(self):
        ruled = self.ruled()
        lacking = {
            path.name: found
            for path in ROOT.glob("brunt_web/*/templates/**/*.*")
            if (found := self.lacking(path.read_text(), ruled))
        }
        self.assertEqual(lacking, {})

    def test_a_lost_rule_would_be_seen(self):
        text = '<path class="l-sweep{% if x %} is-lit{% endif %} c-{{ kind }}"/>'
        self.assertEqual(self.lacking(text, {"is-lit", "c-blue"}), {"l-sweep"})
        self.assertEqual(self.lacking(text, {"is-lit", "l-sweep"}), {"c-*"})


class Relations(unittest.TestCase):
    """No app names, in a query, a relation that an app above it hung on its models."""

    def test_no_lower_app_asks_a_higher_one(self):
        order = self.order()
        found = []
        for place, names in enumerate(order):
            above = {n for higher in order[:place] for n in higher}
            relations = self.hung_on(above)
            for name in names:
                for path in (ROOT / "brunt_web" / name).rglob("*.py"):
                    if "migrations" not in path.parts:
                        asked = self.asked(path) & relations
                        found += [f"{path.relative_to(ROOT)}: {word}" for word in sorted(asked)]
        self.assertEqual(found, [])

    def order(self) -> list[set[str]]:
        """The apps from top to bottom, from the import contract."""
        rules = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]
        layers = next(
            c["layers"] for c in rules["contracts"] if "brunt_web.people" in c.get("layers", ())
        )
        return [{n.strip().split(".")[-1] for n in layer.split("|")} for layer in layers]

    def hung_on(self, above: set[str]) -> set[str]:
        """What the models of these apps are called, in queries, from the models of all others."""
        hung = [
            field
            for model in apps.get_models()
            if model._meta.app_label not in above
            for field in model._meta.related_objects
            if field.related_model._meta.app_label in above and not field.hidden
        ]
        return {f.name for f in hung} | {f.get_accessor_name() for f in hung}

    def asked(self, path: Path) -> set[str]:
        """Every step of every path of fields a file names: in strings with __ and in keywords."""
        words = set()
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.keyword) and node.arg and "__" in node.arg:
                words |= set(node.arg.split("__"))
            if isinstance(node, ast.Constant) and isinstance(node.value, str):
                if re.fullmatch(r"-?[a-z_]+__[a-z_]+", node.value):
                    words |= set(node.value.lstrip("-").split("__"))
            if isinstance(node, ast.Call) and getattr(node.func, "attr", "") in (
                "select_related", "prefetch_related"
            ):  # fmt: skip
                words |= {a.value for a in node.args if isinstance(a, ast.Constant)}
        return words

    def test_it_would_be_seen(self):
        with tempfile.NamedTemporaryFile("w", suffix=".py") as file:
            file.write('x.filter(test__outcome="void").order_by("-print__batch__number")')
            file.flush()
            self.assertLessEqual({"test", "print", "batch"}, self.asked(Path(file.name)))
        self.assertLessEqual(
            {"test", "results", "clock", "print"}, self.hung_on({"results", "testing", "printing"})
        )


class Whole(unittest.TestCase):
    """Each method, property, view and treatment has all its pieces; one that is missing is named."""

    def test_methods(self):
        self.assertEqual([m for x in methods().values() for m in missing_of_method(x)], [])

    def test_properties(self):
        self.assertEqual([m for x in PROPERTIES.values() for m in missing_of_property(x)], [])

    def test_views_of_compare(self):
        shown = {k: v for k, v in VIEWS.items() if v.page}
        self.assertEqual([m for key in shown for m in missing_of_view(key, VIEWS)], [])

    def test_treatments(self):
        self.assertEqual([m for x in KINDS.values() for m in missing_of_treatment(x)], [])


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


class OneReader(unittest.TestCase):
    def test_results_are_read_and_written_in_one_room(self):
        """Who else asks for results asks :mod:`brunt_web.results`, which says what counts."""
        asked = re.compile(r"\bResult\.objects|excluded=False|results__property_key")
        # A package and the demo carry rows as they are; a test's own exclusion is set where it is decided; the read
        # API pages through what it is asked for; the bench's queue reads its rows in one statement.
        rooms = {"results", "packages", "demonstration", "migrations"}
        known = {"notebooks/api.py", "testing/queries.py", "testing/models.py"}
        found = [
            str(path.relative_to(ROOT / "brunt_web"))
            for path in (ROOT / "brunt_web").rglob("*.py")
            if not rooms & set(path.parts) and asked.search(path.read_text())
        ]
        self.assertEqual(sorted(set(found) - known), [])
