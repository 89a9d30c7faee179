"""Beams."""

from brunt_core.errors import InputError


def simply_supported_deflection(
    at: float, load_at: float, span: float = 1.0, load: float = 1.0, rigidity: float = 1.0
) -> float:
    """Deflection of a simply supported beam under one point load.

    w(x) = F·b·x·(L² − b² − x²) / (6·L·E·I) for x ≤ a, with b = L − a, and its mirror beyond.

    Parameters: ``at`` x and ``load_at`` a from the left support and ``span`` L in m; ``load`` F in
    N; ``rigidity`` E·I in N·m², above zero. Returns m, downward positive.
    Limits: small deflection, no shear. Raises :class:`InputError` outside the span.
    Source: any handbook of beam formulas (Roark, table of straight beams); the mid-span value
    FL³/(48EI) is checked in tests/reference.

    >>> round(simply_supported_deflection(0.032, 0.032, 0.064, 120.0, 2.5e9 * 53.3333333e-12), 8)
    0.0049152
    """
    if not (0 <= at <= span and 0 <= load_at <= span) or span <= 0 or rigidity <= 0:
        raise InputError("The point and the load must lie on a span of positive length.")
    x, a = (at, load_at) if at <= load_at else (span - at, span - load_at)
    b = span - a
    return load * b * x * (span**2 - b**2 - x**2) / (6 * span * rigidity)


def beam_curve(load_at: float, sag: float, points: int = 49) -> list[tuple[float, float]]:
    """The shape of a beam of unit span, scaled so that a load at mid-span would sag by ``sag``.

    Returns ``points`` pairs (x, w) from support to support, w downward.

    >>> beam_curve(0.5, 8.0, 3)
    [(0.0, 0.0), (0.5, 8.0), (1.0, 0.0)]
    """
    middle = simply_supported_deflection(0.5, 0.5)
    return [
        (x, sag * simply_supported_deflection(x, load_at) / middle)
        for x in (i / (points - 1) for i in range(points))
    ]
