"""A specimen type as a dimensioned drawing."""

from brunt_core.specimens import mesh
from brunt_core.specimens.drawing import DimensionLine, dimension_lines
from brunt_core.specimens.types import SpecimenType


def drawn_type(geometry: SpecimenType) -> dict[str, object]:
    """The dimensioned front view in drawing units, the length lying across the sheet."""
    lines = dimension_lines(geometry)
    xs = [d.at for d in lines if d.axis == "y"] + [-geometry.wide / 2, geometry.wide / 2]
    ys = [d.at for d in lines if d.axis == "x"] + [0.0, geometry.overall]
    size = max(max(ys) - min(ys), (max(xs) - min(xs)) * 2) / 34
    pad = size * 2.5
    box = (min(ys) - pad, -max(xs) - pad, max(ys) - min(ys) + 2 * pad, max(xs) - min(xs) + 2 * pad)
    return {
        "outline": [(y, x) for x, y in geometry.outline],
        "size": size,
        "box": box,
        "lines": [_line(d, size) for d in lines],
        "mark": _mark(geometry),
    }


def _mark(geometry: SpecimenType) -> tuple[float, float, float, float] | None:
    """Where the ID is sunk into the upper face, as x, y, width and height; nothing where it is not seen from here."""
    face, free = mesh.mark_place(geometry), mesh.free_end(geometry)
    if face is None or free is None or not mesh.has_room(geometry):
        return None
    return free[0], -face.width / 2, face.height, face.width


def _line(d: DimensionLine, size: float) -> dict[str, object]:
    """A dimension line turned with the drawing: y runs across, x up."""
    if d.axis == "y":
        return {
            "path": f"M{d.start},{-d.at} H{d.end} M{d.start},{-d.at - size / 2} v{size} M{d.end},{-d.at - size / 2} v{size}",
            "x": (d.start + d.end) / 2,
            "y": -d.at - size * 0.5,
            "label": d.label,
        }
    return {
        "path": f"M{d.at},{-d.start} V{-d.end} M{d.at - size / 2},{-d.start} h{size} M{d.at - size / 2},{-d.end} h{size}",
        "x": d.at + (-size * 1.4 if d.at < 0 else size * (0.7 + 0.32 * len(d.label))),
        "y": -(d.start + d.end) / 2 + size * 0.4,
        "label": d.label,
    }
