"""What a plan costs in plastic, hours and money. What is not known stays unknown, never zero."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

from brunt_core.methods.registry import method


@dataclass(frozen=True)
class Demand:
    """So many alike specimens: volume in mm³ each, the material's density kg/m³ and price a kg.

    ``solidity`` is the share of the volume that is plastic; ``printed`` is false for what is cut or
    bought; ``further`` are the methods done on the same specimens after the first. A resin takes
    ``plate_seconds`` for a plate, however many of the ``together`` it holds stand on it.
    """

    material: str
    count: int
    volume: float
    method: str
    density: float | None = None
    price: float | None = None
    flow: float | None = None
    solidity: float = 1.0
    treated: bool = False
    printed: bool = True
    plate_seconds: float | None = None
    together: int = 1
    further: tuple[str, ...] = ()


@dataclass(frozen=True)
class MaterialNeed:
    """Grams and price of one material; ``None`` where unknown."""

    material: str
    grams: float | None
    price: float | None


@dataclass(frozen=True)
class Estimate:
    """The cost of a plan; every figure may be ``None`` for unknown, with the reason in ``unknown``."""

    specimens: int
    needs: tuple[MaterialNeed, ...]
    print_hours: float | None
    rig_hours: float
    oven_loads: int
    price: float | None
    unknown: tuple[str, ...]


def estimate(demands: Sequence[Demand], oven_capacity: int = 40) -> Estimate:
    """Add up a plan.

    Mass = volume × solidity × density; price = mass × price a kg; print time = volume × solidity ÷
    flow (mm³/s) × 1.25 for travel, heating and plate changes (common practice, no source); of a resin
    plates × the time of one.

    >>> estimate([Demand("Resin", 9, 1000.0, "tension", plate_seconds=3600.0, together=4)]).print_hours
    3.0
    >>> e = estimate([Demand("PLA", 10, 1000.0, "tension", density=1240.0, price=20.0, flow=5.0)])
    >>> round(e.needs[0].grams, 2), round(e.price, 3), round(e.print_hours, 3)
    (12.4, 0.248, 0.694)
    >>> estimate([Demand("PLA", 10, 1000.0, "tension")]).price is None
    True
    """
    names = list(dict.fromkeys(d.material for d in demands))
    needs = tuple(_need(name, [d for d in demands if d.material == name]) for name in names)
    unknown = tuple(
        f"the {what} of {n.material}"
        for n in needs
        for what, x in (("density", n.grams), ("price", n.price))
        if x is None and not (what == "price" and n.grams is None)
    )
    printed = [d for d in demands if d.printed]
    seconds = [t for d in printed if (t := _seconds(d)) is not None]
    hours = sum(seconds) / 3600 if len(seconds) == len(printed) else None
    treated = sum(d.count for d in demands if d.treated)
    prices = [n.price for n in needs]
    return Estimate(
        sum(d.count for d in demands),
        needs,
        hours,
        rig_hours=sum(d.count * method(m).minutes for d in demands for m in (d.method, *d.further))
        / 60,
        oven_loads=ceil(treated / oven_capacity),
        price=None if None in prices else sum(p for p in prices if p is not None),
        unknown=unknown
        + (
            (
                "the print time: no recipe names speed, line width and layer height, or a resin's times",
            )
            if hours is None
            else ()
        ),
    )


def _seconds(d: Demand) -> float | None:
    """Time on the printer; a quarter more than flowing for travel, heating and plate changes."""
    if d.plate_seconds is not None:
        return ceil(d.count / max(d.together, 1)) * d.plate_seconds
    return None if d.flow is None else d.count * d.volume * d.solidity / d.flow * 1.25


def _need(name: str, demands: Sequence[Demand]) -> MaterialNeed:
    grams = [
        None if d.density is None else d.count * d.volume * d.solidity * d.density * 1e-6
        for d in demands
    ]
    if None in grams:
        return MaterialNeed(name, None, None)
    total = sum(g for g in grams if g is not None)
    price = demands[0].price
    return MaterialNeed(name, total, None if price is None else total / 1000 * price)
