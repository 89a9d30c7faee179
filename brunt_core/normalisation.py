"""What a value is divided by: another section, or mass, volume, price and hours of the specimen."""

from collections.abc import Callable
from dataclasses import dataclass

from brunt_core.methods._axial import mass_section as filled_section


@dataclass(frozen=True)
class Facts:
    """What is known of one specimen, SI but for ``price`` (of a kg) and ``hours`` of print.

    ``section`` is the area its stress was worked with, in m²; every other may be unknown.
    """

    section: float | None = None
    drawn_area: float | None = None
    drawn_volume: float | None = None
    fracture_area: float | None = None
    density: float | None = None
    mass: float | None = None
    price: float | None = None
    hours: float | None = None


def section_by_mass(facts: Facts) -> float | None:
    """The section its mass fills without voids, A_m = A_0 · m / (ρ · V_0); m².

    Limits: voids taken as spread alike over the specimen. Source: definition of density.

    >>> f = Facts(drawn_area=10e-6, drawn_volume=1e-6, density=1240.0, mass=1.116e-3)
    >>> round(section_by_mass(f) * 1e6, 9)
    9.0
    """
    parts = ("drawn_area", "mass", "density", "drawn_volume")
    known = {k: getattr(facts, k) for k in parts}
    return float(filled_section(known)) if all(known.values()) else None  # type: ignore[arg-type]


def price_of(facts: Facts) -> float | None:
    """Price of the plastic in one specimen, m · price of a kg.

    >>> price_of(Facts(mass=0.002, price=25.0))
    0.05
    """
    return facts.mass * facts.price if facts.mass and facts.price else None


@dataclass(frozen=True)
class Normaliser:
    """One way to normalise: its words on the result, what it adds to the unit, what must be known.

    ``divisor`` is in the unit named; of a ``stress`` it is the other section over the one measured.
    """

    key: str
    choice: str
    words: str
    unit: str
    lacking: str
    divisor: Callable[[Facts], float | None]
    stress: bool = False


def _section(area: Callable[[Facts], float | None]) -> Callable[[Facts], float | None]:
    def share(facts: Facts) -> float | None:
        other = area(facts)
        return other / facts.section if other and facts.section else None

    return share


def _times(value: float | None, factor: float) -> float | None:
    return value * factor if value else None


NORMALISERS = {
    n.key: n
    for n in (
        Normaliser(
            "drawn",
            "section as drawn",
            "on the section as drawn",
            "",
            "its load or its drawing",
            _section(lambda f: f.drawn_area),
            stress=True,
        ),
        Normaliser(
            "mass",
            "section by mass",
            "on the section by mass",
            "",
            "its mass or the density of its material",
            _section(section_by_mass),
            stress=True,
        ),
        Normaliser(
            "fracture",
            "fracture surface",
            "on the fracture surface",
            "",
            "the area of its fracture surface",
            _section(lambda f: f.fracture_area),
            stress=True,
        ),
        Normaliser(
            "density",
            "per density",
            "per density of the material",
            "per g/cm³",
            "the density of its material",
            lambda f: _times(f.density, 1e-3),
        ),
        Normaliser(
            "gram",
            "per gram",
            "per gram of the specimen",
            "per g",
            "its mass",
            lambda f: _times(f.mass, 1e3),
        ),
        Normaliser(
            "cm3",
            "per cm³",
            "per cm³ of the specimen as drawn",
            "per cm³",
            "its volume",
            lambda f: _times(f.drawn_volume, 1e6),
        ),
        Normaliser(
            "price",
            "per price",
            "per price of its plastic",
            "per unit of price",
            "its mass or the price of its material",
            price_of,
        ),
        Normaliser(
            "hour",
            "per hour of print",
            "per hour of print, as its recipe foresees",
            "per h",
            "speed, line width and layer height of its recipe",
            lambda f: f.hours or None,
        ),
    )
}


def factor(key: str, facts: Facts, lower: bool = False) -> float | None:
    """What a value is multiplied by to be normalised; ``None`` where something is not known.

    A property of which less is better (``lower``) is multiplied by what the others are divided by,
    so that a light or cheap specimen is never made to look worse by it; a stress is carried over to
    another section either way. Source: definitions.
    Raises ``KeyError`` for a normaliser that is not one of :data:`NORMALISERS`.

    >>> factor("density", Facts(density=1250.0))
    0.8
    >>> round(factor("drawn", Facts(section=10.1e-6, drawn_area=10e-6)), 9)
    1.01
    >>> factor("gram", Facts()) is None
    True
    """
    how = NORMALISERS[key]
    divisor = how.divisor(facts)
    if not divisor or divisor <= 0:
        return None
    return divisor if lower and not how.stress else 1 / divisor
