"""What a specimen weighs as it is printed: walls and skins solid, the core filled to a share."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from math import ceil

from brunt_core.errors import InputError
from brunt_core.parts.solids import as_manifold
from brunt_core.specimens.mesh import body, oriented
from brunt_core.specimens.types import ORIENTATIONS, SpecimenType

_SLICES = 100


@dataclass(frozen=True)
class Filling:
    """How a body is filled. Lengths in m; ``infill`` a share of one, ``None`` for solid."""

    walls: int = 0
    line_width: float = 0.0
    layer_height: float = 0.0
    top: int = 0
    bottom: int = 0
    infill: float | None = None

    @property
    def solid(self) -> bool:
        """Whether there is nothing but solid."""
        return self.infill is None or self.infill >= 1.0


def filling_of(values: Mapping[str, float | None]) -> Filling:
    """How a recipe's values fill a body; what they do not name fills nothing.

    ``values`` in SI by key of a setting; walls count only with a line width, skins with a layer height.

    >>> filling_of({"walls": 3.0, "line_width": 4.5e-4, "infill": 0.2}).walls, filling_of({"walls": 3.0}).walls
    (3, 0)
    """
    line, layer = values.get("line_width") or 0.0, values.get("layer_height") or 0.0
    return Filling(
        walls=int(values.get("walls") or 0) if line else 0,
        line_width=line,
        layer_height=layer,
        top=int(values.get("top_layers") or 0) if layer else 0,
        bottom=int(values.get("bottom_layers") or 0) if layer else 0,
        infill=values.get("infill"),
    )


@dataclass(frozen=True)
class Body:
    """Volumes in mm³: the whole, and the core that is only filled to a share."""

    whole: float
    core: float

    def share(self, infill: float | None) -> float:
        """The solid share of the whole: 1 − core/whole · (1 − infill).

        >>> round(Body(100.0, 50.0).share(0.2), 9)
        0.6
        """
        return 1.0 if infill is None else 1.0 - self.core / self.whole * (1.0 - min(infill, 1.0))


def solid_share(specimen: SpecimenType, orientation: str, filling: Filling) -> float:
    """The share of a specimen's volume that is plastic.

    share = 1 − V_core/V · (1 − infill), with the core of :func:`body_and_core`.

    Parameters: how it stands on the plate (``flat``, ``edge``, ``upright``); its filling.
    Limits: beads are taken as solid, seams, overlaps and gaps between them as nothing; skins follow
    every surface that is not covered by ``top`` layers above or ``bottom`` layers below.
    Source: geometry; common practice.

    >>> from brunt_core.specimens.types import TYPES
    >>> round(solid_share(TYPES["bend-80"], "flat", Filling(3, 0.45e-3, 0.2e-3, 4, 4, 0.2)), 4)
    0.6614
    """
    if filling.solid:
        return 1.0
    return body_and_core(specimen, orientation, filling).share(filling.infill)


def expected_mass(
    specimen: SpecimenType, orientation: str, filling: Filling, density: float
) -> tuple[float, float]:
    """Mass as filled and mass as solid, both in kg.

    m = ρ · V · share, with the share of :func:`solid_share`; ``density`` in kg/m³.
    Raises :class:`InputError` for a density that is not above zero.

    >>> from brunt_core.specimens.types import TYPES
    >>> [round(m * 1e3, 3) for m in expected_mass(TYPES["bend-80"], "flat", Filling(infill=0.5), 1240.0)]
    [1.984, 3.968]
    """
    if density <= 0:
        raise InputError("The density must be more than zero.", "density")
    solid = specimen.mass(density)
    return solid * solid_share(specimen, orientation, filling), solid


def body_and_core(specimen: SpecimenType, orientation: str, filling: Filling) -> Body:
    """The volume of a specimen, and of the part inside its walls and skins; mm³.

    Raises :class:`InputError` for an orientation that is none, or walls without a line width.
    """
    if orientation not in ORIENTATIONS:
        raise InputError(f"“{orientation}” is not flat, edge or upright.", "orientation")
    if filling.walls and not filling.line_width:
        raise InputError("Walls need a line width.", "line_width")
    if (filling.top or filling.bottom) and not filling.layer_height:
        raise InputError("Top and bottom layers need a layer height.", "layer_height")
    return _volumes(specimen, orientation, filling)


@lru_cache(maxsize=512)
def _volumes(specimen: SpecimenType, orientation: str, filling: Filling) -> Body:
    wall = filling.walls * filling.line_width * 1e3
    skins = (filling.bottom * filling.layer_height * 1e3, filling.top * filling.layer_height * 1e3)
    plain = specimen.shape.depth and specimen.shape_key not in ("block", "part")
    if plain and orientation == "flat":
        return _extruded(specimen, wall, skins)
    return _sliced(specimen, orientation, wall, skins)


def _extruded(specimen: SpecimenType, wall: float, skins: tuple[float, float]) -> Body:
    """An outline of one thickness lying flat: exact."""
    from shapely import Polygon

    inside = Polygon(specimen.outline).buffer(-wall, join_style="mitre").area
    return Body(specimen.volume, inside * max(specimen.box[2] - sum(skins), 0.0))


def _sliced(
    specimen: SpecimenType, orientation: str, wall: float, skins: tuple[float, float]
) -> Body:
    """Any body, in slices: inside the walls, and covered by solid above and below."""
    from manifold3d import JoinType

    whole = as_manifold(oriented(body(specimen), orientation, specimen.turns))
    step = float(whole.bounding_box()[5]) / _SLICES
    slices = [whole.slice((i + 0.5) * step) for i in range(_SLICES)]
    areas = [s.area() for s in slices]
    below, above = (ceil(s / step - 1e-9) for s in skins)
    core = 0.0
    for i, plain in enumerate(slices):
        share = _uncovered(i, step, skins)
        if share <= 0.0:
            continue
        inside = plain.offset(-wall, JoinType.Miter) if wall else plain
        for k in range(max(i - below, 0), min(i + above, _SLICES - 1) + 1):
            if abs(areas[k] - areas[i]) > 1e-6 * areas[i]:
                inside = inside ^ slices[k]
        core += inside.area() * step * share
    return Body(specimen.volume, core * specimen.volume / (sum(areas) * step))


def _uncovered(i: int, step: float, skins: tuple[float, float]) -> float:
    """The share of slice ``i`` that lies above the bottom skin and below the top skin."""
    low, high = max(i * step, skins[0]), min((i + 1) * step, _SLICES * step - skins[1])
    return max(high - low, 0.0) / step
