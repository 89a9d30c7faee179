"""The one pint registry, made when first needed (it takes most of a second)."""

from functools import cache
from typing import Any


@cache
def unit_registry() -> Any:
    """The shared :class:`pint.UnitRegistry`."""
    import pint

    return pint.UnitRegistry()


@cache
def affine(unit: str, target: str) -> tuple[float, float]:
    """``(factor, offset)`` so that ``target = factor × value + offset``.

    The offset is zero for all but temperatures.

    >>> affine("inch", "m")
    (0.0254, 0.0)
    """
    if unit == target:
        return 1.0, 0.0
    quantity = unit_registry().Quantity
    if unit in ("degC", "degF") or target in ("degC", "degF"):
        zero = float(quantity(0.0, unit).to(target).magnitude)
        return float(quantity(1.0, unit).to(target).magnitude) - zero, zero
    return float(quantity(1.0, unit or "dimensionless").to(target or "").magnitude), 0.0


def convert(value: float, unit: str, target: str) -> float:
    """Convert a number between two pint unit expressions.

    >>> round(convert(1.0, "lbf", "N"), 13)
    4.4482216152605
    """
    factor, offset = affine(unit, target)
    return value * factor + offset
