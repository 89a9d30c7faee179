"""What a level asks for: read from its words, by the kind of its factor.

The words are the trade's (common practice, no source); what cannot be read is asked for, not guessed.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.specimens.types import ORIENTATIONS

_NUMBER = r"[-−+]?\d+(?:[.,]\d+)?"
_HEAT = re.compile(rf"({_NUMBER})\s*(°\s*C|℃|deg\s*C|C\b|K\b|°\s*F)")
_TIME = re.compile(
    rf"({_NUMBER})\s*(seconds?|sec|s|minutes?|min|hours?|hrs?|h|days?|d|weeks?|wk|w|months?|years?|y)\b"
)
_SECONDS = {
    "s": 1.0,
    "m": 60.0,
    "h": 3600.0,
    "d": 86400.0,
    "w": 604800.0,
    "mo": 30.4375 * 86400.0,
    "y": 365.25 * 86400.0,
}


@dataclass(frozen=True)
class Meaning:
    """A level understood: whether something is outstanding for it, and the numbers in it, in SI.

    ``value`` is the number it governs by (speed in m/s, age in s); ``temperature`` in K and
    ``duration`` in s where its words name them; ``word`` a choice such as an orientation.
    """

    outstanding: bool = False
    value: float | None = None
    temperature: float | None = None
    duration: float | None = None
    word: str = ""


def read_meaning(kind: str, text: str) -> Meaning:
    """What a level of a factor of this kind asks for.

    Parameters: ``kind`` as the planner names it (``rate``, ``treatment``, ``condition``, ``age``,
    ``drying``, ``orientation``; any other governs nothing here); ``text`` as typed.
    Raises :class:`InputError` for a rate without a speed, an age without a time, an orientation
    that is none.

    >>> read_meaning("rate", "500 mm/min").value * 60000
    500.0
    >>> read_meaning("treatment", "annealed 95 °C, 2 h").duration
    7200.0
    >>> read_meaning("treatment", "as printed").outstanding, read_meaning("condition", "−18 °C").outstanding
    (False, True)
    >>> read_meaning("age", "8 weeks outdoors").value / 86400
    56.0
    >>> read_meaning("rate", "fast")
    Traceback (most recent call last):
    brunt_core.errors.InputError: “fast” names no speed: write it with its unit, such as 500 mm/min.
    """
    reader = _READERS.get(kind)
    return reader(text.strip()) if reader else Meaning()


def heat_in(text: str) -> float | None:
    """The first temperature in a text, in K; ``None`` without one.

    >>> heat_in("−18 °C"), heat_in("room")
    (255.15, None)
    """
    found = _HEAT.search(text)
    if not found:
        return None
    unit = found.group(2).replace(" ", "").replace("deg", "°").replace("℃", "°C")
    unit = {"C": "°C"}.get(unit, unit)
    return round(parse(f"{found.group(1).replace('−', '-')} {unit}", "temperature", "°C").si, 6)


def time_in(text: str) -> float | None:
    """The first length of time in a text, in s; a month is 30.4 days; ``None`` without one.

    >>> time_in("soaked 7 d") / 86400, time_in("2 h at 95 °C"), time_in("2 months") / 86400
    (7.0, 7200.0, 60.875)
    """
    found = _TIME.search(text)
    if not found:
        return None
    word = found.group(2)
    unit = "mo" if word.startswith("mo") else word[0]
    return float(found.group(1).replace(",", ".").replace("−", "-")) * _SECONDS[unit]


_SMALL_WORDS = {"at", "for", "in", "of", "the"}
_SEQUENCE = {"then", "and", "after", "before", "+", "→", "&"}


def step_key(text: str) -> str:
    """What a treatment or state is, whatever the order of its words: the key by which two are the same.

    The first heat in K and the first time in s are compared as numbers, the rest as words without case,
    commas and small words. Their order counts only where more numbers, or a word such as "then", say
    that there are several steps. Nothing is guessed: two that are worded with other words are two.

    >>> step_key("annealed 95 °C, 2 h") == step_key("Annealed for 120 min at 95 °C")
    True
    >>> step_key("water soaked 7 d") == step_key("soaked 168 h in water")
    True
    >>> step_key("annealed 95 °C, 2 h") == step_key("annealed 85 °C, 2 h")
    False
    >>> step_key("acetone 10 min, water 20 min") == step_key("water 10 min, acetone 20 min")
    False
    """
    heat, time = heat_in(text), time_in(text)
    rest = _TIME.sub(" ", _HEAT.sub(" ", text, count=1), count=1)
    words = [w for w in re.findall(r"[^\s,;·]+", rest.casefold()) if w not in _SMALL_WORDS]
    if not (_SEQUENCE & set(words) or any(c.isdigit() for w in words for c in w)):
        words.sort()
    return "|".join([" ".join(words), "" if heat is None else f"{heat:g}", "" if time is None else f"{time:g}"])  # fmt: skip


def _rate(text: str) -> Meaning:
    try:
        speed = parse(text, "speed", "mm/min")
    except InputError:
        raise InputError(
            f"“{text}” names no speed: write it with its unit, such as 500 mm/min.", "levels"
        ) from None
    if speed.si <= 0:
        raise InputError("A speed must be more than zero.", "levels")
    return Meaning(value=speed.si)


_UNTREATED = re.compile(
    r"^(as[\s-]*(printed|is|built)|untreated|none|no\b|nothing|control|raw|without|plain)", re.I
)
_ROOM = re.compile(
    r"^(as[\s-]*(printed|is|built)|dry as printed|room|ambient|untreated|none|control)", re.I
)
_FRESH = re.compile(r"^(fresh|new|unaged|none|at once|as[\s-]*printed|0\b)", re.I)
_WET = re.compile(
    r"^(wet|damp|undried|un-dried|as[\s-]*(opened|is|stored)|not dried|out\b|open)", re.I
)


def _treatment(text: str) -> Meaning:
    return Meaning(not _UNTREATED.match(text), None, heat_in(text), time_in(text))


def _state(text: str) -> Meaning:
    return Meaning(not _ROOM.match(text), None, heat_in(text), time_in(text))


def _age(text: str) -> Meaning:
    if _FRESH.match(text):
        return Meaning(value=0.0, duration=0.0)
    seconds = time_in(text)
    if seconds is None or seconds < 0:
        raise InputError(
            f"“{text}” names no age: write how long, such as 8 weeks outdoors, or fresh.", "levels"
        )
    return Meaning(True, seconds, None, seconds)


def _drying(text: str) -> Meaning:
    wet = bool(_WET.match(text))
    return Meaning(not wet, None, heat_in(text), time_in(text), "as it is" if wet else "dried")


def _orientation(text: str) -> Meaning:
    word = {"standing": "upright", "lying": "flat", "on edge": "edge"}.get(
        text.lower(), text.lower()
    )
    if word not in ORIENTATIONS:
        raise InputError(
            f"“{text}” is not an orientation: there are flat, edge and upright.", "levels"
        )
    return Meaning(word=word)


_READERS: dict[str, Callable[[str], Meaning]] = {
    "rate": _rate,
    "treatment": _treatment,
    "condition": _state,
    "age": _age,
    "drying": _drying,
    "orientation": _orientation,
}
