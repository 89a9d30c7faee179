"""What people write in a cell instead of a number: how a test ended, or that there was none."""

import re
import unicodedata

_SAID: dict[str, tuple[str, ...]] = {
    "broke": (
        *("break", "broke", "broken", "fracture", "fractured", "snapped", "failed", "gebrochen"),
        *("bruch", "rompu", "cassé", "roto", "rotto", "pękła", "断", "断裂", "破断", "كسر"),
    ),
    "held": (
        *("did not break", "didn't break", "not broken", "no break", "nb", "held", "runout"),
        *("run out", "survived", "unbroken", "intact", "no failure", "kein bruch", "hält"),
        *("nicht gebrochen", "ungebrochen", "pas de rupture", "non rompu", "no rompió", "no roto"),
        *("non rotto", "niet gebroken", "未断", "未断裂", "非破断", "لم ينكسر", "نشکست"),
    ),
    "limit": (
        "limit",
        "machine limit",
        "rig limit",
        "maxed out",
        "end of scale",
        "over range",
        "overrange",
    ),
    "void": ("void", "invalid", "slipped", "ungültig", "nul", "nulo", "无效"),
}
_NOT_TESTED = frozenset(
    (
        "n/a,na,n.a.,-,–,—,none,nil,nt,not tested,untested,no test,tbd,pending,todo,"
        "nicht geprüft,non testé,sin ensayar,未测,未试"
    ).split(",")
)
_FOLDED = {
    " ".join(word.split()): key for key, words in _SAID.items() for word in words
}  # longest spelling is matched whole


def folded_words(text: str) -> str:
    """A cell's words in small letters, blanks single, dots and marks at the end off.

    >>> folded_words("  Did  NOT break. ")
    'did not break'
    """
    plain = unicodedata.normalize("NFKC", text).casefold().replace("’", "'")
    return re.sub(r"[.!…]+$", "", " ".join(plain.split())).strip()


def outcome_said(text: str) -> str | None:
    """The outcome a cell's words mean, or ``None``.

    >>> outcome_said("Did not break"), outcome_said("58.4")
    ('held', None)
    """
    return _FOLDED.get(folded_words(text))


def not_tested(text: str) -> bool:
    """Whether a cell says that there was no test.

    >>> not_tested("n/a"), not_tested("-"), not_tested("0")
    (True, True, False)
    """
    return text.strip().casefold() in _NOT_TESTED


def is_words(text: str) -> bool:
    """Whether a cell has no digit at all."""
    return not any(c.isdigit() or c in "½¼¾" for c in text)
