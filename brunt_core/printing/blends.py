"""A blend of several feedstocks: density and price from its proportions. SI."""

from collections.abc import Sequence
from dataclasses import dataclass

from brunt_core.errors import InputError


@dataclass(frozen=True)
class Ingredient:
    """So much of one: mass in kg, density in kg/m³ and price a kg where they are known."""

    mass: float
    density: float | None = None
    price: float | None = None


@dataclass(frozen=True)
class Blend:
    """What they come to: mass in kg, density in kg/m³, price of all of it, the share of each by mass."""

    mass: float
    density: float | None
    price: float | None
    shares: tuple[float, ...]


def blend(parts: Sequence[Ingredient]) -> Blend:
    """Mix several.

    Density by volumes that add up, ρ = Σm / Σ(m/ρ); price = Σ m·p. What is not known of one part is not
    known of the blend. Limits: resins that mix without shrinking. Raises :class:`InputError` for fewer
    than two parts or a mass that is not above zero. Source: any handbook, rule of mixtures.

    >>> b = blend([Ingredient(0.3, 1100.0, 40.0), Ingredient(0.1, 1200.0, 60.0)])
    >>> round(b.density, 2), b.price, b.shares
    (1123.4, 18.0, (0.75, 0.25))
    """
    if len(parts) < 2:
        raise InputError("A blend needs at least two lots.", "parts")
    if min(p.mass for p in parts) <= 0:
        raise InputError("Type how much of each there is, more than nothing.", "parts")
    mass = sum(p.mass for p in parts)
    volumes = [p.mass / p.density for p in parts if p.density]
    prices = [p.mass * p.price for p in parts if p.price is not None]
    return Blend(
        mass=mass,
        density=mass / sum(volumes) if len(volumes) == len(parts) else None,
        price=round(sum(prices), 6) if len(prices) == len(parts) else None,
        shares=tuple(round(p.mass / mass, 9) for p in parts),
    )
