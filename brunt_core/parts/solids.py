"""Between the mesh library's body and the boolean library's."""

from typing import Any

import numpy as np

from brunt_core.errors import InputError

_MANY = 20_000


def lighter(mesh: Any) -> Any:
    """A mesh of many faces made coarser for a small drawing: off by a 200th of its size at most.

    >>> import trimesh
    >>> ball = trimesh.creation.icosphere(subdivisions=6)
    >>> len(ball.faces) > 20_000 > len(lighter(ball).faces)
    True
    """
    import trimesh

    if len(mesh.faces) <= _MANY:
        return mesh
    coarse = as_manifold(mesh).simplify(float(max(mesh.extents)) / 200).to_mesh64()
    if not len(coarse.tri_verts):
        return mesh
    # Copies: what manifold3d hands out must not be written to, and trimesh centres bodies in place.
    corners, faces = np.array(coarse.vert_properties[:, :3]), np.array(coarse.tri_verts)
    return trimesh.Trimesh(corners, faces, process=False)


def as_manifold(mesh: Any) -> Any:
    """A ``trimesh.Trimesh`` as a ``manifold3d.Manifold``.

    Raises :class:`InputError` for a surface that is none.

    >>> import trimesh
    >>> round(as_manifold(trimesh.creation.box((1, 2, 3))).volume(), 5)
    6.0
    """
    from manifold3d import Error, Manifold, Mesh64

    made = Manifold(
        Mesh64(np.asarray(mesh.vertices, dtype=np.float64), np.asarray(mesh.faces, dtype=np.uint64))
    )
    if made.status() != Error.NoError:
        raise InputError(
            "The surface closes, but touches itself: unite its bodies in the program that drew it.",
            "file",
        )
    return made
