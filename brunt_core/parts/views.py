"""A part drawn from three sides: silhouettes and edges, millimetres."""

from dataclasses import dataclass
from math import cos, radians
from typing import Any

import numpy as np

from brunt_core.parts.solids import as_manifold

Point = tuple[float, float]
_SHARP = radians(25.0)
_MOST_EDGES = 500
_MOST_POINTS = 90

# What runs right and what runs up in each view, and from where one looks, in the part's own axes.
VIEWS: dict[str, tuple[str, str, str]] = {
    "above": ("y", "x", "z"),
    "side": ("y", "z", "-x"),
    "end": ("x", "z", "-y"),
}
_AXES = {"x": np.array((1.0, 0, 0)), "y": np.array((0, 1.0, 0)), "z": np.array((0, 0, 1.0))}
_AXES |= {f"-{k}": -v for k, v in _AXES.items()}


@dataclass(frozen=True)
class View:
    """One side: closed outlines, holes among them, and the edges that are seen; (right, up) in mm."""

    key: str
    outlines: tuple[tuple[Point, ...], ...]
    edges: tuple[tuple[Point, Point], ...]
    box: tuple[float, float, float, float]


def frame(key: str) -> tuple[Any, Any, Any]:
    """Right, up and towards the eye as unit vectors of a view.

    >>> [v.tolist() for v in frame("above")]
    [[0.0, 1.0, 0.0], [1.0, 0.0, 0.0], [0.0, 0.0, 1.0]]
    """
    return tuple(_AXES[a] for a in VIEWS[key])  # type: ignore[return-value]


def draw(mesh: Any, key: str) -> View:
    """A part as it lies, seen from above, from the side, or from the end.

    >>> import trimesh
    >>> [len(draw(trimesh.creation.box((10, 20, 40)), k).outlines[0]) for k in VIEWS]
    [4, 4, 4]
    """
    right, up, eye = frame(key)
    turn = np.array((right, up, eye))
    if np.linalg.det(turn) < 0:
        turn = np.array((right, up, -eye))
    seen = mesh.copy()
    seen.vertices = seen.vertices @ turn.T
    low, high = seen.bounds
    outlines = _silhouette(seen, max(high[:2] - low[:2]))
    edges = _edges(mesh, right, up, eye)
    box = (float(low[0]), float(low[1]), float(high[0]), float(high[1]))
    return View(key, outlines, edges, box)


def _silhouette(seen: Any, size: float) -> tuple[tuple[Point, ...], ...]:
    flat = as_manifold(seen).project()
    step = size / 2000
    loops = flat.simplify(step).to_polygons()
    while sum(len(p) for p in loops) > 4 * _MOST_POINTS and step < size / 50:
        step *= 1.6
        loops = flat.simplify(step).to_polygons()
    return tuple(tuple((round(float(a), 3), round(float(b), 3)) for a, b in loop) for loop in loops)


def _edges(mesh: Any, right: Any, up: Any, eye: Any) -> tuple[tuple[Point, Point], ...]:
    """Sharp edges with a face towards the eye, the longest first."""
    pairs = mesh.face_adjacency
    if not len(pairs):
        return ()
    facing = mesh.face_normals @ eye > cos(radians(89.0))
    seen = facing[pairs].any(axis=1) & (mesh.face_adjacency_angles > _SHARP)
    ends = mesh.vertices[mesh.face_adjacency_edges[seen]]
    flat = np.stack((ends @ right, ends @ up), axis=-1)
    length = np.hypot(*(flat[:, 1] - flat[:, 0]).T)
    order = [i for i in np.argsort(-length, kind="stable") if length[i] > 1e-6][:_MOST_EDGES]
    drawn = {tuple(sorted(map(tuple, np.round(flat[i], 3).tolist()))) for i in order}
    return tuple(sorted(drawn))  # type: ignore[arg-type]


def outline(mesh: Any) -> tuple[Point, ...]:
    """The outer outline from above, standing on y = 0 about x = 0, for small drawings; mm.

    >>> import trimesh
    >>> box = trimesh.creation.box((10, 20, 4)).apply_translation((0, 10, 2))
    >>> sorted(outline(box))
    [(-5.0, 0.0), (-5.0, 20.0), (5.0, 0.0), (5.0, 20.0)]
    """
    from shapely import Polygon, unary_union

    flat = as_manifold(mesh).project()
    size = float(max(mesh.extents[:2]))
    whole = unary_union([Polygon(p) for p in flat.to_polygons() if len(p) > 2 and _outer(p)])
    largest = max(getattr(whole, "geoms", [whole]), key=lambda g: g.area)
    step = size / 1000
    line = largest.exterior.simplify(step)
    while len(line.coords) > _MOST_POINTS and step < size / 10:
        step *= 1.5
        line = largest.exterior.simplify(step)
    return tuple((round(float(x), 3), round(float(y), 3)) for x, y in line.coords[:-1])


def _outer(loop: Any) -> bool:
    """Whether a loop runs anticlockwise: outlines do, holes do not."""
    x, y = np.asarray(loop).T
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum()) > 0


def point_on(
    mesh: Any, key: str, right_at: float, up_at: float
) -> tuple[float, float, float] | None:
    """The point of the surface one sees in a view at a place; ``None`` beside the part; mm.

    >>> import trimesh
    >>> box = trimesh.creation.box((10, 20, 4)).apply_translation((0, 10, 2))
    >>> point_on(box, "above", 5.0, 1.0), point_on(box, "above", 30.0, 0.0)
    ((1.0, 5.0, 4.0), None)
    """
    right, up, eye = frame(key)
    far = float(np.abs(mesh.bounds).max()) * 2 + 10.0
    start = right * right_at + up * up_at
    hits = as_manifold(mesh).ray_cast(tuple(start + eye * far), tuple(start - eye * far))
    if not hits:
        return None
    first = min(hits, key=lambda h: h.distance)
    x, y, z = (float(round(c, 3)) + 0.0 for c in np.asarray(first.position))
    return x, y, z
