"""A mesh file as one closed solid in millimetres, or the sentence that says why it is none."""

import io
import struct
import zipfile
from dataclasses import dataclass
from typing import Any

import numpy as np

from brunt_core.errors import InputError

UNITS: dict[str, float] = {
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "inch": 25.4,
    "foot": 304.8,
    "micron": 1e-3,
}
_SAID = {
    "millimeter": "mm",
    "millimeters": "mm",
    "millimetre": "mm",
    "centimeter": "cm",
    "centimeters": "cm",
    "meter": "m",
    "meters": "m",
    "inch": "inch",
    "inches": "inch",
    "foot": "foot",
    "feet": "foot",
    "micron": "micron",
    "microns": "micron",
}
MOST_BYTES = 64_000_000
MOST_FACES = 500_000
MOST_BODIES = 200
_MOST_UNPACKED = 400_000_000
_MOST_RATIO = 200
_LARGEST, _SMALLEST = 1000.0, 0.5
_SAME_POINT = 4
_NO_NUMBERS = "Some corners of this mesh are not numbers (NaN or infinite)."
# A facet of a binary STL: normal, three corners, and two bytes of attributes.
_FACET = np.dtype([("normal", "<f4", 3), ("corners", "<f4", 9), ("more", "<u2")])


@dataclass(frozen=True)
class Solid:
    """A closed body: its mesh as a ``trimesh.Trimesh`` in mm, its unit in the file, and what was done to it."""

    mesh: Any
    unit: str
    remarks: tuple[str, ...] = ()


def read_solid(data: bytes, kind: str, unit: str = "") -> Solid:
    """Read a mesh file.

    Parameters: ``data`` of the file; ``kind`` ``"stl"`` or ``"3mf"``; ``unit`` one of :data:`UNITS`
    for a format that names none (mm when empty). A 3MF says its own, and that counts.

    Returns the :class:`Solid`; bodies of one 3MF are united. A surface that is closed and turned
    inside out is turned back, and that is said.

    Raises :class:`InputError` for what is no mesh, too large, open, without volume, or of a size that
    no printer here makes.

    >>> import trimesh
    >>> found = read_solid(trimesh.creation.box((1, 2, 3)).export(file_type="stl"), "stl", "cm")
    >>> round(float(found.mesh.volume), 6)
    6000.0
    """
    if not data:
        raise InputError("The file is empty.", "file")
    if len(data) > MOST_BYTES:
        raise InputError(f"The file has more than {MOST_BYTES // 1_000_000} MB.", "file")
    if kind not in _READERS:
        raise InputError("A part is read from an STL or a 3MF file.", "file")
    mesh, own, remarks = _READERS[kind](data)
    known = own or unit or "mm"
    if known not in UNITS:
        raise InputError(f"“{known}” is not a unit of length that Brunt knows here.", "unit")
    mesh.apply_scale(UNITS[known])
    if own and own != "mm":
        remarks.append(f"The file is in {own}; the part was brought to mm.")
    _check_numbers(mesh)
    remarks += _closed(mesh)
    _check_size(mesh, known)
    return Solid(mesh, known, tuple(remarks))


def _stl(data: bytes) -> tuple[Any, str, list[str]]:
    import trimesh

    if not data[:5].lower() == b"solid" or b"facet" not in data[:1000]:
        count = struct.unpack("<I", data[80:84])[0] if len(data) >= 84 else 0
        if not count or len(data) < 84 + 50 * count:
            raise InputError("This is no STL file, or its end is missing.", "file")
        _check_count(count)
        facets = np.frombuffer(data, _FACET, count, offset=84)
        if not np.isfinite(facets["corners"]).all():
            raise InputError(_NO_NUMBERS, "file")
    try:
        mesh = trimesh.load_mesh(io.BytesIO(data), file_type="stl")
    except Exception as error:
        raise InputError("This is no STL file, or its end is missing.", "file") from error
    _check_numbers(mesh)
    mesh.merge_vertices(digits_vertex=_SAME_POINT)
    bodies = mesh.split(only_watertight=False)
    if len(bodies) < 2 or not all(b.is_watertight for b in bodies):
        return mesh, "", []
    _check_bodies(len(bodies))
    joined = _united(list(bodies))
    whole = float(sum(b.volume for b in bodies))
    said = [f"Its {len(bodies)} bodies are taken as one."]
    if joined.volume < whole * 0.999:
        said.append(f"They cross each other: {joined.volume:.4g} cubed units, not {whole:.4g}.")
    return joined, "", said


def _check_bodies(count: int) -> None:
    if count > MOST_BODIES:
        raise InputError(
            f"The file holds {count} bodies; {MOST_BODIES} are the most. Unite them in the program that drew them.",
            "file",
        )


def _united(bodies: list[Any]) -> Any:
    """Bodies as one, what they share counted once. Raises :class:`InputError` where they cannot be united."""
    import trimesh

    for one in bodies:
        _closed(one)
    try:
        return trimesh.boolean.union(bodies, engine="manifold")
    except Exception as error:
        raise InputError(
            "Its bodies cross each other so that they cannot be united; unite them in the program that drew them.",
            "file",
        ) from error


def _three_mf(data: bytes) -> tuple[Any, str, list[str]]:
    import trimesh

    _check_archive(data)
    try:
        scene = trimesh.load_scene(io.BytesIO(data), file_type="3mf")
        _check_bodies(len(scene.graph.nodes_geometry))
        bodies = [b for b in scene.dump() if hasattr(b, "faces") and len(b.faces)]
    except InputError:
        raise
    except Exception as error:
        raise InputError("This 3MF file cannot be read.", "file") from error
    if not bodies:
        raise InputError("There is no body in this file.", "file")
    _check_count(sum(len(b.faces) for b in bodies))
    said = str(bodies[0].metadata.get("units") or bodies[0].units or "millimeter")
    unit = _SAID.get(said.lower())
    if unit is None:
        raise InputError(f"The file is in “{said}”, which is no unit of a 3MF.", "file")
    if len(bodies) == 1:
        return bodies[0], unit, []
    joined = _united(bodies)
    return joined, unit, [f"Its {len(bodies)} bodies are taken as one."]


_READERS = {"stl": _stl, "3mf": _three_mf}


def _check_archive(data: bytes) -> None:
    """A 3MF is a zip; one that unpacks to more than a mesh can be is not opened."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            parts = archive.infolist()
            unpacked = sum(p.file_size for p in parts)
            if unpacked > _MOST_UNPACKED or unpacked > _MOST_RATIO * max(len(data), 10_000):
                raise InputError(
                    f"Unpacked, this file would have {unpacked / 1e6:,.0f} MB; that is no part.",
                    "file",
                )
            models = [p for p in parts if p.filename.lower().endswith(".model")]
            if not models:
                raise InputError("There is no model in this file; is it a 3MF?", "file")
            for model in models:
                with archive.open(model) as text:
                    if b"<!doctype" in text.read(4096).lower():
                        raise InputError("This file defines entities of its own; it is not read.")
    except zipfile.BadZipFile as error:
        raise InputError("This is no 3MF file, or its end is missing.", "file") from error


def _check_count(faces: int) -> None:
    if faces > MOST_FACES:
        raise InputError(
            f"The mesh has {faces:,} faces; {MOST_FACES:,} are the most. Save it coarser.".replace(
                ",", " "
            ),
            "file",
        )


def _check_numbers(mesh: Any) -> None:
    if not hasattr(mesh, "faces") or not len(mesh.faces):
        raise InputError("There is no face in this file.", "file")
    _check_count(len(mesh.faces))
    if not np.isfinite(mesh.vertices).all():
        raise InputError(_NO_NUMBERS, "file")


def _closed(mesh: Any) -> list[str]:
    """Make sure that the surface closes and faces outwards; what was repaired, in sentences."""
    import trimesh

    mesh.merge_vertices(digits_vertex=_SAME_POINT)
    mesh.update_faces(mesh.nondegenerate_faces())
    mesh.update_faces(mesh.unique_faces())
    mesh.remove_unreferenced_vertices()
    if not len(mesh.faces):
        raise InputError("The mesh has no face with an area.", "file")
    if not mesh.is_watertight:
        raise InputError(_why_open(mesh), "file")
    said = []
    if not mesh.is_winding_consistent:
        trimesh.repair.fix_winding(mesh)
        if not mesh.is_winding_consistent:
            raise InputError("Its surface has only one side, like a twisted band.", "file")
        said.append("Some of its faces pointed inwards; they were turned round.")
    if mesh.volume < 0:
        mesh.invert()
        said.append("All its faces pointed inwards; they were turned outwards.")
    if mesh.volume <= 1e-9 * float(np.prod(np.maximum(mesh.extents, 1e-9))):
        raise InputError("The mesh encloses no volume.", "file")
    return said


def _why_open(mesh: Any) -> str:
    """How many edges do not close, and where the first of them is."""
    edges, count = np.unique(mesh.edges_sorted, axis=0, return_counts=True)
    lone, crowded = edges[count == 1], edges[count > 2]
    if len(lone):
        where = mesh.vertices[lone[0]].mean(axis=0)
        return (
            f"The surface is open: {len(lone)} edges have a face on one side only, one of them at "
            f"x {where[0]:.1f}, y {where[1]:.1f}, z {where[2]:.1f} mm. "
            "Close it in the program that drew it."
        )
    where = mesh.vertices[crowded[0]].mean(axis=0) if len(crowded) else mesh.centroid
    return (
        f"At {len(crowded)} edges more than two faces meet, one of them at "
        f"x {where[0]:.1f}, y {where[1]:.1f}, z {where[2]:.1f} mm: "
        "unite the bodies in the program that drew it."
    )


def _check_size(mesh: Any, unit: str) -> None:
    sides = sorted((float(s) for s in mesh.extents), reverse=True)
    shown = " × ".join(f"{s:.4g}" for s in sides)
    if sides[0] > _LARGEST:
        raise InputError(
            f"Read in {unit} the part is {shown} mm, larger than any printer here; is the unit right?",
            "unit",
        )
    if sides[0] < _SMALLEST:
        raise InputError(
            f"Read in {unit} the part is {shown} mm, too small to print; is the unit right?", "unit"
        )
