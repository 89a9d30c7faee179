"""Watertight meshes for printing, by maintained geometry libraries; millimetres."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from math import pi
from typing import Any

import numpy as np

from brunt_core.errors import InputError
from brunt_core.parts.solids import as_manifold
from brunt_core.specimens.engraving import engraved
from brunt_core.specimens.marking import NOZZLE, cell_for, glyph, glyph_places
from brunt_core.specimens.shapes import fillet_length
from brunt_core.specimens.types import SpecimenType

SUNK = 0.4
_OVER = 0.2


@lru_cache(maxsize=64)
def _plain(specimen: SpecimenType) -> Any:
    return _BUILDERS.get(specimen.shape_key, _extruded)(specimen)


def body(specimen: SpecimenType) -> Any:
    """The specimen without a mark, lying: length along y, on z = 0, as a ``trimesh.Trimesh``.

    >>> from brunt_core.specimens.types import make_type
    >>> body(make_type("b", "B", "bar", {"overall": 80, "width": 10, "thickness": 4})).is_watertight
    True
    """
    return _plain(specimen).copy()


def _extruded(specimen: SpecimenType) -> Any:
    import trimesh
    from shapely import Polygon

    return trimesh.creation.extrude_polygon(
        Polygon(specimen.outline), specimen.box[2], engine="manifold"
    )


def _cylinder(diameter: float, length: float) -> Any:
    """A cylinder standing on z = 0, finely faceted and with the true circle's area."""
    import trimesh

    facets = 96
    radius = diameter / 2 * np.sqrt(2 * pi / facets / np.sin(2 * pi / facets))
    return trimesh.creation.cylinder(
        radius=radius, height=length, sections=facets
    ).apply_translation((0, 0, length / 2))


def _pin(specimen: SpecimenType) -> Any:
    return _cylinder(specimen.sizes["diameter"], specimen.sizes["overall"])


def _ring(specimen: SpecimenType) -> Any:
    import trimesh

    s = specimen.sizes
    bore = _cylinder(s["diameter"] - 2 * s["wall"], s["overall"] + 2).apply_translation((0, 0, -1))
    return trimesh.boolean.difference(
        [_cylinder(s["diameter"], s["overall"]), bore], engine="manifold"
    )


def _block(specimen: SpecimenType) -> Any:
    import trimesh

    s = specimen.sizes
    hole = _cylinder(s["hole"], s["hole_depth"] + 1).apply_translation(
        (0, s["overall"] / 2, s["thickness"] - s["hole_depth"])
    )
    return trimesh.boolean.difference([_extruded(specimen), hole], engine="manifold")


def _rod(specimen: SpecimenType) -> Any:
    import trimesh

    s = specimen.sizes
    end, middle = (s["overall"] - s["parallel"]) / 2, s["wide"] / 2
    ends = [
        trimesh.creation.box((s["wide"], end, s["wide"])).apply_translation((0, y, middle))
        for y in (end / 2, s["overall"] - end / 2)
    ]
    if specimen.shape_key == "round-rod":
        core = _cylinder(s["diameter"], s["parallel"] + end).apply_transform(
            trimesh.transformations.rotation_matrix(-pi / 2, (1, 0, 0))
        )
        core.apply_translation((0, end / 2, middle))
    else:
        core = trimesh.creation.box(
            (s["diameter"], s["parallel"] + end, s["diameter"])
        ).apply_translation((0, s["overall"] / 2, middle))
    return trimesh.boolean.union([*ends, core], engine="manifold")


def _part(specimen: SpecimenType) -> Any:
    """A tester's own mesh; its envelope where none is at hand."""
    return specimen.part.mesh() if specimen.part else _extruded(specimen)


_BUILDERS = {
    "part": _part,
    "pin": _pin,
    "ring": _ring,
    "block": _block,
    "round-rod": _rod,
    "square-rod": _rod,
}


@dataclass(frozen=True)
class Face:
    """A flat that takes an ID: its middle, the way text runs, the way up, outward; room across and up; mm."""

    middle: tuple[float, float, float]
    across: tuple[float, float, float]
    up: tuple[float, float, float]
    out: tuple[float, float, float]
    width: float
    height: float


# Free of the edge, of a fillet, and of the line a support touches on; mm.
_EDGE, _FILLET, _SUPPORT = 0.75, 0.8, 1.75
# Supports stand no nearer to the end than this share of a bar's length (a span of 0.8 of it).
_OVERHANG = 0.1
_UP, _ALONG, _ACROSS = (0.0, 0.0, 1.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0)


def free_end(specimen: SpecimenType) -> tuple[float, float] | None:
    """From where to where along the specimen its upper face serves nothing; mm from its end.

    A dumbbell's grip up to its fillet, a bar's end up to its support, a block's front up to its hole;
    ``None`` for round pieces, cubes, and rods, whose ends go into sockets.

    >>> from brunt_core.specimens.types import TYPES
    >>> free_end(TYPES["bend-80"]), free_end(TYPES["shear-pin"])
    ((0.75, 6.25), None)
    """
    s = specimen.sizes
    if specimen.shape_key == "dumbbell":
        outer = s.get("outer_radius", 0.0)
        fillet = fillet_length(s["radius"], outer, (s["wide"] - s["narrow"]) / 2)
        return _EDGE, (s["overall"] - s["parallel"]) / 2 - fillet - _FILLET
    if specimen.shape_key == "block":
        return _EDGE, s["overall"] / 2 - s["hole"] / 2 - _SUPPORT
    if specimen.shape_key in ("bar", "notched") and s["overall"] > 1.5 * s["width"]:
        return _EDGE, s["overall"] * _OVERHANG - _SUPPORT
    if specimen.shape_key == "bar" and s["overall"] > 2 * s["thickness"]:
        return _EDGE, s["overall"] * 0.3
    return None


def mark_place(specimen: SpecimenType) -> Face | None:
    """Where the ID goes; ``None`` where no face is free.

    On the upper face of a free end; a rod's on its end, since its sides go into a socket.
    """
    if specimen.shape_key in ("round-rod", "square-rod"):
        side = specimen.sizes["wide"] - 2 * _EDGE
        middle = (0.0, specimen.overall, specimen.sizes["wide"] / 2)
        return Face(middle, across=(-1.0, 0.0, 0.0), up=_UP, out=_ALONG, width=side, height=side)
    free = free_end(specimen)
    if free is None or free[1] <= free[0]:
        return None
    middle = (0.0, (free[0] + free[1]) / 2, specimen.box[2])
    width, height = specimen.wide - 2 * _EDGE, free[1] - free[0]
    return Face(middle, across=_ACROSS, up=_ALONG, out=_UP, width=width, height=height)


def marked(specimen: SpecimenType, code: str, nozzle: float = NOZZLE) -> Any:
    """The specimen with its ID sunk by :data:`SUNK` mm, lying; where no face is free, without.

    Sunk, it stands in no grip's, socket's or calliper's way and adds nothing to any size. The text
    runs along the specimen where that makes it larger; its strokes are no thinner than the ``nozzle``,
    in mm. Raises :class:`InputError` when the mesh does not close, which would be a fault of the geometry.
    """
    import trimesh
    from manifold3d import Error

    place = mark_place(specimen)
    if place and _flat_topped(specimen):
        return _engraved(specimen, code, place, nozzle)
    letters = _letters(code, place, depth_of(specimen), nozzle) if place else None
    if letters is None:
        return body(specimen)
    cut = _solid(specimen) - letters
    if cut.status() != Error.NoError or cut.is_empty():
        raise InputError(f"The mesh of {specimen.name} with its mark does not close.")
    found = cut.to_mesh64()
    return trimesh.Trimesh(found.vert_properties[:, :3], found.tri_verts, process=False)


@lru_cache(maxsize=64)
def _solid(specimen: SpecimenType) -> Any:
    """The plain body as the boolean library's own."""
    return as_manifold(_plain(specimen))


def depth_of(specimen: SpecimenType) -> float:
    """How deep the ID is sunk: no more than a fifth of the thickness; mm."""
    return min(SUNK, specimen.box[2] / 5)


@lru_cache(maxsize=64)
def _glyph_section(character: str) -> Any:
    from manifold3d import CrossSection, FillRule

    rings = [
        np.asarray(ring.coords[:-1])
        for polygon in glyph(character)
        for ring in (polygon.exterior, *polygon.interiors)
    ]
    return CrossSection(rings, FillRule.EvenOdd)


def _flat_topped(specimen: SpecimenType) -> bool:
    """Whether it is one outline of one thickness, whose upper face takes the ID."""
    return specimen.shape_key in ("dumbbell", "bar", "notched")


@lru_cache(maxsize=64)
def _glyph_rings(character: str) -> tuple[tuple[Any, tuple[Any, ...]], ...]:
    return tuple(
        (
            np.asarray(polygon.exterior.coords[:-1]),
            tuple(np.asarray(r.coords[:-1]) for r in polygon.interiors),
        )
        for polygon in glyph(character)
    )


def _engraved(specimen: SpecimenType, code: str, face: Face, nozzle: float) -> Any:
    """A flat-topped specimen with its ID sunk into the upper face."""
    import trimesh

    cell, placed, right, up = _placed(code, face, nozzle)
    if not placed:
        return body(specimen)
    turn, middle = np.column_stack((right, up))[:2], np.array(face.middle[:2])

    def laid(ring: Any, x: float, y: float) -> Any:
        return (ring * cell + (x, y)) @ turn.T + middle

    letters = [
        (laid(outer, x, y), [laid(ring, x, y) for ring in inner])
        for character, x, y in placed
        for outer, inner in _glyph_rings(character)
    ]
    corners, faces = engraved(specimen.outline, specimen.box[2], letters, depth_of(specimen))
    return trimesh.Trimesh(corners, faces, process=False)


def _placed(
    code: str, face: Face, nozzle: float
) -> tuple[float, list[tuple[str, float, float]], Any, Any]:
    """Cell and characters of an ID on a face, and the way its lines run and rise: the larger of both ways."""
    across = glyph_places(code, face.width, face.height, nozzle)
    along = glyph_places(code, face.height, face.width, nozzle)
    right, up = np.array(face.across), np.array(face.up)
    if along[0] > across[0]:
        return (*along, up, -right)
    return (*across, right, up)


def _letters(code: str, face: Face, depth: float, nozzle: float) -> Any:
    """The ID as one body that is taken off the face; ``None`` where the nozzle cannot print it."""
    from manifold3d import CrossSection, Manifold

    cell, placed, right, up = _placed(code, face, nozzle)
    if not placed:
        return None
    flat = CrossSection.compose(
        [_glyph_section(c).scale((cell, cell)).translate((x, y)) for c, x, y in placed]
    )
    start = np.array(face.middle) - depth * np.array(face.out)
    frame = np.column_stack((right, up, face.out, start))
    return Manifold.extrude(flat, depth + _OVER).transform(frame)


def has_room(specimen: SpecimenType, nozzle: float = NOZZLE) -> bool:
    """Whether an ID can be sunk into it by a nozzle of so many mm; if not, its bag is labelled."""
    place = mark_place(specimen)
    if place is None:
        return False
    sides = (place.width, place.height), (place.height, place.width)
    return any(cell_for("H8-888", *side, nozzle) for side in sides)


def standing_size(specimen: SpecimenType, orientation: str) -> tuple[float, float, float]:
    """Width, depth and height in mm as it stands on the plate.

    Raises :class:`InputError` for another word than flat, edge or upright.

    >>> from brunt_core.specimens.types import TYPES
    >>> standing_size(TYPES["tension-1ba"], "upright")
    (10.0, 2.0, 75.0)
    """
    width, length, depth = (round(float(x), 6) for x in specimen.box)
    stands = (
        dict(specimen.part.boxes)
        if specimen.part
        else {
            "flat": (width, length, depth),
            "edge": (depth, length, width),
            "upright": (width, depth, length),
        }
    )
    if orientation not in stands:
        raise InputError(f"“{orientation}” is not flat, edge or upright.", "orientation")
    return stands[orientation]


def oriented(mesh: Any, orientation: str, own: Mapping[str, Any] | None = None) -> Any:
    """The mesh turned as it is printed, resting on z = 0 with its corner at the origin.

    ``own`` are the rotations of a custom part, which lies and stands on faces of its own.

    ``flat`` (XYZ) lies; ``edge`` (XZY) stands on its long edge; ``upright`` (ZXY) stands on its end. ISO/ASTM 52921.
    Raises :class:`InputError` for another word.
    """
    import trimesh

    turns = {"flat": None, "edge": (pi / 2, (0, 1, 0)), "upright": (pi / 2, (1, 0, 0))}
    if orientation not in turns:
        raise InputError(f"“{orientation}” is not flat, edge or upright.", "orientation")
    turned = mesh.copy()
    turn = turns[orientation]
    if own:
        turned.vertices = turned.vertices @ np.asarray(own[orientation]).T
    elif turn:
        turned.apply_transform(trimesh.transformations.rotation_matrix(turn[0], turn[1]))
    return turned.apply_translation(-turned.bounds[0])


def stl(mesh: Any) -> bytes:
    """Binary STL. The format carries no unit: the numbers are millimetres."""
    return mesh.export(file_type="stl")


def three_mf(parts: list[tuple[str, Any, tuple[float, float]]]) -> bytes:
    """One 3MF of named objects (name, mesh, place on the plate), unit millimetre.

    Raises :class:`InputError` when there is nothing to write.
    """
    import trimesh

    if not parts:
        raise InputError("There is no specimen to put into the file.")
    scene = trimesh.Scene()
    for name, mesh, (x, y) in parts:
        scene.add_geometry(
            mesh,
            node_name=name,
            geom_name=name,
            transform=trimesh.transformations.translation_matrix((x, y, 0)),
        )
    return scene.export(file_type="3mf")
