"""Dimension lines of a specimen's drawing; millimetres, y up."""

from dataclasses import dataclass

from brunt_core.specimens.types import ORIENTATIONS, SpecimenType


@dataclass(frozen=True)
class DimensionLine:
    """A dimension from ``start`` to ``end`` along ``axis`` ("x" or "y"), drawn at ``at`` on the other axis."""

    axis: str
    start: float
    end: float
    at: float
    label: str


def dimension_lines(specimen: SpecimenType) -> list[DimensionLine]:
    """What must be dimensioned to make it, by shape.

    >>> from brunt_core.specimens.types import TYPES
    >>> [d.label for d in dimension_lines(TYPES["tension-1ba"])]
    ['75', '30 narrow', '25 gauge', '10', '5']
    """
    s, length, half = specimen.sizes, specimen.overall, specimen.wide / 2
    gap = max(length * 0.06, half * 0.5)
    lines = [DimensionLine("y", 0, length, -half - 2 * gap, _text(length))]
    for key, word, at in (
        ("parallel", "narrow" if "narrow" in s else "twisted", half + gap),
        ("gauge", "gauge", half + 2.4 * gap),
    ):
        if key in s:
            lines.append(
                DimensionLine(
                    "y", (length - s[key]) / 2, (length + s[key]) / 2, at, f"{_text(s[key])} {word}"
                )
            )
    lines.append(DimensionLine("x", -half, half, -gap, _text(specimen.wide)))
    thin = s.get("narrow") or (s["diameter"] if "parallel" in s else None)
    if thin:
        lines.append(DimensionLine("x", -thin / 2, thin / 2, length / 2, _text(thin)))
    if "notch_depth" in s:
        lines.append(
            DimensionLine(
                "x",
                half - s["notch_depth"],
                half,
                length / 2 + 2 * gap,
                f"{_text(s['notch_depth'])} notch",
            )
        )
    return lines


def remarks(specimen: SpecimenType) -> list[str]:
    """What the front view does not show: thickness, radii, walls, holes.

    >>> from brunt_core.specimens.types import TYPES
    >>> remarks(TYPES["tension-1ba"])
    ['thickness 2 mm', 'fillet radius 30 mm']
    """
    words = [
        ("thickness", "thickness"),
        ("radius", "fillet radius"),
        ("outer_radius", "outer fillet radius"),
        ("notch_radius", "notch root radius"),
        ("hole", "hole diameter"),
        ("hole_depth", "hole depth"),
        ("wall", "wall"),
    ]
    found = [
        f"{word} {_text(specimen.sizes[key])} mm" for key, word in words if specimen.sizes.get(key)
    ]
    if "notch_angle" in specimen.sizes:
        found.append(f"notch angle {_text(specimen.sizes['notch_angle'])}°")
    return found


def _text(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


def block_on_plate(specimen: SpecimenType, orientation: str) -> list[list[tuple[float, float]]]:
    """The bounding block as it stands on the plate: its three seen faces, as drawn at 30°; y up.

    The extents along x, y and z follow from the letters of ISO/ASTM 52921 (longest, middle and shortest side).

    >>> from brunt_core.specimens.types import TYPES
    >>> len(block_on_plate(TYPES["bend-80"], "upright"))
    3
    """
    sides = sorted(specimen.box, reverse=True)
    extent = dict(zip(ORIENTATIONS[orientation], sides, strict=True))
    scale = 80 / sides[0]
    x, y, z = (extent[a] * scale for a in "XYZ")

    def point(a: float, b: float, c: float) -> tuple[float, float]:
        return round(0.866 * (a - b), 2), round(0.5 * (a + b) + c, 2)

    top = [point(0, 0, z), point(x, 0, z), point(x, y, z), point(0, y, z)]
    front = [point(0, 0, 0), point(x, 0, 0), point(x, 0, z), point(0, 0, z)]
    side = [point(0, 0, 0), point(0, y, 0), point(0, y, z), point(0, 0, z)]
    return [top, front, side]
