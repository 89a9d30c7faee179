"""Guard: no phrase that ``docs/words.md`` retires stands where a person may read it."""

import ast
import io
import re
import tokenize
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
WORDS = ROOT / "docs" / "words.md"
# Each for a reason: words an import understands, names of older packages, comments of G-code files.
ALLOWED = {
    "brunt_web/exchange/words.py": {"rig limit"},
    "brunt_web/exchange/columns.py": {"left out", "own id", "own parts"},
    "brunt_web/packages/older.py": {"duties", "rung", "owed", "owes", "scatter", "slanting"},
    "brunt_core/printing/gcode_comments.py": {"pressure advance"},
    "brunt_core/plausibility/bands.py": set(),
}
CODE = ("brunt_core", "brunt_web", "brunt_command", "tools")


def retired() -> list[str]:
    """The phrases of the last table, in lower case."""
    table = WORDS.read_text().partition("## Retired")[2]
    rows = [line.split("|")[1] for line in table.splitlines() if line.startswith("| ")]
    return [phrase.strip() for row in rows[1:] for phrase in row.split("·")]


def pattern(phrases: list[str]) -> re.Pattern[str]:
    """Any of these phrases as whole words, over a line's end too."""
    words = (r"\s+".join(map(re.escape, p.split())) for p in sorted(phrases, key=len, reverse=True))
    return re.compile(rf"(?<![\w-])(?:{'|'.join(words)})(?![\w-])", re.IGNORECASE)


def read_by_people(path: Path) -> str:
    """The text of a file that a person may read: of Python its strings and comments, of a template all but its tags."""
    text = path.read_text()
    if path.suffix == ".py":
        tokens = tokenize.generate_tokens(io.StringIO(text).readline)
        return "\n".join(_words(t) for t in tokens)
    if path.suffix in (".html", ".svg"):
        return re.sub(r"\{%.*?%\}|\{\{.*?\}\}", " ", text, flags=re.DOTALL)
    if path.suffix == ".js":
        return "\n".join(
            re.findall(r"//[^\n]*|/\*.*?\*/|\"[^\"\n]* [^\"\n]*\"|`[^`]*`", text, re.DOTALL)
        )
    return text


def _words(token: tokenize.TokenInfo) -> str:
    if token.type == tokenize.COMMENT:
        return token.string
    if token.type != tokenize.STRING:
        return ""
    try:
        said = ast.literal_eval(token.string)
    except (ValueError, SyntaxError):  # an f-string: its parts without what it fills in
        said = re.sub(r"\{[^{}]*\}", " ", token.string)
    # One word without a space is a key or a name, no sentence.
    return said if isinstance(said, str) and re.search(r"\s", said.strip()) else ""


def files() -> list[Path]:
    """Everything a person may read, without what is generated, kept from before, or a record of decisions then."""
    found = [
        p
        for top in CODE
        for p in (ROOT / top).rglob("*")
        if p.suffix in (".py", ".html", ".svg", ".js")
    ]
    found += [*ROOT.glob("docs/**/*.md"), ROOT / "README.md", ROOT / "CONTRIBUTING.md"]
    return [
        p
        for p in found
        if "migrations" not in p.parts
        and ".min." not in p.name
        and p != WORDS
        and "__pycache__" not in p.parts
    ]


class Words(unittest.TestCase):
    def test_no_retired_phrase_is_left(self):
        phrases, found = retired(), []
        self.assertGreater(len(phrases), 100)
        every = pattern(phrases)
        for path in files():
            name = str(path.relative_to(ROOT))
            for hit in every.finditer(read_by_people(path)):
                said = " ".join(hit[0].lower().split())
                if said not in ALLOWED.get(name, ()):
                    found.append(f"{name}: {said}")
        self.assertEqual(found, [])

    def test_a_retired_phrase_is_seen(self):
        seen = pattern(["told apart", "scatter"])
        self.assertTrue(seen.search("They cannot be Told\n  apart."))
        self.assertFalse(seen.search("a scatter-plot, scattering"))
