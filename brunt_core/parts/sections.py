"""A part cut at a plane: its section's moments, and the stress a load raises there."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from brunt_core.errors import InputError
from brunt_core.parts.solids import as_manifold

# The axes u, v of a cut across each axis n; (u, v, n) is right-handed.
_ACROSS = {"x": (1, 2, 0), "y": (2, 0, 1), "z": (0, 1, 2)}


@dataclass(frozen=True)
class PartSection:
    """A plane cut: ``area`` mm²; ``centroid`` in the part's axes, mm; second moments about it, mm⁴.

    ``i_uu`` is ∫v², ``i_vv`` ∫u², ``i_uv`` ∫uv over the section; ``outlines`` in (u, v), mm.
    """

    axis: str
    at: float
    area: float
    centroid: tuple[float, float, float]
    i_uu: float
    i_vv: float
    i_uv: float
    outlines: tuple[tuple[tuple[float, float], ...], ...]


@dataclass(frozen=True)
class StressPerLoad:
    """What one newton raises at a section, in MPa/N: the largest pull and push, mean shear; arm in mm.

    ``twist`` is the twisting moment a newton raises, in N·mm; its stress is not in the figures.
    """

    pull: float
    push: float
    shear: float
    arm: float
    twist: float

    @property
    def largest(self) -> float:
        """The largest of pull and push."""
        return max(abs(self.pull), abs(self.push))


def cut(mesh: Any, axis: str, at: float) -> PartSection:
    """Cut a laid part across an axis.

    Parameters: ``mesh`` a closed ``trimesh.Trimesh``; ``axis`` ``"x"``, ``"y"`` or ``"z"``; ``at`` mm.
    Area and moments by Green's theorem over the polygons of the cut: exact for a faceted body.
    Raises :class:`InputError` for a plane beside the part.

    >>> import trimesh
    >>> s = cut(trimesh.creation.box((10, 80, 4)), "y", 0.0)
    >>> round(s.area, 6), round(s.i_uu, 3), round(s.i_vv, 3)
    (40.0, 333.333, 53.333)
    """
    if axis not in _ACROSS:
        raise InputError("A section lies across x, y or z.", "axis")
    u, v, n = _ACROSS[axis]
    low, high = float(mesh.bounds[0][n]), float(mesh.bounds[1][n])
    if not low < at < high:
        raise InputError(
            f"The part reaches from {low:.4g} to {high:.4g} mm along {axis}; {at:.4g} lies beside it.",
            "section",
        )
    turned = mesh.copy()
    turned.vertices = turned.vertices[:, (u, v, n)]
    loops = [np.asarray(p, dtype=float) for p in as_manifold(turned).slice(at).to_polygons()]
    moments = sum((_moments(loop) for loop in loops), np.zeros(6))
    area = float(moments[0])
    if area <= 0:
        raise InputError(f"There is nothing of the part at {axis} = {at:.4g} mm.", "section")
    cu, cv = moments[1] / area, moments[2] / area
    centre = np.zeros(3)
    centre[[u, v, n]] = cu, cv, at
    return PartSection(
        axis=axis,
        at=at,
        area=area,
        centroid=(float(centre[0]), float(centre[1]), float(centre[2])),
        i_uu=float(moments[4] - area * cv**2),
        i_vv=float(moments[3] - area * cu**2),
        i_uv=float(moments[5] - area * cu * cv),
        outlines=tuple(
            tuple((round(float(a), 3), round(float(b), 3)) for a, b in loop) for loop in loops
        ),
    )


def _moments(loop: Any) -> Any:
    """∫1, ∫u, ∫v, ∫u², ∫v², ∫uv within a closed polygon; a hole's run the other way and are negative."""
    u, v = loop[:, 0], loop[:, 1]
    p, q = np.roll(u, -1), np.roll(v, -1)
    c = u * q - p * v
    return np.array(
        (
            c.sum() / 2,
            ((u + p) * c).sum() / 6,
            ((v + q) * c).sum() / 6,
            ((u**2 + u * p + p**2) * c).sum() / 12,
            ((v**2 + v * q + q**2) * c).sum() / 12,
            ((u * q + 2 * u * v + 2 * p * q + p * v) * c).sum() / 24,
        )
    )


def stress_per_load(
    section: PartSection, point: tuple[float, ...], direction: tuple[float, ...]
) -> StressPerLoad:
    """What a load of one newton raises at a section that holds the part beyond it.

    With r from the centroid to the load's point and M = r × F,
    σ(u, v) = F_n/A + [(M_u·I_vv + M_v·I_uv)·v − (M_v·I_uu + M_u·I_uv)·u] / (I_uu·I_vv − I_uv²).

    Parameters: ``point`` of the load and its ``direction`` in the part's axes; mm.
    Limits: the part is held on one side of the section and loaded on the other; a beam that bends
    little, without the rise at corners and holes, without the twist's own stress.
    Raises :class:`InputError` for a direction without length. Source: any handbook, unsymmetrical bending.

    A cantilever of 10 × 4 mm with the load 50 mm from the section: 6·F·a/(b·h²) = 1.875 MPa.

    >>> import trimesh
    >>> s = cut(trimesh.creation.box((10, 200, 4)), "y", 0.0)
    >>> round(stress_per_load(s, (0.0, 50.0, 0.0), (0.0, 0.0, -1.0)).largest, 6)
    1.875
    """
    length = float(np.linalg.norm(direction))
    if length == 0 or not np.isfinite(length):
        raise InputError("Say which way the load pulls or pushes.", "direction")
    order = list(_ACROSS[section.axis])
    force = (np.asarray(direction, dtype=float) / length)[order]
    reach = (np.asarray(point, dtype=float) - np.asarray(section.centroid))[order]
    moment = np.cross(reach, force)
    side = -1.0 if reach[2] < 0 else 1.0
    determinant = section.i_uu * section.i_vv - section.i_uv**2
    up = (moment[0] * section.i_vv + moment[1] * section.i_uv) / determinant
    right = -(moment[1] * section.i_uu + moment[0] * section.i_uv) / determinant
    centre = np.asarray(section.centroid)[order][:2]
    corners = np.concatenate([np.asarray(o) for o in section.outlines]) - centre
    stress = side * (force[2] / section.area + corners[:, 1] * up + corners[:, 0] * right)
    shear = float(np.hypot(force[0], force[1])) / section.area
    arm = float(np.hypot(moment[0], moment[1]))
    return StressPerLoad(
        pull=float(max(stress.max(), 0.0)),
        push=float(min(stress.min(), 0.0)),
        shear=shear,
        arm=arm,
        twist=float(abs(moment[2])),
    )
