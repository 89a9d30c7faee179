"""Does a reading in a series look like another unit beside the one before it?"""

from brunt_core.quantities.rendering import render

_FAR = 5.0
_NEAR = 1.25
_LOOKS = {
    "length": ((25.4, "inches"), (0.0254, "thou"), (10.0, "cm"), (1000.0, "m")),
    "torque": ((0.01, "N·cm"), (0.1129848290276167, "in·lbf"), (1.3558179483314004, "ft·lbf")),
}


def odd_beside(value: float, before: float, dimension: str, unit: str) -> str:
    """A sentence when a reading is more than five times the one before, or less than a fifth.

    Parameters: both in SI, ``dimension`` and ``unit`` they are read in. If the jump is near the size
    of another unit (in that unit's number of ``unit``s), the unit is named. Empty when nothing is
    odd or the one before is zero. Source: common practice, no source; it asks, it never changes.

    >>> odd_beside(0.0531e-3, 1.35e-3, "length", "mm")
    '0.0531 mm reads like inches, compared with 1.35 mm before it.'
    >>> odd_beside(1.40e-3, 1.35e-3, "length", "mm")
    ''
    """
    if not before or value / before <= 0 or 1 / _FAR <= value / before <= _FAR:
        return ""
    ratio = before / value
    like = next((w for f, w in _LOOKS.get(dimension, ()) if 1 / _NEAR < ratio / f < _NEAR), "")
    shown, was = render(value, dimension, unit), render(before, dimension, unit)
    return (
        f"{shown} reads like {like}, compared with {was} before it."
        if like
        else (f"{shown} is far from {was} before it.")
    )
