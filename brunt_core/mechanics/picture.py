"""Measuring on a picture: a scale, a length, an angle, an outline's area, each with what the picks leave open."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import atan2, hypot, pi, sqrt

from brunt_core.errors import InputError

Pick = tuple[float, float]


@dataclass(frozen=True)
class Measured:
    """A value in SI with its standard uncertainty from the picks and the scale."""

    value: float
    uncertainty: float


@dataclass(frozen=True)
class PictureScale:
    """Metres a pixel, and its relative standard uncertainty."""

    size: float
    relative: float


def _far(a: Pick, b: Pick) -> float:
    return hypot(b[0] - a[0], b[1] - a[1])


def scale_of(
    a: Pick, b: Pick, length: float, pick: float = 1.0, length_uncertainty: float = 0.0
) -> PictureScale:
    """The scale from two picks on something of known length.

    Parameters: two picks in pixels; the length between them in m, above zero, with its standard
    uncertainty; ``pick`` the standard uncertainty of one pick in each direction, in pixels.
    s = L/d, (u(s)/s)² = 2·u_p²/d² + (u(L)/L)².
    Raises :class:`InputError` for picks on one spot and a length that is not above zero.
    Source: JCGM 100:2008 (GUM) 5.1.2.

    >>> s = scale_of((0.0, 0.0), (300.0, 400.0), 0.05)
    >>> round(s.size * 1000, 3), round(s.relative, 5)
    (0.1, 0.00283)
    """
    d = _far(a, b)
    if d < 2:
        raise InputError("The two points of the scale coincide.", "scale")
    if not length > 0:
        raise InputError("Type its true length.", "scale")
    return PictureScale(length / d, sqrt(2 * (pick / d) ** 2 + (length_uncertainty / length) ** 2))


def length_of(picks: Sequence[Pick], scale: PictureScale, pick: float = 1.0) -> Measured:
    """The length of a line through picks, end to end.

    A pick between two others enters both of its stretches: its part of the uncertainty is
    u_p·|e_in − e_out|, e the unit vectors along them; an end's is u_p.
    Raises :class:`InputError` for fewer than two picks. Source: JCGM 100:2008 (GUM) 5.1.2.

    >>> s = PictureScale(0.0001, 0.0)
    >>> m = length_of([(0.0, 0.0), (30.0, 40.0)], s)
    >>> round(m.value * 1000, 3), round(m.uncertainty * 1000, 4)
    (5.0, 0.1414)
    """
    if len(picks) < 2:
        raise InputError("A length takes two points or more.", "length")
    stretches = list(zip(picks, picks[1:], strict=False))
    total = sum(_far(a, b) for a, b in stretches)
    units = [
        ((b[0] - a[0]) / (_far(a, b) or 1.0), (b[1] - a[1]) / (_far(a, b) or 1.0))
        for a, b in stretches
    ]
    moved = 0.0
    for i in range(len(picks)):
        into = units[i - 1] if i else (0.0, 0.0)
        out = units[i] if i < len(units) else (0.0, 0.0)
        moved += (into[0] - out[0]) ** 2 + (into[1] - out[1]) ** 2
    own = pick * sqrt(moved) * scale.size
    return Measured(total * scale.size, hypot(own, total * scale.size * scale.relative))


def angle_of(
    pivot: Pick, end: Pick, reference: tuple[Pick, Pick] | None = None, pick: float = 1.0
) -> Measured:
    """The angle at a pivot from straight down (or from a line that was picked) to an end, 0 to π rad.

    Parameters: picks in pixels, y downwards; ``reference`` two picks along a plumb line, from the top;
    the picture's own vertical where there is none, taken as exact.
    A direction through two picks d apart is uncertain by √2·u_p/d. Raises :class:`InputError` for picks
    on one spot. Source: JCGM 100:2008 (GUM) 5.1.2.

    >>> from math import degrees
    >>> a = angle_of((0.0, 0.0), (100.0, 0.0))
    >>> round(degrees(a.value), 3), round(degrees(a.uncertainty), 3)
    (90.0, 0.81)
    """
    top, bottom = reference or ((0.0, 0.0), (0.0, 1.0))
    arm, line = _far(pivot, end), _far(top, bottom)
    if arm < 2 or (reference and line < 2):
        raise InputError("Two of the points coincide.", "angle")
    away = atan2(end[1] - pivot[1], end[0] - pivot[0]) - atan2(
        bottom[1] - top[1], bottom[0] - top[0]
    )
    away = abs((away + pi) % (2 * pi) - pi)
    own = sqrt(2) * pick / arm
    other = sqrt(2) * pick / line if reference else 0.0
    return Measured(away, hypot(own, other))


def area_of(picks: Sequence[Pick], scale: PictureScale, pick: float = 1.0) -> Measured:
    """The area inside an outline of picks.

    A = ½·|Σ (x_i·y_{i+1} − x_{i+1}·y_i)|; each pick moves it by ½·u_p·|p_{i+1} − p_{i−1}|, the scale by
    twice its own relative uncertainty.
    Raises :class:`InputError` for fewer than three picks and an outline that crosses itself.
    Source: the surveyor's formula; JCGM 100:2008 (GUM) 5.1.2.

    >>> m = area_of([(0.0, 0.0), (100.0, 0.0), (100.0, 50.0), (0.0, 50.0)], PictureScale(0.0001, 0.0))
    >>> round(m.value * 1e6, 3), round(m.uncertainty * 1e6, 4)
    (50.0, 1.118)
    """
    n = len(picks)
    if n < 3:
        raise InputError("An outline takes three points or more.", "area")
    if _crosses(picks):
        raise InputError("The outline crosses itself.", "area")
    twice = sum(
        picks[i][0] * picks[(i + 1) % n][1] - picks[(i + 1) % n][0] * picks[i][1] for i in range(n)
    )
    area = abs(twice) / 2
    moved = sum(_far(picks[i - 1], picks[(i + 1) % n]) ** 2 for i in range(n))
    own = pick / 2 * sqrt(moved) * scale.size**2
    value = area * scale.size**2
    return Measured(value, hypot(own, 2 * value * scale.relative))


def _crosses(picks: Sequence[Pick]) -> bool:
    n = len(picks)
    sides = [(picks[i], picks[(i + 1) % n]) for i in range(n)]
    return any(
        _meet(*sides[i], *sides[j])
        for i in range(n)
        for j in range(i + 2, n)
        if not (i == 0 and j == n - 1)
    )


def _meet(a: Pick, b: Pick, c: Pick, d: Pick) -> bool:
    def side(p: Pick, q: Pick, r: Pick) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    return side(a, b, c) * side(a, b, d) < 0 and side(c, d, a) * side(c, d, b) < 0


def askew(scales: Sequence[PictureScale]) -> float:
    """How far the scales of one picture differ, the greatest over the smallest less one; 0 for one.

    Scales set in different places or directions that differ by more than their picks say that the camera
    did not look square on. Common practice, no source.

    >>> round(askew([PictureScale(1.0, 0.0), PictureScale(1.03, 0.0)]), 3)
    0.03
    """
    sizes = [s.size for s in scales]
    return max(sizes) / min(sizes) - 1 if len(sizes) > 1 else 0.0
