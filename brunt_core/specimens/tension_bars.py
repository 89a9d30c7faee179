"""Dumbbell bars for tension, lying or standing."""

from dataclasses import dataclass
from functools import cache
from math import acos, cos, sin, sqrt

from brunt_core.errors import InputError

Point = tuple[float, float]


@dataclass(frozen=True)
class TensionBar:
    """A dumbbell bar: overall length, parallel length, fillet radius, widths, thickness, gauge; mm."""

    key: str
    name: str
    overall: float
    parallel: float
    radius: float
    wide: float
    narrow: float
    thickness: float
    gauge: float

    def __post_init__(self) -> None:
        step = (self.wide - self.narrow) / 2
        if min(self.overall, self.parallel, self.radius, self.narrow, self.thickness, self.gauge) <= 0:
            raise InputError("Every dimension of a bar must be more than zero.")
        if step < 0:
            raise InputError("The grips cannot be narrower than the gauge.", "wide")
        if self.parallel + 2 * self.fillet_length > self.overall:
            raise InputError(f"Parallel length and fillets need {self.parallel + 2 * self.fillet_length:.1f} "
                             f"mm, more than the bar's {self.overall:g} mm.", "radius")

    @property
    def fillet_length(self) -> float:
        """Length along the bar of one fillet: √(R² − (R − s)²) for a step s in half-width."""
        step = min((self.wide - self.narrow) / 2, self.radius)
        return sqrt(self.radius**2 - (self.radius - step) ** 2)


# ISO 527-2 dimensions, recalled from the standard and not confirmed against its current edition.
TENSION_BARS: dict[str, TensionBar] = {b.key: b for b in (
    TensionBar("tension-1ba", "Tension bar 1BA", 75, 30, 30, 10, 5, 2, 25),
    TensionBar("tension-1b", "Tension bar 1B", 150, 60, 60, 20, 10, 4, 50),
    TensionBar("tension-1a", "Tension bar 1A", 170, 80, 24, 20, 10, 4, 75),
)}


@cache
def outline(bar: TensionBar, arc_steps: int = 6) -> tuple[Point, ...]:
    """The closed outline, x across and y along, the bar standing on y = 0 about x = 0.

    >>> points = outline(TENSION_BARS["tension-1ba"])
    >>> min(y for _, y in points), max(y for _, y in points)
    (0.0, 75.0)
    """
    right = _right_edge(bar, arc_steps)
    return tuple(right + [(-x, y) for x, y in reversed(right)])


def _right_edge(bar: TensionBar, steps: int) -> list[Point]:
    half, low = bar.narrow / 2, (bar.overall - bar.parallel) / 2
    centre = half + bar.radius
    step = (bar.wide - bar.narrow) / 2
    sweep = acos(max((bar.radius - step) / bar.radius, 0.0)) if step else 0.0
    fillet = [(centre - bar.radius * cos(sweep * k / steps), low - bar.radius * sin(sweep * k / steps))
              for k in range(steps, -1, -1)]
    edge = [(bar.wide / 2, 0.0), *fillet]
    return edge + [(x, bar.overall - y) for x, y in reversed(edge)]


@cache
def parted(bar: TensionBar, at: float) -> tuple[tuple[Point, ...], tuple[Point, ...]]:
    """The outline parted at a fraction of its length by a jagged line: lower and upper half.

    >>> low, high = parted(TENSION_BARS["tension-1ba"], 0.5)
    >>> max(y for _, y in low) < 40 and min(y for _, y in high) > 35
    True
    """
    from shapely import LineString, Polygon
    from shapely.ops import split

    y, w, jag = at * bar.overall, bar.wide, bar.overall * 0.018
    line = LineString([(-w, y + jag), (-w / 6, y - jag), (w / 8, y + jag), (w, y - jag)])
    pieces = sorted(split(Polygon(outline(bar)), line).geoms, key=lambda p: p.centroid.y)
    return tuple(pieces[0].exterior.coords[:-1]), tuple(pieces[-1].exterior.coords[:-1])
