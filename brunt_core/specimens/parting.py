"""The outline of a broken specimen: two halves."""

from functools import lru_cache

from brunt_core.specimens.shapes import Point


@lru_cache(maxsize=512)
def parted(outline: tuple[Point, ...], at: float) -> tuple[tuple[Point, ...], tuple[Point, ...]]:
    """An outline parted at a fraction of its height by a jagged line: lower and upper half.

    >>> from brunt_core.specimens.types import TYPES
    >>> low, high = parted(TYPES["tension-1ba"].outline, 0.5)
    >>> max(y for _, y in low) < 40 and min(y for _, y in high) > 35
    True
    """
    from shapely import LineString, Polygon
    from shapely.ops import split

    top, wide = max(y for _, y in outline), max(x for x, _ in outline) * 2
    y, jag = at * top, top * 0.018
    line = LineString(
        [(-wide, y + jag), (-wide / 6, y - jag), (wide / 8, y + jag), (wide, y - jag)]
    )
    pieces = sorted(split(Polygon(outline), line).geoms, key=lambda p: p.centroid.y)
    return tuple(pieces[0].exterior.coords[:-1]), tuple(pieces[-1].exterior.coords[:-1])
