"""An extruded body with letters sunk into its upper face, built ring by ring: no boolean is needed. mm."""

from collections.abc import Sequence
from typing import Any

import numpy as np

_SHAKE = 1e-4


def engraved(
    outline: Sequence[tuple[float, float]],
    height: float,
    letters: Sequence[tuple[Any, Sequence[Any]]],
    depth: float,
) -> tuple[Any, Any]:
    """Corners, n × 3, and faces, m × 3, of a prism on z = 0 with letters sunk into z = ``height``.

    Parameters: the ``outline`` of the prism; ``letters`` as (outer ring, inner rings), each an array of
    (x, y) within the outline and clear of one another; how deep they are sunk. Corners are shared, so
    the surface closes. Corners of letters are moved by about a tenth of a micrometre, so that no three
    lie on one line, which the triangulation would leave out. Limits: rings that neither touch nor cross.

    >>> square = np.array([(1, 1), (2, 1), (2, 2), (1, 2)], dtype=float)
    >>> corners, faces = engraved([(0, 0), (4, 0), (4, 4), (0, 4)], 3.0, [(square, [])], 0.5)
    >>> import trimesh
    >>> mesh = trimesh.Trimesh(corners, faces, process=False)
    >>> mesh.is_watertight, round(float(mesh.volume), 3)
    (True, 47.5)
    """
    build, shaken = _Build(), np.random.default_rng(7)
    around = _turned(np.asarray(outline, dtype=float), anticlockwise=True)
    foot, top = build.ring(around, 0.0), build.ring(around, height)
    build.wall(foot, top)
    build.plane([(around, foot)], up=False)
    cut_out = [(around, top)]
    for outer, inner in letters:
        edge = _shaken(outer, shaken)
        mouth, floor = build.ring(edge, height), build.ring(edge, height - depth)
        build.wall(mouth, floor)
        cut_out.append((edge, mouth))
        ground = [(edge, floor)]
        for hole in inner:
            island = _shaken(hole, shaken)
            above, below = build.ring(island, height), build.ring(island, height - depth)
            build.wall(below, above)
            build.plane([(island, above)], up=True)
            ground.append((island, below))
        build.plane(ground, up=True)
    build.plane(cut_out, up=True)
    return np.concatenate(build.corners), np.concatenate(build.faces)


def _shaken(ring: Any, generator: Any) -> Any:
    points = np.asarray(ring, dtype=float)
    return _turned(points + generator.uniform(-_SHAKE, _SHAKE, points.shape), anticlockwise=True)


def _turned(ring: Any, anticlockwise: bool) -> Any:
    x, y = ring.T
    area = float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum())
    return ring if (area > 0) == anticlockwise else ring[::-1]


class _Build:
    """Corners and faces gathered so far."""

    def __init__(self) -> None:
        self.corners: list[Any] = []
        self.faces: list[Any] = []
        self.count = 0

    def ring(self, ring: Any, z: float) -> Any:
        """The ring's corners at a height; their numbers."""
        self.corners.append(np.column_stack((ring, np.full(len(ring), z))))
        numbers = np.arange(self.count, self.count + len(ring))
        self.count += len(ring)
        return numbers

    def wall(self, low: Any, high: Any) -> None:
        """Between two rings of as many corners; outward where they run anticlockwise and ``low`` is below."""
        a, b, c, d = low, np.roll(low, -1), np.roll(high, -1), high
        self.faces += [np.column_stack((a, b, c)), np.column_stack((a, c, d))]

    def plane(self, rings: Sequence[tuple[Any, Any]], up: bool) -> None:
        """A flat between an outer ring and those in it, facing up or down."""
        from mapbox_earcut import triangulate_float64

        flat = np.concatenate([points for points, _ in rings])
        numbers = np.concatenate([n for _, n in rings])
        ends = np.cumsum([len(points) for points, _ in rings]).astype(np.uint32)
        faces = triangulate_float64(flat, ends).reshape(-1, 3).astype(np.int64)
        (x1, y1), (x2, y2), (x3, y3) = (flat[faces[:, k]].T for k in range(3))
        rising = (x2 - x1) * (y3 - y1) - (x3 - x1) * (y2 - y1) > 0
        faces[rising != up] = faces[rising != up][:, ::-1]
        self.faces.append(numbers[faces])
