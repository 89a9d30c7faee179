"""On which face a part can rest, and how it then lies: millimetres."""

from dataclasses import dataclass
from math import atan2, cos, radians, sin
from typing import Any

import numpy as np

from brunt_core.errors import InputError

_FLAT = cos(radians(1.0))
_STEEP = cos(radians(45.0))
_NEAR = 0.02
_MOST = 8


@dataclass(frozen=True)
class RestFace:
    """A face to rest on: its outward normal; contact and overhang in mm²; height in mm.

    ``overhang`` is the area that faces down at less than 45° from the plate and does not lie on it.
    """

    normal: tuple[float, float, float]
    contact: float
    height: float
    overhang: float


def rest_faces(mesh: Any) -> list[RestFace]:
    """The faces a solid rests on without tipping over, the largest contact first, eight at most.

    A face is one of the convex hull's, with the centre of mass above it. ``mesh`` is a closed
    ``trimesh.Trimesh``. Source: statics; common practice for the 45° of an overhang.

    >>> import trimesh
    >>> [round(f.contact) for f in rest_faces(trimesh.creation.box((10, 20, 40)))]
    [800, 800, 400, 400, 200, 200]
    """
    found: list[RestFace] = []
    hull = mesh.convex_hull
    for normal in _normals(hull):
        if any(float(np.dot(normal, f.normal)) > _FLAT for f in found):
            continue
        if not _stands(hull, normal, mesh.center_mass):
            continue
        found.append(_face(mesh, normal))
    found.sort(key=lambda f: -round(f.contact, 3))
    return found[:_MOST] or [_face(mesh, np.array((0.0, 0.0, -1.0)))]


def _normals(hull: Any) -> list[Any]:
    """The hull's outward directions, the largest faces first."""
    weights: dict[tuple[float, ...], float] = {}
    for normal, area in zip(hull.face_normals, hull.area_faces, strict=True):
        key = tuple(np.round(normal, 3) + 0.0)
        weights[key] = weights.get(key, 0.0) + float(area)
    order = sorted(weights, key=lambda k: -weights[k])[:60]
    return [np.array(k) / np.linalg.norm(k) for k in order]


def _stands(hull: Any, normal: Any, centre: Any) -> bool:
    """Whether the centre of mass lies over the hull's corners in this plane."""
    from shapely import MultiPoint, Point

    away = hull.vertices @ normal
    corners = hull.vertices[away > away.max() - _NEAR]
    if len(corners) < 3:
        return False
    turn = turn_down(normal)
    foot = MultiPoint((corners @ turn.T)[:, :2]).convex_hull
    return bool(foot.area > 0 and foot.contains(Point((turn @ centre)[:2])))


def _face(mesh: Any, normal: Any) -> RestFace:
    down = mesh.face_normals @ normal
    away = mesh.triangles_center @ normal
    lowest = float((mesh.vertices @ normal).max())
    resting = (down > _FLAT) & (away > lowest - _NEAR)
    hanging = (down > _STEEP) & ~resting
    height = lowest - float((mesh.vertices @ normal).min())
    x, y, z = (float(round(c, 6)) for c in normal)
    return RestFace(
        normal=(x, y, z),
        contact=float(mesh.area_faces[resting].sum()),
        height=height,
        overhang=float((mesh.area_faces * np.maximum(down, 0.0))[hanging].sum()),
    )


def turn_down(normal: Any) -> Any:
    """The rotation, 3 × 3, that turns an outward normal to point straight down.

    Raises :class:`InputError` for a direction without length.

    >>> [float(x) + 0.0 for x in (turn_down((0.0, 0.0, -1.0)) @ (1.0, 2.0, 3.0)).round(6)]
    [1.0, 2.0, 3.0]
    """
    import trimesh

    length = float(np.linalg.norm(normal))
    if length == 0 or not np.isfinite(length):
        raise InputError("This is no direction.", "face")
    aligned = trimesh.geometry.align_vectors(np.asarray(normal) / length, (0.0, 0.0, -1.0))
    return aligned[:3, :3]


def lying(mesh: Any, normal: Any) -> tuple[Any, Any]:
    """A solid laid on a face with its length along y: the mesh, and the transform, 4 × 4, that did it.

    It rests on z = 0, stands on y = 0 and lies about x = 0, as every body of Brunt does.

    >>> import trimesh
    >>> laid, _ = lying(trimesh.creation.box((40, 10, 5)), (0.0, 0.0, -1.0))
    >>> [round(float(x), 6) for x in laid.extents]
    [10.0, 40.0, 5.0]
    """
    from shapely import MultiPoint

    turn = turn_down(normal)
    seen = (mesh.convex_hull.vertices @ turn.T)[:, :2]
    box = MultiPoint(seen).minimum_rotated_rectangle
    corners = np.array(box.exterior.coords)[:4] if hasattr(box, "exterior") else seen[:2]
    sides = np.diff(corners, axis=0)
    longest = max(sides, key=lambda s: round(float(np.hypot(*s)), 6))
    angle = np.pi / 2 - atan2(longest[1], longest[0])
    about = np.array(
        ((cos(angle), -sin(angle), 0.0), (sin(angle), cos(angle), 0.0), (0.0, 0.0, 1.0))
    )
    whole = np.eye(4)
    whole[:3, :3] = about @ turn
    laid = mesh.copy().apply_transform(whole)
    low, high = laid.bounds
    whole[:3, 3] = -(low[0] + high[0]) / 2, -low[1], -low[2]
    return laid.apply_translation(whole[:3, 3]), whole


def usual_poses(faces: list[RestFace]) -> dict[str, int]:
    """Which of these faces a part usually rests on: flat, on edge and upright, as indices.

    Flat is the largest contact; upright the tallest that stands on more than an edge; on edge the
    largest contact of those that lie square to flat.

    >>> import trimesh
    >>> usual_poses(rest_faces(trimesh.creation.box((10, 20, 40))))
    {'flat': 0, 'edge': 2, 'upright': 4}
    """
    level = np.array(faces[0].normal)
    square = [i for i, f in enumerate(faces) if abs(float(np.dot(level, f.normal))) < 0.1]
    upright = max(
        square or [0], key=lambda i: (round(faces[i].height, 2), round(faces[i].contact, 2))
    )
    edge = next((i for i in square if i != upright), upright)
    return {"flat": 0, "edge": edge, "upright": upright}
