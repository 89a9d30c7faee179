"""How long a resin print takes: layers and the times of each. SI."""

from collections.abc import Mapping
from dataclasses import dataclass
from math import ceil

from brunt_core.quantities.rendering import number

Values = Mapping[str, float | None]
# How far the plate is lifted between layers where a recipe does not say (common practice, no source).
USUAL_LIFT = 6e-3


@dataclass(frozen=True)
class Cycle:
    """One layer in s: rest, exposure, lift, retract; ``assumed`` names what no recipe said."""

    rest: float
    exposure: float
    lift: float
    retract: float
    assumed: tuple[str, ...] = ()

    @property
    def total(self) -> float:
        """All of it."""
        return self.rest + self.exposure + self.lift + self.retract


def cycle(values: Values, bottom: bool = False) -> Cycle | None:
    """One layer's times.

    Lift and retract are the lift's way over their speeds: t = s/v. Values in SI. ``None`` where the
    exposure or the lift speed is not known. Limits: of a two-stage lift the one speed named is taken
    for the whole way. Source: kinematics.

    >>> c = cycle({"exposure": 2.5, "lift_speed": 1e-3, "retract_speed": 3e-3, "rest_before_exposure": 1.0})
    >>> c.lift, c.retract, c.total
    (6.0, 2.0, 11.5)
    """
    exposure = values.get("bottom_exposure" if bottom else "exposure") or values.get("exposure")
    up, down = values.get("lift_speed"), values.get("retract_speed") or values.get("lift_speed")
    if not exposure or not up or not down:
        return None
    way = values.get("lift_distance")
    assumed = () if way else (f"a lift of {number(USUAL_LIFT * 1e3, 'g')} mm",)
    if not values.get("retract_speed"):
        assumed = (*assumed, "the plate comes back as fast as it lifts")
    way = way or USUAL_LIFT
    rest = values.get("rest_before_exposure") or 0.0
    return Cycle(rest, exposure, way / up, way / down, assumed)


def print_seconds(values: Values, height: float) -> float | None:
    """Time to print a height in m, in s: bottom layers and the others with their own exposures.

    n = height / layer height, rounded up; t = n_b·t_bottom + (n − n_b)·t_layer. However many stand on
    the plate, the time is the same. ``None`` where a time or the layer height is not known.

    >>> print_seconds({"exposure": 2.0, "lift_speed": 1e-3, "layer_height": 5e-5, "bottom_layers": 4.0,
    ...                "bottom_exposure": 30.0, "retract_speed": 2e-3, "lift_distance": 4e-3}, 4e-3)
    752.0
    """
    layer, each = values.get("layer_height"), cycle(values)
    bottom = cycle(values, bottom=True)
    if not layer or each is None or bottom is None or height <= 0:
        return None
    layers = ceil(height / layer - 1e-6)
    low = min(int(values.get("bottom_layers") or 0), layers)
    return round(low * bottom.total + (layers - low) * each.total, 6)
