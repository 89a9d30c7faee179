"""Where nobody is to be named: people go by number, also in what was written by hand.

Every name that an account has had counts, of whatever workshop, whether the person is still there or not: a name
in a note does not know who sits where today.
"""

import html
import re
from collections.abc import Callable, Mapping
from typing import Any

from django.apps import apps
from django.contrib.auth.models import User

# Names that are words as well: written small they stay, for a "max" or a "may" is rarely a person.
_WORDS = frozenset(
    "al ann art bay bill bob bud carol cliff dale dawn dean dot drew earl eve faith flat frank gene grace grant guy hope "
    "ivy jack jade jean jewel joy june lance lane mark mat may max min nick otto pat pearl penny ray red rich rob robin "
    "rose ruby rusty sandy skip sol stem storm sue summer ted tab van vic ward wave will wood".split()
)
_LEAST = 2
_NAMES = ("username", "first_name", "last_name")
# Whoever came with a package: called by number, with a sign-in name that nobody knows.
_NUMBERED = re.compile(r"person \d+")
_PLACEHOLDER = re.compile(r"[0-9a-f]{12}-\d+")
# Scripts that set no spaces between words, or join a particle to the next one.
_JOINED = re.compile(r"[\u0600-\u06ff\u0e00-\u0e7f\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af]")
_TAGS = re.compile(r"(<[^>]*>)")
_TOLD_IN_TAGS = re.compile(
    r'((?:title|alt|value|content|placeholder|aria-[a-z]+|data-[a-z-]+)=")([^"]*)"'
)


class Nameless:
    """Numbers for names, wherever they stand as a word, in any case.

    >>> hidden = Nameless({"Marion Vale": "person 1", "bo": "person 2", "Max": "person 3"})
    >>> hidden.name("bo"), hidden.text("MARION saw Bo; Max took the max of the marionette")
    ('person 2', 'person 1 saw person 2; person 3 took the max of the marionette')
    """

    def __init__(self, numbers: Mapping[str, str]) -> None:
        self.numbers = dict(numbers)
        self.known: dict[str, str] = {}
        for name, number in numbers.items():
            for said in _ways(name):
                self.known.setdefault(said.casefold(), number)
        ways = sorted({w for name in numbers for w in _ways(name)}, key=len, reverse=True)
        self.pattern = re.compile("|".join(map(_as_word, ways))) if ways else None

    @classmethod
    def of_all(cls, numbers: Mapping[int, int] | None = None) -> "Nameless":
        """Everybody who has an account or had one, by the order they came, under every name they ever had.

        With ``numbers`` the accounts named there have those; the others come after them.
        """
        ever = names_ever()
        given = dict(numbers or {})
        for pk in sorted(ever):
            given.setdefault(pk, len(given) + 1)
        return cls({name: f"person {given[pk]}" for pk, names in ever.items() for name in names})

    def name(self, name: str) -> str:
        """The number of a name; somebody who is not known gets the next."""
        if not name:
            return ""
        last = max((int(n.rpartition(" ")[2]) for n in self.numbers.values()), default=0)
        return self.numbers.setdefault(name, f"person {last + 1}")

    def text(self, text: str) -> str:
        """Written text with every known name by number."""
        return self.pattern.sub(lambda m: self._number_of(m[0]), text) if self.pattern else text

    def _number_of(self, found: str) -> str:
        """The number of a name as it was found; a dotless ı stands for an i here, as it does in a search by any case."""
        number = self.known.get(found.casefold())
        alike = (n for way, n in self.known.items() if re.fullmatch(re.escape(way), found, re.I))
        return number or next(alike, "a person")

    def document(self, value: Any) -> Any:
        """A stored document with every text in it so; its keys stay."""
        return _walked(value, self.text)

    def page(self, page: str, stays: str = "") -> str:
        """A page's text and what its attributes tell, with every name by number but for the words that ``stay``."""
        parts = _TAGS.split(page)
        for i, part in enumerate(parts):
            if not part.startswith("<"):
                parts[i] = self._escaped(part, stays)
            elif '="' in part:
                parts[i] = _TOLD_IN_TAGS.sub(lambda m: f'{m[1]}{self._escaped(m[2], stays)}"', part)
        return "".join(parts)

    def _escaped(self, text: str, stays: str) -> str:
        plain = html.unescape(text)
        pieces = plain.split(stays) if stays else [plain]
        told = stays.join(map(self.text, pieces))
        return text if told == plain else html.escape(told)


def names_ever() -> dict[int, list[str]]:
    """The names of every account, by its key, those it does not have any more among them."""
    told: list[tuple[Any, ...]] = list(
        User.objects.values_list("pk", "username", "first_name", "last_name")
    )
    changes = apps.get_model("changes", "Change")._default_manager.filter(kind="auth_user")
    for row, before, after in changes.values_list("row", "before", "after"):
        told += [(row, *(d.get(k) or "" for k in _NAMES)) for d in (before, after)]
    found: dict[int, list[str]] = {}
    for pk, *names in told:
        own = found.setdefault(pk, [])
        own += [n for n in names if n and n not in own and not _NUMBERED.fullmatch(n)]
    return found


def _ways(name: str) -> list[str]:
    """A name as a whole and by its parts, of which one is the first name and one the family's."""
    if _PLACEHOLDER.fullmatch(name):
        return [name]
    parts = [p for p in re.split(r"[\s.,_@]+", name) if p]
    return [w for w in dict.fromkeys([name, *parts]) if len(w) >= _LEAST or _JOINED.match(w)]


def _as_word(name: str) -> str:
    before = "" if _JOINED.match(name[0]) else r"(?<!\w)"
    after = "" if _JOINED.match(name[-1]) else r"(?!\w)"
    if name.casefold() in _WORDS:
        kinds = sorted({name, name.capitalize(), name.upper()})
        return f"{before}(?:{'|'.join(map(re.escape, kinds))}){after}"
    return f"{before}(?i:{re.escape(name)}){after}"


def _walked(value: Any, plain: Callable[[str], str]) -> Any:
    if isinstance(value, str):
        return plain(value)
    if isinstance(value, list):
        return [_walked(v, plain) for v in value]
    if isinstance(value, dict):
        return {k: _walked(v, plain) for k, v in value.items()}
    return value
