"""What the comments of a G-code file say of its settings, in whatever words and separators they come."""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from math import pi

from brunt_core.errors import InputError
from brunt_core.quantities.numbers import read_number

# What a comment calls a setting, folded to small words; made up from what the things are called in
# workshops (common practice, no source). Several words may mean one field.
_WORDS: dict[str, tuple[str, ...]] = {
    "layer_height": ("layer height", "layer thickness"),
    "nozzle_size": ("nozzle diameter", "nozzle size"),
    "line_width": ("line width", "extrusion width", "wall line width", "track width"),
    "walls": ("walls", "wall count", "wall loops", "wall line count", "perimeters", "perimeter count",
              "shells", "shell count", "perimeter shells", "outlines"),
    "infill": ("infill", "infill density", "fill density", "sparse infill density", "infill sparse density",
               "infill percentage", "infill percent", "fill percentage"),
    "infill_pattern": ("infill pattern", "fill pattern", "sparse infill pattern", "internal infill pattern"),
    "top_layers": ("top layers", "top solid layers", "top layer count", "top shell layers"),
    "bottom_layers": ("bottom layers", "bottom solid layers", "bottom layer count", "bottom shell layers"),
    "speed": ("print speed", "speed print", "printing speed", "default speed", "default print speed"),
    "nozzle_temperature": ("nozzle temperature", "temperature", "extruder temperature", "print temperature",
                           "printing temperature", "hotend temperature", "hot end temperature",
                           "material print temperature", "nozzle temp", "extruder temp"),
    "bed_temperature": ("bed temperature", "bed temp", "build plate temperature", "plate temperature",
                        "heated bed temperature", "hot plate temp", "material bed temperature"),
    "chamber_temperature": ("chamber temperature", "chamber temp", "build volume temperature"),
    "cooling": ("fan speed", "cooling fan speed", "part fan speed", "max fan speed", "fan max speed",
                "cooling fan", "fan"),
    "flow": ("flow", "flow ratio", "flow rate", "extrusion multiplier", "material flow", "filament flow ratio"),
    "pressure_advance": ("pressure advance", "linear advance", "linear advance factor", "advance factor",
                         "linear advance k"),
    "filament_mass": ("filament mass", "filament weight", "total filament weight", "filament used g", "filament weight g", "total filament weight g",
                      "total filament used g", "plastic weight", "material weight", "filament used mass"),
    "filament_diameter": ("filament diameter", "material diameter"),
    "filament_density": ("filament density", "material density"),
}  # fmt: skip
MEANINGS = {word: key for key, words in _WORDS.items() for word in words}
UNITS = {
    **dict.fromkeys(("layer_height", "nozzle_size", "line_width", "filament_diameter"), "mm"),
    **dict.fromkeys(("infill", "cooling", "flow"), "%"),
    **dict.fromkeys(("nozzle_temperature", "bed_temperature", "chamber_temperature"), "°C"),
    "speed": "mm/s",
    "filament_mass": "g",
    "filament_density": "g/cm³",
    "print_time": "s",
}
_COUNTS = ("walls", "top_layers", "bottom_layers")
_TIMES = (
    ("total estimated time", 4),
    ("total time", 4),
    ("estimated printing time", 3),
    ("estimated print time", 3),
    ("estimated time", 3),
    ("print time", 2),
    ("printing time", 2),
    ("build time", 2),
    ("time", 1),
)
_PAIR = re.compile(r"^\s*([A-Za-z][\w \-\[\]()/%]*?)\s*[:=]\s*(.*?)\s*$")
_COMMA = re.compile(r"^\s*([A-Za-z][\w \-\[\]()/]*?)\s*,\s*(.+?)\s*$")
_CLOCK = re.compile(r"(\d+):(\d{1,2})(?::(\d{1,2}(?:\.\d+)?))?$")
_SPAN = re.compile(
    r"(\d+(?:\.\d+)?)\s*(days?|d|hours?|hrs?|h|minutes?|mins?|min|m|seconds?|secs?|sec|s)\b"
)
_SIZES = {"d": 86400.0, "h": 3600.0, "m": 60.0, "s": 1.0}
_NUMBER = re.compile(r"[-+]?\d*\.?\d+(?:[eE][-+]?\d+)?")


@dataclass(frozen=True)
class CommentSetting:
    """One setting that a comment states: its field, number or word, and how it was called."""

    key: str
    number: float | None
    text: str
    called: str
    weight: int = 0


def setting_key(name: str) -> str:
    """A setting's name as small words: brackets, underscores and capitals inside words fall away.

    >>> setting_key("sparse_infill_density"), setting_key("wallLineCount"), setting_key("filament used [g]")
    ('sparse infill density', 'wall line count', 'filament used g')
    """
    name = re.sub(r"[\[\]()%]", " ", name)
    name = re.sub(r"(?<=[a-z])(?=[A-Z])|[_\-/]", " ", name)
    return " ".join(re.sub(r"\d+$", "", name.strip()).lower().split())


def said_in(line: str) -> Iterator[CommentSetting]:
    """Everything a comment line states of settings: pairs by = or :, several by ; or , and ``name,value``.

    What is of the first layer, or of a tool after the first, is passed over.

    >>> [(s.key, s.number) for s in said_in("; layer_height = 0.2")]
    [('layer_height', 0.2)]
    >>> [(s.key, s.number) for s in said_in(";   fillDensity,35")]
    [('infill', 35.0)]
    >>> [(s.key, s.number) for s in said_in("; walls: 3, infill: 40%, speed_print: 60")]
    [('walls', 3.0), ('infill', 40.0), ('speed', 60.0)]
    """
    body = line[:600].lstrip().lstrip(";").strip()
    for part in _parts(body):
        found = _PAIR.match(part) or _COMMA.match(part)
        if not found:
            continue
        name, value = setting_key(found[1]), found[2].strip().strip('"')
        told = _told(name, value, found[1].strip())
        if told:
            yield told


def _parts(body: str) -> list[str]:
    """The pairs of a line: one, or several separated by semicolons or by commas."""
    if body.count("=") + body.count(":") < 2:
        return [body]
    for mark in (";", ","):
        parts = [p for p in body.split(mark) if p.strip()]
        if len(parts) > 1 and all(_PAIR.match(p) for p in parts):
            return parts
    return [body]


def _told(name: str, value: str, called: str) -> CommentSetting | None:
    if not value or "first layer" in name or "initial layer" in name:
        return None
    weight = next((w for words, w in _TIMES if name == words or (w > 1 and words in name)), 0)
    if weight and "silent" not in name and "elapsed" not in name:
        seconds = seconds_in(value)
        return (
            None
            if seconds is None
            else CommentSetting("print_time", seconds, value, called, weight)
        )
    key = MEANINGS.get(name)
    if key is None:
        return None
    if key == "infill_pattern":
        return CommentSetting(
            key, None, value.split(",")[0].split(";")[0].strip().lower()[:40], called
        )
    number = _number(key, re.split(r"[,;]", value)[0].strip())
    return None if number is None else CommentSetting(key, number, value, called)


def _number(key: str, text: str) -> float | None:
    """A setting's number in its unit; ``None`` where it says none, or something that can be none."""
    found = _NUMBER.match(text)
    if not found:
        return None
    try:
        number = read_number(found[0])
    except InputError:
        return None
    unit = text[found.end() :].strip().lower()
    if key in _COUNTS:
        return float(round(number)) if number >= 0 and not unit else None
    if key == "line_width" and (unit.startswith("%") or number <= 0):
        return None
    if key in ("infill", "cooling", "flow") and not unit.startswith("%"):
        share = (
            key == "flow" and number <= 2 or key == "infill" and ("." in found[0] and number <= 1)
        )
        return number * 100 if share else number
    if key == "speed":
        return number / 60 if "min" in unit or (not unit and number >= 1000) else number
    if key == "filament_mass" and unit.startswith("kg"):
        return number * 1000
    if key == "chamber_temperature" and number <= 0:
        return None
    return number


def seconds_in(text: str) -> float | None:
    """A time in words, as a clock, or as bare seconds.

    >>> seconds_in("1h 23m 5s"), seconds_in("1:23:05"), seconds_in("4985"), seconds_in("1 hour 23 minutes")
    (4985.0, 4985.0, 4985.0, 4980.0)
    """
    text = text.strip().lower()
    clock = _CLOCK.match(text)
    if clock:
        hours, minutes, rest = clock.groups()
        return int(hours) * 3600 + int(minutes) * 60 + float(rest or 0)
    parts = _SPAN.findall(text)
    if parts:
        return sum(float(n) * _SIZES[unit[0]] for n, unit in parts)
    return float(text) if re.fullmatch(r"\d+(\.\d+)?", text) else None


def filament_mass(length_mm: float, diameter_mm: float, density: float) -> float:
    """Mass of filament in g: π d² / 4 · length · density (g/cm³); lengths in mm.

    >>> round(filament_mass(1000.0, 1.75, 1.24), 4)
    2.9825
    """
    return pi * diameter_mm**2 / 4 * length_mm * density / 1000
