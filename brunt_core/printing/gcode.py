"""What a G-code file reveals of how it was made: read line by line, never whole."""

import re
from collections.abc import Iterable
from dataclasses import dataclass, field

from brunt_core.errors import InputError

_COMMAND = re.compile(r"^\s*([GMT])(\d+)\b([^;]*)")
_WORD = re.compile(r"([A-Z])\s*(-?\d*\.?\d+)")
_COMMENT = re.compile(r"^\s*;\s*([A-Za-z][\w \-\[\]()/]*?)\s*[:=]\s*(.+?)\s*$")
_HEAD_LINES = 400

# Words in comments, folded to letters and spaces, and the recipe's field they fill with its unit.
_COMMENTS = {
    "layer height": ("layer_height", "mm"),
    "first layer height": (None, ""),
    "nozzle diameter": ("nozzle_size", "mm"),
    "line width": ("line_width", "mm"),
    "extrusion width": ("line_width", "mm"),
    "wall count": ("walls", ""),
    "walls": ("walls", ""),
    "perimeters": ("walls", ""),
    "infill density": ("infill", "%"),
    "fill density": ("infill", "%"),
    "infill": ("infill", "%"),
    "infill pattern": ("infill_pattern", ""),
    "fill pattern": ("infill_pattern", ""),
    "top layers": ("top_layers", ""),
    "bottom layers": ("bottom_layers", ""),
    "print speed": ("speed", "mm/s"),
    "nozzle temperature": ("nozzle_temperature", "°C"),
    "bed temperature": ("bed_temperature", "°C"),
    "chamber temperature": ("chamber_temperature", "°C"),
    "flow": ("flow", "%"),
}
_HEATERS = {
    "M104": "nozzle_temperature",
    "M109": "nozzle_temperature",
    "M140": "bed_temperature",
    "M190": "bed_temperature",
    "M141": "chamber_temperature",
    "M191": "chamber_temperature",
}
_SECONDS = re.compile(r"(\d+(?:\.\d+)?)\s*([dhms])")
_UNIT_SECONDS = {"d": 86400, "h": 3600, "m": 60, "s": 1}


@dataclass(frozen=True)
class Found:
    """One setting found: the text to put in, and where it stood."""

    key: str
    text: str
    where: str


@dataclass
class GcodeFacts:
    """All that was found: recipe settings, filament in m, time in s, lines read."""

    settings: dict[str, Found] = field(default_factory=dict)
    filament_m: float | None = None
    seconds: float | None = None
    lines: int = 0
    commands: int = 0


def read_gcode(lines: Iterable[str]) -> GcodeFacts:
    """Read a G-code file's comments and commands as a stream.

    Temperatures come from M104/M109, M140/M190 and M141/M191, the fan from M106, extruded length
    from E moves (absolute M82 or relative M83, resets by G92), the layer height from the commonest
    step in Z, the speed from the commonest feed rate of extruding moves weighted by length.
    A comment wins over a command, since it states the intention.

    Raises :class:`InputError` when fewer than one line in five is a command or comment: not G-code.

    >>> facts = read_gcode(["; layer height = 0.2", "M104 S235", "G1 X10 Y0 E1 F3000", "G1 X20 Y0 E2"])
    >>> sorted((f.key, f.text) for f in facts.settings.values())
    [('layer_height', '0.2 mm'), ('nozzle_temperature', '235 °C'), ('speed', '50 mm/s')]
    """
    reader = _Reader()
    for line in lines:
        reader.take(line)
    if (
        reader.facts.lines == 0
        or reader.known < reader.facts.lines / 5
        or reader.facts.commands == 0
    ):
        raise InputError("This is not a G-code file: hardly a line of it is a command.", "gcode")
    return reader.finish()


class _Reader:
    """The state of a machine as far as it matters here."""

    def __init__(self) -> None:
        self.facts, self.known = GcodeFacts(), 0
        self.position = {"X": 0.0, "Y": 0.0, "Z": 0.0, "E": 0.0}
        self.feed, self.relative, self.relative_e, self.extruded = 0.0, False, False, 0.0
        self.speeds: dict[int, float] = {}
        self.heights: dict[float, int] = {}
        self.last_layer: float | None = None
        self.commented: set[str] = set()

    def take(self, line: str) -> None:
        self.facts.lines += 1
        if self.facts.lines <= _HEAD_LINES and ("\0" in line or len(line) > 5000):
            raise InputError(
                "This is not a G-code file: it holds bytes that are not text.", "gcode"
            )
        if line.startswith(("G1 ", "G0 ")) and self._plain_move(line):
            return
        command = _COMMAND.match(line)
        if command:
            self.known += 1
            self.facts.commands += 1
            self._command(
                command[1] + str(int(command[2])), dict(_WORD.findall(command[3].upper()))
            )
        elif not line.strip() or line.lstrip().startswith(";"):
            self.known += 1
            self._comment(line)

    def _plain_move(self, line: str) -> bool:
        """The commonest line, read without a regular expression; false when it is not that plain."""
        try:
            self._move({word[0]: float(word[1:]) for word in line.partition(";")[0].split()[1:]})
        except ValueError:
            return False
        self.known += 1
        self.facts.commands += 1
        return True

    def _comment(self, line: str) -> None:
        found = _COMMENT.match(line[:400])
        if not found:
            return
        name = " ".join(re.sub(r"[\[(].*?[\])]|[_\-/]", " ", found[1]).lower().split())
        if "estimated" in name and "time" in name or name == "time":
            self.facts.seconds = _seconds(found[2])
        key, unit = _COMMENTS.get(name, (None, ""))
        if key and key not in self.commented:
            self.commented.add(key)
            value = found[2].split(",")[0].split(";")[0].strip()
            text = value if not unit or re.search(r"[a-z%°]", value, re.I) else f"{value} {unit}"
            self.facts.settings[key] = Found(
                key, text, f"line {self.facts.lines}, comment “{found[1].strip()}”"
            )

    def _command(self, code: str, words: dict[str, str]) -> None:
        number = {k: float(v) for k, v in words.items()}
        if code in _HEATERS and number.get("S", 0) > 0:
            self._command_setting(_HEATERS[code], f"{number['S']:g} °C", code)
        elif code == "M106":
            self._command_setting("cooling", f"{number.get('S', 255) / 2.55:.0f} %", code)
        elif code in ("G90", "G91"):
            self.relative = code == "G91"
        elif code in ("M82", "M83"):
            self.relative_e = code == "M83"
        elif code == "G92":
            self.position |= {k: v for k, v in number.items() if k in self.position}
        elif code in ("G0", "G1"):
            self._move(number)

    def _command_setting(self, key: str, text: str, code: str) -> None:
        if key not in self.commented:
            self.facts.settings[key] = Found(key, text, f"line {self.facts.lines}, command {code}")

    def _move(self, number: dict[str, float]) -> None:
        position = self.position
        x, y, pushed = position["X"], position["Y"], 0.0
        for axis in "XYZ":
            if axis in number:
                position[axis] = number[axis] + (position[axis] if self.relative else 0.0)
        if "E" in number:
            pushed = (
                number["E"] if self.relative_e or self.relative else number["E"] - position["E"]
            )
            position["E"] += pushed
        self.feed = number.get("F", self.feed)
        self.extruded += pushed
        length = ((position["X"] - x) ** 2 + (position["Y"] - y) ** 2) ** 0.5
        if pushed > 0 and length > 0:
            self._extruding(length)

    def _extruding(self, length: float) -> None:
        if self.feed > 0:
            self.speeds[round(self.feed)] = self.speeds.get(round(self.feed), 0.0) + length
        if self.last_layer is not None and self.position["Z"] > self.last_layer:
            step = round(self.position["Z"] - self.last_layer, 3)
            self.heights[step] = self.heights.get(step, 0) + 1
        self.last_layer = self.position["Z"]

    def finish(self) -> GcodeFacts:
        if self.extruded > 0:
            self.facts.filament_m = self.extruded / 1000
        if self.heights and "layer_height" not in self.commented:
            step = max(self.heights, key=lambda h: self.heights[h])
            self.facts.settings["layer_height"] = Found(
                "layer_height", f"{step:g} mm", f"commonest step in Z, {self.heights[step]} times"
            )
        if self.speeds and "speed" not in self.commented:
            feed = max(self.speeds, key=lambda f: self.speeds[f])
            self.facts.settings["speed"] = Found(
                "speed", f"{feed / 60:g} mm/s", "commonest feed rate while extruding, by length"
            )
        return self.facts


def _seconds(text: str) -> float | None:
    parts = _SECONDS.findall(text.lower())
    if parts:
        return sum(float(n) * _UNIT_SECONDS[u] for n, u in parts)
    return float(text) if re.fullmatch(r"\d+(\.\d+)?", text.strip()) else None
