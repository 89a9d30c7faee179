"""Specimen types: a shape with its sizes, the published ones and the tester's own.

Published sizes are recalled from the named standards and not confirmed against current editions.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from brunt_core.errors import InputError
from brunt_core.specimens.shapes import SHAPES, Point, SpecimenShape, second_moment, section_area

# Longest, middle and shortest side of the part along the machine's axes: ISO/ASTM 52921.
ORIENTATIONS = {"flat": "XYZ", "edge": "XZY", "upright": "ZXY"}


@dataclass(frozen=True, eq=False)
class Part:
    """What a custom part has besides its envelope; lengths in mm.

    ``digest`` names its mesh and how it lies; two with one digest are one. ``outline`` is its front
    view; ``turns`` the rotations, 3 × 3, from lying to each orientation, and ``boxes`` its width,
    depth and height so; ``places`` name, letter and position from 0 to 1 of where it may fail first;
    ``stress_per_load`` in 1/m², where a section is chosen; ``mesh`` fetches the body as it lies.
    """

    digest: str
    outline: tuple[Point, ...]
    turns: Mapping[str, Any]
    boxes: Mapping[str, tuple[float, float, float]]
    mesh: Callable[[], Any]
    places: tuple[tuple[str, str, str, float], ...] = ()
    stress_per_load: float | None = None
    fixtures: str = ""

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Part) and other.digest == self.digest

    def __hash__(self) -> int:
        return hash(self.digest)


@dataclass(frozen=True)
class SpecimenType:
    """A geometry to print. Sizes in mm (and ° for the notch); a custom part has a ``part``."""

    key: str
    name: str
    shape_key: str
    sizes: Mapping[str, float]
    follows: str = ""
    part: Part | None = None

    def __hash__(self) -> int:
        return hash((self.key, self.shape_key, tuple(sorted(self.sizes.items())), self.part))

    @property
    def shape(self) -> SpecimenShape:
        """Its family."""
        return SHAPES[self.shape_key]

    @cached_property
    def outline(self) -> tuple[Point, ...]:
        """Front view, standing on y = 0 about x = 0; mm."""
        return self.part.outline if self.part else tuple(self.shape.outline(self.sizes))

    @property
    def turns(self) -> Mapping[str, Any] | None:
        """How a custom part is turned for each orientation; ``None`` where the axes say it."""
        return self.part.turns if self.part else None

    @property
    def volume(self) -> float:
        """Solid volume in mm³."""
        return self.shape.volume(self.sizes)

    @property
    def area(self) -> float:
        """Tested section in mm²."""
        return section_area(self.shape, self.sizes)

    @property
    def second_moment(self) -> float:
        """Of the tested section, flat way; mm⁴."""
        return second_moment(self.shape, self.sizes)

    @property
    def box(self) -> tuple[float, float, float]:
        """Width, length and depth as drawn; mm."""
        if self.part:
            return self.sizes["width"], self.sizes["overall"], self.sizes["thickness"]
        xs, ys = [x for x, _ in self.outline], [y for _, y in self.outline]
        depth = (
            self.sizes[self.shape.depth]
            if self.shape.depth
            else self.sizes.get("wide", self.sizes["diameter"])
        )
        return max(xs) - min(xs), max(ys) - min(ys), depth

    @property
    def overall(self) -> float:
        """Length as drawn; mm."""
        return self.sizes["overall"]

    @property
    def wide(self) -> float:
        """Largest width as drawn; mm."""
        return self.box[0]

    @property
    def nominal(self) -> dict[str, float]:
        """The sizes measured before a test, by input key; mm. A custom part has none."""
        if self.shape_key == "part":
            return {}
        kind, names = self.shape.section
        if kind == "rectangle":
            return {"width": self.sizes[names[0]], "thickness": self.sizes[names[-1]]}
        if kind == "round":
            return {"diameter": self.sizes[names[0]]}
        return {
            "outer_diameter": self.sizes["diameter"],
            "inner_diameter": self.sizes["diameter"] - 2 * self.sizes["wall"],
        }

    def mass(self, density: float, solid: float = 1.0) -> float:
        """Mass in kg for a density in kg/m³ and a filled share.

        >>> round(TYPES["bend-80"].mass(1240.0) * 1000, 3)
        3.968
        """
        return self.volume * 1e-9 * density * solid


def make_type(
    key: str,
    name: str,
    shape_key: str,
    sizes: Mapping[str, float],
    follows: str = "",
    part: Part | None = None,
) -> SpecimenType:
    """A specimen type whose sizes have been checked.

    Raises :class:`InputError` naming the size that is missing, not positive, or impossible.

    >>> make_type("x", "X", "bar", {"overall": 80, "width": -1, "thickness": 4})
    Traceback (most recent call last):
    brunt_core.errors.InputError: The width must be more than zero.
    """
    if shape_key not in SHAPES:
        raise InputError(f"There is no shape “{shape_key}”.", "shape")
    shape = SHAPES[shape_key]
    for size, label in shape.sizes.items():
        if size not in sizes and size != "outer_radius":
            raise InputError(f"The {label} is missing.", size)
        if size in sizes and sizes[size] <= 0 and not (size == "outer_radius" and sizes[size] == 0):
            raise InputError(f"The {label} must be more than zero.", size)
        if size in sizes and sizes[size] > 1000 and size != "volume":
            raise InputError(
                f"The {label} of {sizes[size]:g} mm is larger than any printer here; is the unit right?",
                size,
            )
    shape.check(sizes)
    return SpecimenType(key, name, shape_key, dict(sizes), follows, part)


def _dumbbell(
    key: str,
    name: str,
    follows: str,
    overall: float,
    parallel: float,
    radius: float,
    wide: float,
    narrow: float,
    thickness: float,
    gauge: float,
    outer: float = 0.0,
) -> SpecimenType:
    return make_type(
        key,
        name,
        "dumbbell",
        {
            "overall": overall,
            "parallel": parallel,
            "radius": radius,
            "wide": wide,
            "narrow": narrow,
            "thickness": thickness,
            "gauge": gauge,
            "outer_radius": outer,
        },
        follows,
    )


def _bar(
    key: str, name: str, follows: str, overall: float, width: float, thickness: float
) -> SpecimenType:
    return make_type(
        key, name, "bar", {"overall": overall, "width": width, "thickness": thickness}, follows
    )


_NOTCH_A = {
    "overall": 80,
    "width": 10,
    "thickness": 4,
    "notch_depth": 2,
    "notch_radius": 0.25,
    "notch_angle": 45,
}
_ROD = {"overall": 100, "parallel": 60, "diameter": 8, "wide": 12}

TYPES: dict[str, SpecimenType] = {
    t.key: t
    for t in (
        _dumbbell(
            "tension-1ba",
            "Tension bar 1BA",
            "ISO 527-2 type 1BA",
            overall=75,
            parallel=30,
            radius=30,
            wide=10,
            narrow=5,
            thickness=2,
            gauge=25,
        ),
        _dumbbell(
            "tension-1b",
            "Tension bar 1B",
            "ISO 527-2 type 1B",
            overall=150,
            parallel=60,
            radius=60,
            wide=20,
            narrow=10,
            thickness=4,
            gauge=50,
        ),
        _dumbbell(
            "tension-1a",
            "Tension bar 1A",
            "ISO 527-2 type 1A",
            overall=170,
            parallel=80,
            radius=24,
            wide=20,
            narrow=10,
            thickness=4,
            gauge=75,
        ),
        _dumbbell(
            "tension-5a",
            "Tension bar 5A",
            "ISO 527-2 type 5A",
            overall=75,
            parallel=25,
            radius=8,
            wide=12.5,
            narrow=4,
            thickness=2,
            gauge=20,
            outer=12.5,
        ),
        _dumbbell(
            "tension-i",
            "Tension bar Type I",
            "ASTM D638 Type I",
            overall=165,
            parallel=57,
            radius=76,
            wide=19,
            narrow=13,
            thickness=3.2,
            gauge=50,
        ),
        _dumbbell(
            "tension-iv",
            "Tension bar Type IV",
            "ASTM D638 Type IV",
            overall=115,
            parallel=33,
            radius=14,
            wide=19,
            narrow=6,
            thickness=3.2,
            gauge=25,
            outer=25,
        ),
        _dumbbell(
            "tension-v",
            "Tension bar Type V",
            "ASTM D638 Type V",
            overall=63.5,
            parallel=9.53,
            radius=12.7,
            wide=9.53,
            narrow=3.18,
            thickness=3.2,
            gauge=7.62,
        ),
        _bar("bend-80", "Bending bar 80 × 10 × 4", "ISO 178", 80, 10, 4),
        _bar("bend-127", "Bending bar 127 × 12.7 × 3.2", "ASTM D790", 127, 12.7, 3.2),
        _bar("impact-80", "Impact bar, no notch", "ISO 179-1, ISO 180", 80, 10, 4),
        make_type(
            "impact-80-a",
            "Impact bar, notch A",
            "notched",
            _NOTCH_A,
            "ISO 179-1 notch A, ISO 180 notch A",
        ),
        make_type("torsion-round", "Torsion rod, round", "round-rod", _ROD),
        make_type("torsion-square", "Torsion bar, square", "square-rod", _ROD),
        make_type("shear-pin", "Shear pin", "pin", {"diameter": 6, "overall": 30}),
        _bar("cube-10", "Compression cube", "", 10, 10, 10),
        make_type(
            "cylinder-12",
            "Compression cylinder",
            "pin",
            {"diameter": 12.7, "overall": 25.4},
            "ASTM D695",
        ),
        _bar("creep-80", "Creep bar", "ISO 899-2", 80, 10, 4),
        _bar("heat-80", "Heat bar", "ISO 75, flatwise", 80, 10, 4),
        _bar("coupon-60", "Shrinkage coupon", "", 60, 60, 4),
        _bar("part-60", "Real part, as its envelope", "", 60, 20, 10),
        _bar("layer-60", "Layer-adhesion bar, upright", "", 60, 10, 4),
        make_type(
            "insert-block",
            "Insert block",
            "block",
            {"overall": 20, "width": 20, "thickness": 12, "hole": 4.0, "hole_depth": 10},
        ),
        make_type(
            "ring-30", "Single-wall cylinder", "ring", {"diameter": 30, "wall": 0.45, "overall": 20}
        ),
    )
}


def specimen_type(key: str) -> SpecimenType:
    """A published type by key; :class:`InputError` when there is none.

    >>> specimen_type("tension-1ba").area
    10
    """
    if key not in TYPES:
        raise InputError(f"There is no specimen type “{key}”.", "specimen_type")
    return TYPES[key]
