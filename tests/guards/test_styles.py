"""Scripts and styles: linted, tested, and no class without a rule or rule without a class."""

import re
import shutil
import subprocess
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[2]
# Beginnings of classes that Python or a script completes: parts of a bead's cut, what is picked on a photo.
MADE_UP = ("b-", "pic-")
SIZES = 8


def styles() -> str:
    """All rules as they are written, without comments and lines that hold no rule."""
    text = "".join(p.read_text() for p in sorted((ROOT / "assets").rglob("*.css")))
    return re.sub(r"/\*.*?\*/|@(import|source)[^;{]*;", "", text, flags=re.DOTALL)


def sources(*patterns: str) -> list[str]:
    """The text of every file that these patterns find, without migrations and what was built."""
    paths = [p for pattern in patterns for p in ROOT.glob(pattern)]
    return [p.read_text() for p in paths if "migrations" not in p.parts and "htmx" not in p.name]


def ruled() -> set[str]:
    """Classes that a rule names."""
    heads = re.findall(r"([^{}]+)\{", styles())
    return {
        c
        for h in heads
        if not h.strip().startswith("@")
        for c in re.findall(r"\.([a-zA-Z][\w-]*)", h)
    }


def worn(template: str) -> tuple[set[str], set[str]]:
    """Whole classes of a template, and the beginnings of those it completes."""
    whole, begun = set(), set()
    for value in re.findall(r'class="((?:\{[%{].*?[%}]\}|[^"])*)"', template, re.DOTALL):
        value = re.sub(r"\{%.*?%\}", " ", value, flags=re.DOTALL)
        for word in re.sub(r"\{\{.*?\}\}", "\0", value, flags=re.DOTALL).split():
            start, made_up, _ = word.partition("\0")
            (begun if made_up else whole).add(start)
    return whole, begun - {""}


class Styles(unittest.TestCase):
    def test_every_class_has_a_rule_and_every_rule_a_class(self):
        templates = sources("brunt_web/**/templates/**/*.html", "brunt_web/**/templates/**/*.svg")
        others = sources("brunt_web/**/*.py", "brunt_core/**/*.py", "brunt_web/**/static/**/*.js")
        pairs = [worn(t) for t in templates]
        whole, begun = (set().union(*sets) for sets in zip(*pairs, strict=True))
        rules = ruled()
        self.assertGreater(len(rules), 500)
        self.assertEqual(whole - rules, set(), "classes of templates without a rule")
        words = set(re.findall(r"[A-Za-z][\w-]*", " ".join([*templates, *others])))
        unused = {c for c in rules - words if not c.startswith((*begun, *MADE_UP))}
        self.assertEqual(unused, set(), "rules that no template, script or module uses")

    def test_colours_are_the_palettes(self):
        theme = (ROOT / "assets/app.css").read_text()
        self.assertLessEqual(len(re.findall(r"--color-[\w-]+:", theme)), 30)
        outside = "".join(p.read_text() for p in (ROOT / "assets/components").glob("*.css"))
        self.assertEqual(re.findall(r"#[0-9a-fA-F]{3,8}\b|rgba?\(", outside), [])

    def test_sizes_are_the_scales(self):
        theme = (ROOT / "assets/app.css").read_text()
        self.assertEqual(len(re.findall(r"--size-\w+:", theme)), SIZES)
        self.assertEqual(re.findall(r"font-size: [\d.]+rem", styles()), [])
        named = set(re.findall(r"var\((--(?:size|color)-\w+)\)", styles()))
        self.assertEqual({n for n in named if f"{n}:" not in theme}, set(), "tokens that are none")

    @unittest.skipUnless(shutil.which("npm"), "npm is not on this machine")
    def test_scripts_are_linted_and_tested(self):
        if not (ROOT / "node_modules").exists():
            subprocess.run(["npm", "install", "--no-save", "--silent"], cwd=ROOT, check=True)
        for command in ("lint", "types", "test"):
            done = subprocess.run(
                ["npm", "run", command, "--silent"], cwd=ROOT, capture_output=True, text=True
            )
            self.assertEqual(done.returncode, 0, done.stdout[-3000:] + done.stderr[-1000:])
