"""The pages of help: the same files of ``docs/`` that lie beside the code, as HTML, and a search in them."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

from django.conf import settings
from django.utils.safestring import SafeString, mark_safe
from django.utils.text import slugify
from markdown_it import MarkdownIt
from markdown_it.token import Token

DOCS = Path(settings.ROOT) / "docs"
PICTURES = DOCS / "screenshots"
# The guide's pages in the order of the work; then what explains a word, a method, a limit.
GUIDE = (
    "ask",
    "print",
    "treat",
    "test",
    "compare",
    "decide",
    "workshop",
    "running",
    "command-line",
)
REFERENCE = ("words", "limits", "instruments", "notebooks", "security", "verify")
MOST_FOUND = 30
# Phrases that nobody should write again.
_NOT_SEARCHED = {"Retired"}


@dataclass(frozen=True)
class HelpSection:
    """A heading with the plain text below it, for the search and the page's own contents."""

    title: str
    anchor: str
    level: int
    text: str


@dataclass(frozen=True)
class HelpPage:
    """A page of help: its key in an address, title, HTML and sections."""

    key: str
    title: str
    html: SafeString
    sections: tuple[HelpSection, ...]


@dataclass
class FoundSection:
    """A section that has every word looked for, with some of its text around the first."""

    page: HelpPage
    section: HelpSection
    before: str = ""
    hit: str = ""
    after: str = ""


@dataclass
class HelpShelf:
    """Pages that belong together."""

    title: str
    pages: list[HelpPage] = field(default_factory=list)


def shelves() -> list[HelpShelf]:
    """All pages of help: the guide by the steps of the work, the methods, the reference."""
    methods = sorted(p.stem for p in (DOCS / "methods").glob("*.md"))
    return [
        HelpShelf("User guide", [_known(k) for k in GUIDE]),
        HelpShelf("Methods", [_known(f"methods/{k}") for k in methods]),
        HelpShelf("Reference", [_known(k) for k in REFERENCE]),
    ]


def page(key: str) -> HelpPage | None:
    """A page by its key, as ``ask`` or ``methods/tension``; none where there is none of that key."""
    every = {p.key: p for shelf in shelves() for p in shelf.pages}
    return every.get(key)


def picture(name: str) -> Path | None:
    """The file of a screenshot; none where there is none of that name."""
    every = {p.name: p for p in PICTURES.glob("*.png")}
    return every.get(name)


def search_sections(words: str) -> list[FoundSection]:
    """Sections that have every word, those with them in their heading first.

    Nothing for no words. A word is found at the start of a word of the page, in any case.
    """
    wanted = [re.compile(rf"(?<!\w){re.escape(w)}", re.I) for w in words.split()[:8]]
    if not wanted:
        return []
    found: list[tuple[bool, int, FoundSection]] = []
    for one in (p for shelf in shelves() for p in shelf.pages):
        for section in (s for s in one.sections if s.title not in _NOT_SEARCHED):
            whole = f"{section.title} {section.text}"
            if all(w.search(whole) for w in wanted):
                titled = all(w.search(section.title) for w in wanted)
                found.append((not titled, len(found), _around(one, section, wanted[0])))
    return [f for _, _, f in sorted(found, key=lambda x: x[:2])[:MOST_FOUND]]


def _around(one: HelpPage, section: HelpSection, word: re.Pattern[str]) -> FoundSection:
    hit = word.search(section.text)
    if hit is None:
        return FoundSection(one, section, before=section.text[:160])
    start, end = max(hit.start() - 70, 0), hit.end() + 110
    before, after = section.text[start : hit.start()], section.text[hit.end() : end]
    if start:
        before = "… " + before.partition(" ")[2]
    if end < len(section.text):
        after = after.rpartition(" ")[0] + " …"
    return FoundSection(one, section, before, hit[0], after)


def _known(key: str) -> HelpPage:
    folder, _, name = key.rpartition("/")
    path = DOCS / folder / f"{name}.md" if folder else DOCS / "guide" / f"{name}.md"
    return _read(key, path if path.exists() else DOCS / f"{name}.md")


@cache
def _read(key: str, path: Path) -> HelpPage:
    """A file as a page. Files do not change while a server runs."""
    reader = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = reader.parse(path.read_text(encoding="utf-8"))
    sections = tuple(_sections(tokens))
    anchors = iter(sections)
    for token in tokens:
        if token.type == "heading_open":
            token.attrSet("id", next(anchors).anchor)
        for child in token.children or ():
            _address(child)
    # The text is our own and the reader lets no HTML through.
    html = mark_safe(reader.renderer.render(tokens, reader.options, {}))
    # A method's heading ends with its key, which is for those who add methods.
    title = sections[0].title.partition(" — ")[0]
    return HelpPage(key, title, html, sections)


def _sections(tokens: list[Token]) -> Iterator[HelpSection]:
    title, level = "", 0
    text: list[str] = []
    for i, token in enumerate(tokens):
        if token.type == "heading_open":
            if title:
                yield HelpSection(title, slugify(title), level, " ".join(text))
            title, level, text = _plain(tokens[i + 1]), int(token.tag[1]), []
        elif token.type == "inline" and tokens[i - 1].type != "heading_open":
            text.append(_plain(token))
        elif token.type in ("fence", "code_block"):
            text.append(token.content)
    yield HelpSection(title, slugify(title), level, " ".join(text))


def _plain(token: Token) -> str:
    parts = [c.content if c.content else " " for c in token.children or () if c.type != "image"]
    return " ".join("".join(parts).split())


def _address(token: Token) -> None:
    """Links and pictures between files, as addresses of help."""
    if token.type == "image":
        token.attrSet("src", f"/help/pictures/{Path(str(token.attrGet('src'))).name}")
        token.attrSet("loading", "lazy")
        token.attrSet("alt", token.content)
    href = str(token.attrGet("href") or "")
    if token.type == "link_open" and ".md" in href and "//" not in href:
        path, _, anchor = href.partition("#")
        folder = "methods/" if "methods/" in path else ""
        token.attrSet(
            "href", f"/help/{folder}{Path(path).stem}/" + (f"#{anchor}" if anchor else "")
        )
