"""Conversions between units: ``pint``'s, of which those that Brunt reads are written down."""

from functools import cache
from typing import Any

from brunt_core.quantities.factors import FACTORS


@cache
def unit_registry() -> Any:
    """The shared :class:`pint.UnitRegistry`, made when first needed (it takes most of a second)."""
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
    return FACTORS.get((unit, target)) or by_registry(unit, target)


def by_registry(unit: str, target: str) -> tuple[float, float]:
    """The same as the package's definitions have it.

    >>> by_registry("degC", "kelvin")
    (1.0, 273.15)
    """
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


def made() -> dict[tuple[str, str], tuple[float, float]]:
    """What :data:`~brunt_core.quantities.factors.FACTORS` holds, from the package's definitions.

    >>> made()["lbf", "N"] == affine("lbf", "N")
    True
    """
    from brunt_core.quantities.dimensions import DIMENSIONS

    found = {}
    for kind in DIMENSIONS.values():
        for unit in kind.spellings.values():
            if unit != kind.si:
                found[unit, kind.si] = by_registry(unit, kind.si)
                found[kind.si, unit] = by_registry(kind.si, unit)
    return found
