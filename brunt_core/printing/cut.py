"""A cut through a specimen as its recipe lays it: every bead, to scale. Millimetres.

What preparation programs do at seams, corners and overlaps is excluded: beads lie side by side.
"""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import cos, floor, pi, radians, sin

from brunt_core.quantities.rendering import number

Values = Mapping[str, float | None]
_MOST_LAYERS = 400
_MOST_BEADS = 6000
# Lines run half to the left and half to the right of the bar's length unless a pattern says otherwise
# (common practice, no source).
_USUAL_ANGLE = 45.0


@dataclass(frozen=True)
class Bead:
    """One road cut across: middle x, lower edge z, width and height; mm. ``part`` says what it belongs to."""

    x: float
    z: float
    width: float
    height: float
    part: str
    layer: int

    @property
    def place(self) -> tuple[float, float, float, float, str]:
        """What two cuts are compared by: where it is, and whether it is of a wall, a skin or the fill."""
        return (
            round(self.x, 2),
            round(self.z, 2),
            round(self.width, 2),
            round(self.height, 2),
            self.part if self.part in ("wall", "infill") else "skin",
        )


@dataclass(frozen=True)
class Cut:
    """A section of ``width`` × ``height`` mm as it is built, ``built`` mm high with so many layers."""

    width: float
    height: float
    built: float
    layers: int
    walls: int
    beads: tuple[Bead, ...]
    remarks: tuple[str, ...]

    @property
    def area(self) -> float:
        """Plastic in the cut, mm², beads taken as rectangles."""
        return sum(b.width * b.height for b in self.beads)

    def changed_from(self, other: "Cut | None") -> set[int]:
        """Indices of the beads that the other cut does not have.

        A road of a solid layer is none of these where the other cut is solid as well, though its beads
        lie elsewhere by a part of a width.
        """
        if other is None:
            return set()
        known = {b.place for b in other.beads}
        solid: dict[float, list[Bead]] = {}
        for b in other.beads:
            if b.part in ("top", "bottom"):
                solid.setdefault(round(b.z, 2), []).append(b)
        return {
            i
            for i, b in enumerate(self.beads)
            if b.place not in known and not _covered(b, solid.get(round(b.z, 2), ()))
        }


def _covered(bead: Bead, others: Sequence[Bead]) -> bool:
    """Whether a road of a skin lies where one of the other cut's skins does."""
    if bead.part not in ("top", "bottom"):
        return False
    return any(abs(o.x - bead.x) <= o.width / 2 + 1e-9 for o in others)


def cut_across(values: Values, pattern: str, width: float, height: float) -> Cut | None:
    """The beads of a flat-printed section.

    Parameters: a recipe's ``values`` in SI (lengths in m, shares of one); its infill ``pattern`` in words;
    ``width`` and ``height`` of the section in mm. Returns ``None`` where layer height or line width is
    not known. Limits: lines drawn straight; of patterns other than lines, grids and rings only the
    spacing is true. Source: geometry; common practice.

    >>> cut = cut_across({"layer_height": 2e-4, "line_width": 5e-4, "walls": 2.0, "infill": 1.0}, "", 10, 4)
    >>> cut.layers, cut.walls, len(cut.beads), round(cut.area, 3)
    (20, 2, 400, 40.0)
    """
    layer, line = _mm(values, "layer_height"), _mm(values, "line_width") or _mm(values, "nozzle_size")  # fmt: skip
    if not layer or not line or width <= 0 or height <= 0:
        return None
    first = _mm(values, "first_layer_height") or layer
    layers = max(1 + round((height - first) / layer), 1)
    remarks = []
    if layers > _MOST_LAYERS:
        layers = _MOST_LAYERS
        remarks.append(f"More than {_MOST_LAYERS} layers: the lowest are drawn.")
    built = first + (layers - 1) * layer
    if abs(built - height) > 0.005:
        remarks.append(_misses(layers, built, height))
    asked = int(values.get("walls") or 0)
    walls = min(asked, floor(width / line / 2 + 1e-6))
    if walls < asked:
        remarks.append(
            f"Only {walls} of {asked} walls fit on each side of {number(width, 'g')} mm."
        )
    beads: list[Bead] = []
    for i in range(layers):
        z = 0.0 if i == 0 else first + (i - 1) * layer
        tall = first if i == 0 else layer
        beads += _layer(values, pattern, (width, line, walls), (z, tall, i, layers))
        if len(beads) > _MOST_BEADS:
            remarks.append("Too many beads to draw: the lowest layers are shown.")
            break
    return Cut(
        width=width,
        height=height,
        built=built,
        layers=layers,
        walls=walls,
        beads=tuple(beads),
        remarks=tuple(remarks),
    )


def _misses(layers: int, built: float, height: float) -> str:
    over = built - height
    how = f"{number(abs(over), '.2f')} {'over' if over > 0 else 'short of'}"
    return (
        f"{layers} layers come to {number(built, '.2f')} mm, {how} the {number(height, 'g')} asked."
    )


def _mm(values: Values, key: str) -> float:
    return (values.get(key) or 0.0) * 1e3


def _layer(
    values: Values,
    pattern: str,
    across: tuple[float, float, int],
    up: tuple[float, float, int, int],
) -> Iterator[Bead]:
    width, line, walls = across
    z, tall, i, layers = up
    for k in range(walls):
        for side in (-1, 1):
            yield Bead(side * (width / 2 - (k + 0.5) * line), z, line, tall, "wall", i)
    inside = width - 2 * walls * line
    if inside < line * 0.4:
        return
    infill = values.get("infill")
    share = 1.0 if infill is None else min(infill, 1.0)
    part = _part(values, i, layers)
    if part != "infill" or share >= 0.999:
        count = max(round(inside / line), 1)
        each = inside / count
        for k in range(count):
            yield Bead(-inside / 2 + (k + 0.5) * each, z, each, tall, part, i)
    elif share > 0.001:
        for low, high in _sparse(pattern, inside, line / share, line, (z, i)):
            yield Bead((low + high) / 2, z, high - low, tall, part, i)


def _part(values: Values, i: int, layers: int) -> str:
    if i < int(values.get("bottom_layers") or 0):
        return "bottom"
    if i >= layers - int(values.get("top_layers") or 0):
        return "top"
    return "infill"


def pattern_angle(pattern: str) -> float:
    """The angle of the lines to the specimen's length, in degrees, as a pattern's words say it.

    >>> pattern_angle("lines at ±45°"), pattern_angle("lines at 0°"), pattern_angle("gyroid")
    (45.0, 0.0, 45.0)
    """
    found = re.search(r"(\d+(?:\.\d+)?)\s*°", pattern)
    return float(found[1]) % 180 if found else _USUAL_ANGLE


def _sparse(
    pattern: str, inside: float, spacing: float, line: float, where: tuple[float, int]
) -> list[tuple[float, float]]:
    """From where to where the beads of one sparse layer lie, within walls ``inside`` mm apart."""
    z, i = where
    said = pattern.lower()
    if "concentric" in said:
        lean, shift = 1.0, line / 2
    elif any(word in said for word in ("gyroid", "cubic", "honeycomb", "wave")):
        lean, shift = 1.0, spacing * (0.5 + 0.5 * sin(2 * pi * z / (2 * spacing)))
    else:
        # A road at an angle a to the length is cut 1/cos a wider, and its neighbours lie so much farther.
        lean = 1 / max(abs(cos(radians(pattern_angle(pattern)))), 0.1)
        shift = spacing * lean * (0.25 if i % 2 == 0 else 0.75)
    sets = [shift]
    if "grid" in said:
        spacing, sets = spacing * 2, [shift, shift + spacing * 0.6]
    step, wide = spacing * lean, line * lean
    found = []
    for start in sets:
        at = -inside / 2 + start % step - step
        while at < inside / 2 + wide:
            low, high = max(at - wide / 2, -inside / 2), min(at + wide / 2, inside / 2)
            if high - low > line * 0.15:
                found.append((low, high))
            at += step
    return sorted(found)
