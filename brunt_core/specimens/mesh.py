"""Watertight meshes for printing, by maintained geometry libraries; millimetres."""

from functools import lru_cache
from math import pi
from typing import Any

import numpy as np

from brunt_core.errors import InputError
from brunt_core.specimens.marking import cell_for, text_polygons
from brunt_core.specimens.types import SpecimenType

RAISED = 0.4
_SUNK = 0.1


@lru_cache(maxsize=64)
def _plain(key: str, shape_key: str, sizes: tuple[tuple[str, float], ...]) -> Any:
    specimen = SpecimenType(key, "", shape_key, dict(sizes))
    return _BUILDERS.get(shape_key, _extruded)(specimen)


def body(specimen: SpecimenType) -> Any:
    """The specimen without a mark, lying: length along y, on z = 0, as a ``trimesh.Trimesh``.

    >>> from brunt_core.specimens.types import make_type
    >>> body(make_type("b", "B", "bar", {"overall": 80, "width": 10, "thickness": 4})).is_watertight
    True
    """
    return _plain(specimen.key, specimen.shape_key, tuple(sorted(specimen.sizes.items()))).copy()


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


_BUILDERS = {"pin": _pin, "ring": _ring, "block": _block, "round-rod": _rod, "square-rod": _rod}


def mark_place(specimen: SpecimenType) -> tuple[float, float, float, float, float] | None:
    """Where the ID goes: centre x, y, z of the face, and the room's width and height; ``None`` for no room.

    On the grip end of bars and rods, on the face of blocks and coupons; pins and rings have no flat that takes it.
    """
    s = specimen.sizes
    if specimen.shape_key in ("pin", "ring"):
        return None
    if specimen.shape_key == "block":
        return 0.0, s["overall"] * 0.14, s["thickness"], specimen.wide * 0.86, s["overall"] * 0.2
    end = (s["overall"] - s["parallel"]) / 2 if "parallel" in s else s["overall"] / 3
    return 0.0, end * 0.5, specimen.box[2], specimen.wide * 0.9, end * 0.9


def marked(specimen: SpecimenType, code: str) -> Any:
    """The specimen with its ID raised by :data:`RAISED` mm, lying; where there is no room, without.

    The text runs along the specimen where that makes it larger. Raises :class:`InputError` when the
    mesh does not close, which would be a fault of the geometry.
    """
    import trimesh

    plain, place = body(specimen), mark_place(specimen)
    letters = _letters(code, place) if place else []
    if not letters:
        return plain
    joined = trimesh.boolean.union([plain, *letters], engine="manifold")
    if not joined.is_watertight:
        raise InputError(f"The mesh of {specimen.name} with its mark does not close.")
    return joined


def _letters(code: str, place: tuple[float, float, float, float, float]) -> list[Any]:
    import trimesh

    x, y, z, width, height = place
    across, along = text_polygons(code, width, height), text_polygons(code, height, width)
    turned = _reach(along) > _reach(across)
    found = []
    for polygon in along if turned else across:
        letter = trimesh.creation.extrude_polygon(polygon, RAISED + _SUNK, engine="manifold")
        if turned:
            letter.apply_transform(trimesh.transformations.rotation_matrix(pi / 2, (0, 0, 1)))
        found.append(letter.apply_translation((x, y, z - _SUNK)))
    return found


def _reach(polygons: list[Any]) -> float:
    return sum(p.area for p in polygons)


def has_room(specimen: SpecimenType) -> bool:
    """Whether an ID can be raised on it; if not, its bag is labelled."""
    place = mark_place(specimen)
    return bool(
        place and (cell_for("H8-888", place[3], place[4]) or cell_for("H8-888", place[4], place[3]))
    )


def standing(specimen: SpecimenType, orientation: str) -> tuple[float, float, float]:
    """Width, depth and height in mm as it stands on the plate, its raised ID included.

    Raises :class:`InputError` for another word than flat, edge or upright.

    >>> from brunt_core.specimens.types import TYPES
    >>> standing(TYPES["tension-1ba"], "upright")
    (10.0, 2.4, 75.0)
    """
    width, length, depth = (round(float(x), 6) for x in specimen.box)
    raised = RAISED if has_room(specimen) else 0.0
    stands = {
        "flat": (width, length, depth + raised),
        "edge": (depth + raised, length, width),
        "upright": (width, depth + raised, length),
    }
    if orientation not in stands:
        raise InputError(f"“{orientation}” is not flat, edge or upright.", "orientation")
    return stands[orientation]


def oriented(mesh: Any, orientation: str) -> Any:
    """The mesh turned as it is printed, resting on z = 0 with its corner at the origin.

    ``flat`` (XYZ) lies; ``edge`` (XZY) stands on its long edge; ``upright`` (ZXY) stands on its end. ISO/ASTM 52921.
    Raises :class:`InputError` for another word.
    """
    import trimesh

    turns = {"flat": None, "edge": (pi / 2, (0, 1, 0)), "upright": (pi / 2, (1, 0, 0))}
    if orientation not in turns:
        raise InputError(f"“{orientation}” is not flat, edge or upright.", "orientation")
    turned = mesh.copy()
    turn = turns[orientation]
    if turn:
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
