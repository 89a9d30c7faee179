"""What a G-code file reveals of how it was made: read line by line, never whole."""

import re
from collections.abc import Iterable
from dataclasses import dataclass, field
from math import atan2, hypot, pi, sqrt

from brunt_core.errors import InputError
from brunt_core.printing.gcode_comments import UNITS, CommentSetting, filament_mass, said_in

_COMMAND = re.compile(r"^\s*(?:N\d+\s+)?([GMT])(\d+)(?:\.\d+)?\b([^;(]*)")
_WORD = re.compile(r"([A-Z])\s*(-?\d*\.?\d+)")
_MACRO = re.compile(r"^\s*([A-Z][A-Z_]{4,})\b([^;]*)")
_PARAMETER = re.compile(r"([A-Z_]+)\s*=\s*(\"[^\"]*\"|\S+)")
_HEAD_LINES = 400
_OBJECTS = 400

_HEATERS = {
    "M104": "nozzle_temperature",
    "M109": "nozzle_temperature",
    "M140": "bed_temperature",
    "M190": "bed_temperature",
    "M141": "chamber_temperature",
    "M191": "chamber_temperature",
}
_STARTS = {
    **dict.fromkeys(("EXTRUDER", "EXTRUDER_TEMP", "HOTEND", "NOZZLE", "NOZZLE_TEMP"), "nozzle_temperature"),
    **dict.fromkeys(("BED", "BED_TEMP"), "bed_temperature"),
    **dict.fromkeys(("CHAMBER", "CHAMBER_TEMP"), "chamber_temperature"),
}  # fmt: skip
_ADVANCE = {"M900": "K", "M572": "S"}


@dataclass(frozen=True)
class FoundSetting:
    """One setting found: the text to put in, where it stood; its number in ``unit``, and the line."""

    key: str
    text: str
    where: str
    value: float | str | None = None
    unit: str = ""
    line: int | None = None


@dataclass
class GcodeFacts:
    """All that was found: recipe settings, filament in m and g, time in s, objects named, lines read."""

    settings: dict[str, FoundSetting] = field(default_factory=dict)
    filament_m: float | None = None
    filament_g: FoundSetting | None = None
    seconds: float | None = None
    time: FoundSetting | None = None
    objects: list[str] = field(default_factory=list)
    lines: int = 0
    commands: int = 0


def read_gcode(lines: Iterable[str]) -> GcodeFacts:
    """Read a G-code file's comments and commands as a stream.

    Comments count at the head, the tail and in between, by ``=``, ``:`` or a comma; of several times the
    total. Commands: temperatures (M104/M109, M140/M190, M141/M191, a start macro's), the part fan (M106
    without an index or with P0, in 255ths or as a share), flow (M221), pressure or linear advance (M572,
    M900, a macro's); of each the value under which most was extruded, so that what is set before the
    first move or at the very end is no setting; the time to go (M73) where no comment says the time. Extruded length from E moves and arcs (absolute M82 or
    relative M83, resets by G92, inches by G20), the layer height from the commonest step in Z, the
    speed from the commonest feed rate of extruding moves weighted by length. A comment wins over a
    command, since it states the intention.

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


def gcode_of(content: bytes) -> GcodeFacts:
    """What a whole file says; see :func:`read_gcode`. What is no UTF-8 is replaced.

    >>> gcode_of(b"; layer height = 0.2\\nM104 S235\\nG1 X10 E1 F3000\\nG1 X20 E2").settings["layer_height"].text
    '0.2 mm'
    """
    return read_gcode(content.decode(errors="replace").splitlines())


class _Reader:
    """The state of a machine as far as it matters here."""

    def __init__(self) -> None:
        self.facts, self.known = GcodeFacts(), 0
        self.position = {"X": 0.0, "Y": 0.0, "Z": 0.0, "E": 0.0}
        self.feed, self.relative, self.relative_e, self.extruded = 0.0, False, False, 0.0
        self.scale, self.length, self.remaining = 1.0, 0.0, 0.0
        self.speeds: dict[int, float] = {}
        self.heights: dict[float, int] = {}
        self.last_layer: float | None = None
        self.said: dict[str, tuple[CommentSetting, int]] = {}
        # What is set now, since which extruded length; and what was extruded under each value.
        self.now: dict[str, tuple[float, str, int, float]] = {}
        self.under: dict[str, dict[float, tuple[float, str, int]]] = {}

    def take(self, line: str) -> None:
        self.facts.lines += 1
        if self.facts.lines <= _HEAD_LINES and ("\0" in line or len(line) > 5000):
            raise InputError(
                "This is not a G-code file: it holds bytes that are not text.", "gcode"
            )
        if line.startswith(("G1 ", "G0 ")) and self._plain_move(line):
            return
        if line[:1] == ";":
            self.known += 1
            self._comment(line)
            return
        command = _COMMAND.match(line)
        if command:
            self.known += 1
            self.facts.commands += 1
            words = dict(_WORD.findall(command[3].upper()))
            self._command(command[1] + str(int(command[2])), words)
        elif not line.strip() or line.lstrip().startswith(";"):
            self.known += 1
            self._comment(line)
        elif macro := _MACRO.match(line):
            self.known += 1
            self.facts.commands += 1
            self._macro(macro[1], dict(_PARAMETER.findall(macro[2])))

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
        body = line.lstrip("; \t")
        if body[:16].lower() == "printing object ":
            self._object(body[16:].split(" id:")[0])
            return
        if "=" not in line and ":" not in line and "," not in line:
            return
        for told in said_in(line):
            before = self.said.get(told.key)
            if before is None or told.weight > before[0].weight:
                self.said[told.key] = (told, self.facts.lines)

    def _object(self, name: str) -> None:
        name = name.strip().strip('"')[:80]
        if name and name not in self.facts.objects and len(self.facts.objects) < _OBJECTS:
            self.facts.objects.append(name)

    def _command(self, code: str, words: dict[str, str]) -> None:
        number = {k: float(v) for k, v in words.items()}
        if code in _HEATERS:
            if number.get("T", 0) == 0:
                self._set(_HEATERS[code], number.get("S", number.get("R", 0.0)), code)
        elif code in ("M106", "M107"):
            self._fan(code, number)
        elif code == "M73" and "R" in number:
            self.remaining = max(self.remaining, number["R"] * 60)
        elif code == "M221":
            self._set("flow", number.get("S", 100.0), code)
        elif code in _ADVANCE and _ADVANCE[code] in number:
            self._set("pressure_advance", number[_ADVANCE[code]], code)
        elif code in ("G0", "G1"):
            self._move(number)
        elif code in ("G2", "G3"):
            self._move(number, code == "G2")
        else:
            self._way(code, number)

    def _way(self, code: str, number: dict[str, float]) -> None:
        """How numbers are meant from now on: from where, in what unit, counted from what."""
        if code in ("G90", "G91"):
            self.relative = code == "G91"
        elif code in ("M82", "M83"):
            self.relative_e = code == "M83"
        elif code in ("G20", "G21"):
            self.scale = 25.4 if code == "G20" else 1.0
        elif code == "G92":
            self.position |= {k: v * self.scale for k, v in number.items() if k in self.position}

    def _fan(self, code: str, number: dict[str, float]) -> None:
        """The part fan: no index, or 0. In 255ths; up to 1 with a point in it is a share."""
        if number.get("P", 0) != 0:
            return
        raw = 0.0 if code == "M107" else number.get("S", 255.0)
        share = raw if 0 < raw <= 1 else raw / 255
        self._set("cooling", float(round(min(share, 1.0) * 100)), code)

    def _macro(self, name: str, given: dict[str, str]) -> None:
        number = {}
        for key, text in given.items():
            try:
                number[key] = float(text.strip('"'))
            except ValueError:
                continue
        if name == "SET_PRESSURE_ADVANCE" and "ADVANCE" in number:
            self._set("pressure_advance", number["ADVANCE"], name)
        elif name.startswith("EXCLUDE_OBJECT") and "NAME" in given:
            self._object(given["NAME"])
        elif name in ("PRINT_START", "START_PRINT"):
            for key, value in number.items():
                if key in _STARTS:
                    self._set(_STARTS[key], value, name)

    def _set(self, key: str, value: float, code: str) -> None:
        """A value from now on; what was extruded until now was under the one before."""
        self._book(key)
        self.now[key] = (value, code, self.facts.lines, self.length)

    def _book(self, key: str) -> None:
        if key not in self.now:
            return
        value, code, line, since = self.now[key]
        own = self.under.setdefault(key, {})
        before, first, at = own.get(value, (0.0, code, line))
        own[value] = (before + self.length - since, first, at)

    def _move(self, number: dict[str, float], clockwise: bool | None = None) -> None:
        position, scale = self.position, self.scale
        x, y, pushed = position["X"], position["Y"], 0.0
        for axis in "XYZ":
            if axis in number:
                position[axis] = number[axis] * scale + (position[axis] if self.relative else 0.0)
        if "E" in number:
            told = number["E"] * scale
            pushed = told if self.relative_e or self.relative else told - position["E"]
            position["E"] += pushed
        if "F" in number:
            self.feed = number["F"] * scale
        self.extruded += pushed
        if pushed <= 0:
            return
        length = hypot(position["X"] - x, position["Y"] - y)
        if clockwise is not None:
            length = _arc(number, scale, (x, y), (position["X"], position["Y"]), clockwise)
        if length > 0:
            self._extruding(length)

    def _extruding(self, length: float) -> None:
        self.length += length
        if self.feed > 0:
            feed = round(self.feed)
            self.speeds[feed] = self.speeds.get(feed, 0.0) + length
        height = self.position["Z"]
        if self.last_layer is not None and height > self.last_layer:
            step = round(height - self.last_layer, 3)
            self.heights[step] = self.heights.get(step, 0) + 1
        self.last_layer = height

    def finish(self) -> GcodeFacts:
        """What was said, then what was done, then what the moves show."""
        for key, (told, line) in self.said.items():
            where = f"line {line}, comment “{told.called}”"
            self._keep(key, told.number if told.number is not None else told.text, where, line)
        for key in list(self.now):
            self._book(key)
            value, (_, code, line) = max(self.under[key].items(), key=lambda kv: (kv[1][0], kv[0]))
            if key not in self.said and (value > 0 or key == "cooling"):
                self._keep(key, value, f"line {line}, command {code}", line)
        if self.extruded > 0:
            self.facts.filament_m = self.extruded / 1000
        self._from_moves()
        self._mass()
        if self.facts.seconds is None and self.remaining > 0:
            self._keep("print_time", self.remaining, "longest time to go, command M73", None)
        return self.facts

    def _from_moves(self) -> None:
        if self.heights and "layer_height" not in self.said:
            step = max(self.heights, key=lambda h: self.heights[h])
            self._keep(
                "layer_height", step, f"commonest step in Z, {self.heights[step]} times", None
            )
        if self.speeds and "speed" not in self.said:
            feed = max(self.speeds, key=lambda f: self.speeds[f])
            self._keep("speed", feed / 60, "commonest feed rate while extruding, by length", None)

    def _keep(self, key: str, value: float | str, where: str, line: int | None) -> None:
        unit = UNITS.get(key, "")
        text = value if isinstance(value, str) else f"{value:g} {unit}".strip()
        found = FoundSetting(key, text, where, value=value, unit=unit, line=line)
        if key == "print_time":
            self.facts.time, self.facts.seconds = found, float(value)
        elif key == "filament_mass":
            self.facts.filament_g = found
        elif key not in ("filament_diameter", "filament_density"):
            self.facts.settings[key] = found

    def _mass(self) -> None:
        """The filament's mass from its length, where diameter and density are said and mass is not."""
        parts = [self.said.get(k) for k in ("filament_diameter", "filament_density")]
        if self.facts.filament_g or self.extruded <= 0 or not all(parts):
            return
        wide, heavy = (p[0].number or 0.0 for p in parts if p)
        if wide > 0 and heavy > 0:
            self._keep("filament_mass", filament_mass(self.extruded, wide, heavy), "extruded length, diameter and density", None)  # fmt: skip


def _arc(
    number: dict[str, float],
    scale: float,
    start: tuple[float, float],
    end: tuple[float, float],
    clockwise: bool,
) -> float:
    """The length of an arc by its centre (I, J) or its radius (R); straight where it has neither."""
    chord = hypot(end[0] - start[0], end[1] - start[1])
    if "R" in number:
        radius = abs(number["R"]) * scale
        if radius <= 0 or chord > 2 * radius:
            return chord
        half = chord / (2 * radius)
        turn = 2 * atan2(half, sqrt(max(1 - half**2, 0.0)))
        return radius * (2 * pi - turn if number["R"] < 0 else turn)
    if "I" not in number and "J" not in number:
        return chord
    centre = start[0] + number.get("I", 0.0) * scale, start[1] + number.get("J", 0.0) * scale
    radius = hypot(start[0] - centre[0], start[1] - centre[1])
    from_angle = atan2(start[1] - centre[1], start[0] - centre[0])
    to_angle = atan2(end[1] - centre[1], end[0] - centre[0])
    turn = (from_angle - to_angle if clockwise else to_angle - from_angle) % (2 * pi)
    return radius * (turn or 2 * pi)
