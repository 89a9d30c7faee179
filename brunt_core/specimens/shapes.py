"""The shapes specimens take: sizes in mm, outline, solid volume, tested section. Pure arithmetic."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import acos, asin, cos, pi, radians, sin, sqrt, tan

from brunt_core.errors import InputError

Point = tuple[float, float]
Sizes = Mapping[str, float]


@dataclass(frozen=True)
class SpecimenShape:
    """A family of geometries.

    ``sizes`` maps each size to its label; ``outline`` gives the front view standing on y = 0 about
    x = 0; ``depth`` names the size it is extruded by (empty for round shapes); ``volume`` in mm³;
    ``section`` the tested section: its kind and sizes; ``check`` raises :class:`InputError`.
    """

    key: str
    sizes: Mapping[str, str]
    outline: Callable[[Sizes], list[Point]]
    volume: Callable[[Sizes], float]
    section: tuple[str, tuple[str, ...]]
    check: Callable[[Sizes], None]
    depth: str = "thickness"
    long_side: str = "overall"


def _nothing(sizes: Sizes) -> None:
    """No rule beyond positive sizes."""


# -- dumbbell -----------------------------------------------------------------------------------


def fillet_length(radius: float, outer: float, step: float) -> float:
    """Length along the bar of the way from the narrow part to the grip.

    One concave arc of ``radius`` R, then a convex one of ``outer`` radius (0 for none), climbing by
    ``step`` s: with cos φ = 1 − s/(R + R₂), the length is (R + R₂)·sin φ. mm.

    >>> round(fillet_length(60.0, 0.0, 5.0), 3)
    23.979
    """
    both = radius + outer
    return sqrt(both**2 - (both - min(step, both)) ** 2)


def _arc_points(sizes: Sizes, steps: int = 8) -> list[Point]:
    """(distance from the narrow part's end, half-width) along the fillet, narrow end first."""
    radius, outer, half = sizes["radius"], sizes.get("outer_radius", 0.0), sizes["narrow"] / 2
    step = (sizes["wide"] - sizes["narrow"]) / 2
    sweep = acos(max(1 - step / (radius + outer), -1.0)) if step > 0 else 0.0
    inner = [
        (radius * sin(sweep * k / steps), half + radius * (1 - cos(sweep * k / steps)))
        for k in range(steps + 1)
    ]
    if not outer:
        return inner
    end = fillet_length(radius, outer, step)
    return inner + [
        (
            end - outer * sin(sweep * (steps - k) / steps),
            sizes["wide"] / 2 - outer * (1 - cos(sweep * (steps - k) / steps)),
        )
        for k in range(1, steps + 1)
    ]


def dumbbell_outline(sizes: Sizes) -> list[Point]:
    """The closed outline of a dumbbell bar, anticlockwise from the lower right corner; mm."""
    low = (sizes["overall"] - sizes["parallel"]) / 2
    fillet = [(half, low - along) for along, half in reversed(_arc_points(sizes))]
    edge = [(sizes["wide"] / 2, 0.0), *fillet]
    right = edge + [(x, sizes["overall"] - y) for x, y in reversed(edge)]
    return right + [(-x, y) for x, y in reversed(right)]


def dumbbell_area(sizes: Sizes) -> float:
    """Exact area of the outline, arcs integrated in closed form; mm².

    Under a concave arc of radius R over a length f: (n/2 + R)·f − ½·(f·√(R² − f²) + R²·asin(f/R)).
    """
    radius, outer, half = sizes["radius"], sizes.get("outer_radius", 0.0), sizes["narrow"] / 2
    step = (sizes["wide"] - sizes["narrow"]) / 2
    both = radius + outer
    length = fillet_length(radius, outer, step)
    inner = length * radius / both
    fillet = (half + radius) * inner - _under_circle(radius, inner)
    rest = length - inner
    fillet += (sizes["wide"] / 2 - outer) * rest + _under_circle(outer, rest)
    grips = sizes["overall"] - sizes["parallel"] - 2 * length
    return sizes["narrow"] * sizes["parallel"] + 4 * fillet + sizes["wide"] * grips


def _under_circle(radius: float, length: float) -> float:
    if radius <= 0:
        return 0.0
    part = min(length / radius, 1.0)
    return (length * sqrt(max(radius**2 - length**2, 0.0)) + radius**2 * asin(part)) / 2


def _check_dumbbell(sizes: Sizes) -> None:
    step = (sizes["wide"] - sizes["narrow"]) / 2
    if step < 0:
        raise InputError("The grips cannot be narrower than the narrow part.", "wide")
    if step > sizes["radius"] + sizes.get("outer_radius", 0.0):
        raise InputError(
            f"A fillet of {sizes['radius']:g} mm cannot climb the {step:g} mm to the grip; enlarge it.",
            "radius",
        )
    used = sizes["parallel"] + 2 * fillet_length(
        sizes["radius"], sizes.get("outer_radius", 0.0), step
    )
    if used > sizes["overall"]:
        raise InputError(
            f"The narrow part and its fillets need {used:.1f} mm, more than the bar's {sizes['overall']:g} mm: "
            "shorten it or make the fillet smaller.",
            "radius",
        )
    if sizes.get("gauge", 0) > sizes["parallel"]:
        raise InputError("The gauge length cannot be longer than the narrow part.", "gauge")


# -- plain and notched bars ---------------------------------------------------------------------


def rectangle_outline(across: float, along: float) -> list[Point]:
    """A rectangle standing on y = 0 about x = 0."""
    return [(across / 2, 0.0), (across / 2, along), (-across / 2, along), (-across / 2, 0.0)]


def notched_outline(sizes: Sizes, steps: int = 6) -> list[Point]:
    """A bar with a V notch of the given depth, root radius and included angle in its right edge; mm."""
    half, middle = sizes["width"] / 2, sizes["overall"] / 2
    depth, radius, angle = (
        sizes["notch_depth"],
        sizes["notch_radius"],
        radians(sizes["notch_angle"] / 2),
    )
    centre = half - depth + radius
    arc = [
        (centre - radius * cos(t), middle + radius * sin(t))
        for t in (-(pi / 2 - angle) + (pi - 2 * angle) * k / steps for k in range(steps + 1))
    ]
    mouth = arc[-1][1] - middle + (half - arc[-1][0]) * tan(angle)
    right = [
        (half, 0.0),
        (half, middle - mouth),
        *arc,
        (half, middle + mouth),
        (half, sizes["overall"]),
    ]
    return [*right, (-half, sizes["overall"]), (-half, 0.0)]


def _check_notch(sizes: Sizes) -> None:
    if sizes["notch_depth"] >= sizes["width"]:
        raise InputError("The notch cannot be deeper than the bar is wide.", "notch_depth")
    if sizes["notch_radius"] >= sizes["notch_depth"]:
        raise InputError("The notch's root radius must be smaller than its depth.", "notch_radius")
    if not 10 <= sizes["notch_angle"] <= 120:
        raise InputError("The notch's angle lies between 10° and 120°.", "notch_angle")


def polygon_area(points: list[Point]) -> float:
    """Area of a closed polygon by the shoelace formula, positive.

    >>> polygon_area([(0, 0), (4, 0), (4, 3), (0, 3)])
    12.0
    """
    pairs = zip(points, points[1:] + points[:1], strict=True)
    return abs(sum(x1 * y2 - x2 * y1 for (x1, y1), (x2, y2) in pairs)) / 2


# -- rods, blocks, rings ------------------------------------------------------------------------


def rod_outline(sizes: Sizes) -> list[Point]:
    """A torsion rod: a thin middle between two square ends; front view; mm."""
    end, half, thin, long = (
        (sizes["overall"] - sizes["parallel"]) / 2,
        sizes["wide"] / 2,
        sizes["diameter"] / 2,
        sizes["overall"],
    )
    right = [
        (half, 0.0),
        (half, end),
        (thin, end),
        (thin, long - end),
        (half, long - end),
        (half, long),
    ]
    return right + [(-x, y) for x, y in reversed(right)]


def _rod_volume(sizes: Sizes, section: float) -> float:
    return section * sizes["parallel"] + sizes["wide"] ** 2 * (sizes["overall"] - sizes["parallel"])


def _check_rod(sizes: Sizes) -> None:
    if sizes["parallel"] >= sizes["overall"]:
        raise InputError("The twisted length must be shorter than the rod.", "parallel")
    if sizes["diameter"] > sizes["wide"]:
        raise InputError("The ends cannot be thinner than the twisted part.", "wide")


def _check_hole(sizes: Sizes) -> None:
    if sizes["hole"] >= min(sizes["width"], sizes["overall"]):
        raise InputError("The hole must be smaller than the block.", "hole")
    if sizes["hole_depth"] > sizes["thickness"]:
        raise InputError("The hole cannot be deeper than the block is high.", "hole_depth")


def _check_ring(sizes: Sizes) -> None:
    if 2 * sizes["wall"] >= sizes["diameter"]:
        raise InputError("The wall is thicker than the cylinder.", "wall")


_BAR = {"overall": "length", "width": "width", "thickness": "thickness"}
_ROD = {
    "overall": "overall length",
    "parallel": "twisted length",
    "diameter": "diameter or side",
    "wide": "side of the ends",
}

SHAPES: dict[str, SpecimenShape] = {
    s.key: s
    for s in (
        SpecimenShape(
            "dumbbell",
            {
                "overall": "overall length",
                "parallel": "narrow length",
                "radius": "fillet radius",
                "wide": "width at the grips",
                "narrow": "narrow width",
                "thickness": "thickness",
                "gauge": "gauge length",
                "outer_radius": "outer fillet radius",
            },
            dumbbell_outline,
            lambda s: dumbbell_area(s) * s["thickness"],
            ("rectangle", ("narrow", "thickness")),
            _check_dumbbell,
        ),
        SpecimenShape(
            "bar",
            _BAR,
            lambda s: rectangle_outline(s["width"], s["overall"]),
            lambda s: s["overall"] * s["width"] * s["thickness"],
            ("rectangle", ("width", "thickness")),
            _nothing,
        ),
        SpecimenShape(
            "notched",
            {
                **_BAR,
                "notch_depth": "notch depth",
                "notch_radius": "notch root radius",
                "notch_angle": "notch angle, °",
            },
            notched_outline,
            lambda s: polygon_area(notched_outline(s, 24)) * s["thickness"],
            ("rectangle", ("width", "thickness")),
            _check_notch,
        ),
        SpecimenShape(
            "round-rod",
            _ROD,
            rod_outline,
            volume=lambda s: _rod_volume(s, pi * s["diameter"] ** 2 / 4),
            section=("round", ("diameter",)),
            check=_check_rod,
            depth="",
        ),
        SpecimenShape(
            "square-rod",
            _ROD,
            rod_outline,
            volume=lambda s: _rod_volume(s, s["diameter"] ** 2),
            section=("rectangle", ("diameter", "diameter")),
            check=_check_rod,
            depth="",
        ),
        SpecimenShape(
            "pin",
            {"diameter": "diameter", "overall": "length"},
            lambda s: rectangle_outline(s["diameter"], s["overall"]),
            volume=lambda s: pi * s["diameter"] ** 2 / 4 * s["overall"],
            section=("round", ("diameter",)),
            check=_nothing,
            depth="",
        ),
        SpecimenShape(
            "block",
            {**_BAR, "hole": "hole diameter", "hole_depth": "hole depth"},
            lambda s: rectangle_outline(s["width"], s["overall"]),
            lambda s: (
                s["overall"] * s["width"] * s["thickness"]
                - pi * s["hole"] ** 2 / 4 * s["hole_depth"]
            ),
            ("rectangle", ("width", "thickness")),
            _check_hole,
        ),
        SpecimenShape(
            "part",
            {**_BAR, "volume": "volume"},
            lambda s: rectangle_outline(s["width"], s["overall"]),
            lambda s: s["volume"],
            ("rectangle", ("width", "thickness")),
            _nothing,
        ),
        SpecimenShape(
            "ring",
            {"diameter": "outer diameter", "wall": "wall", "overall": "height"},
            lambda s: rectangle_outline(s["diameter"], s["overall"]),
            volume=lambda s: pi * (s["diameter"] - s["wall"]) * s["wall"] * s["overall"],
            section=("tube", ("diameter", "wall")),
            check=_check_ring,
            depth="",
        ),
    )
}


def second_moment(shape: SpecimenShape, sizes: Sizes) -> float:
    """Second moment of the tested section about its middle, bending the flat way; mm⁴.

    b·h³/12 for rectangles, π·d⁴/64 for circles, π·(D⁴ − d⁴)/64 for tubes. Source: any handbook.

    >>> round(second_moment(SHAPES["bar"], {"overall": 80, "width": 10, "thickness": 4}), 4)
    53.3333
    """
    kind, names = shape.section
    first, last = sizes[names[0]], sizes[names[-1]]
    if kind == "rectangle":
        return first * last**3 / 12
    inner = first - 2 * last if kind == "tube" else 0.0
    return pi * (first**4 - inner**4) / 64


def section_area(shape: SpecimenShape, sizes: Sizes) -> float:
    """Area of the tested section; mm².

    >>> section_area(SHAPES["bar"], {"overall": 80, "width": 10, "thickness": 4})
    40
    """
    kind, names = shape.section
    first, last = sizes[names[0]], sizes[names[-1]]
    if kind == "rectangle":
        return first * last
    inner = first - 2 * last if kind == "tube" else 0.0
    return pi * (first**2 - inner**2) / 4
