"""Conversions between the units that Brunt reads."""

from brunt_core.quantities.factors import FACTORS


def affine(unit: str, target: str) -> tuple[float, float]:
    """``(factor, offset)`` so that ``target = factor × value + offset``.

    The offset is zero for all but temperatures. Raises :class:`LookupError` for a pair that is not
    written down in :data:`~brunt_core.quantities.factors.FACTORS`.

    >>> affine("inch", "m")
    (0.0254, 0.0)
    """
    if unit == target:
        return 1.0, 0.0
    if (unit, target) not in FACTORS:
        raise LookupError(f"No factor from {unit!r} to {target!r} is written down in factors.py.")
    return FACTORS[unit, target]


def convert(value: float, unit: str, target: str) -> float:
    """Convert a number between two units, named as in the dimensions.

    >>> round(convert(1.0, "lbf", "N"), 13)
    4.4482216152605
    """
    factor, offset = affine(unit, target)
    return value * factor + offset
