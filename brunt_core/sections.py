"""Cross-sections: rectangle, round and tube, from measured dimensions.

The functions take plain floats or ``uncertainties`` numbers alike, since they are plain arithmetic.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import pi
from typing import Any

from brunt_core.errors import InputError


@dataclass(frozen=True)
class Section:
    """A kind of section: the dimensions that define it and the formula of its area."""

    key: str
    name: str
    dimensions: tuple[str, ...]
    formula: str
    terms: tuple[str, ...]
    area: Callable[[Mapping[str, Any]], Any]


def rectangle_area(width: Any, thickness: Any) -> Any:
    """Area of a rectangle, A = b·h.

    Parameters: ``width`` b and ``thickness`` h in m, both above zero. Returns m².
    Source: elementary geometry; the section of ISO 527-1 and ASTM D638 bars.

    >>> round(rectangle_area(0.010, 0.004) * 1e6, 9)
    40.0
    """
    return width * thickness


def round_area(diameter: Any) -> Any:
    """Area of a circle, A = π·d²/4.

    Parameter: ``diameter`` d in m. Returns m². Source: elementary geometry.

    >>> round(round_area(0.006) * 1e6, 5)
    28.27433
    """
    return pi * diameter * diameter / 4


def tube_area(outer_diameter: Any, inner_diameter: Any) -> Any:
    """Area of a ring, A = π·(D² − d²)/4.

    Parameters in m, outer D above inner d. Returns m². Source: elementary geometry.
    Raises :class:`InputError` when the bore is not smaller than the outside.

    >>> round(tube_area(0.010, 0.006) * 1e6, 5)
    50.26548
    """
    if (
        getattr(inner_diameter - outer_diameter, "nominal_value", inner_diameter - outer_diameter)
        >= 0
    ):
        raise InputError("The bore must be smaller than the outside diameter.", "inner_diameter")
    return pi * (outer_diameter * outer_diameter - inner_diameter * inner_diameter) / 4


SECTIONS: dict[str, Section] = {
    s.key: s
    for s in (
        Section(
            "rectangle",
            "rectangle",
            ("width", "thickness"),
            "A = b · h",
            ("b", "h"),
            lambda v: rectangle_area(v["width"], v["thickness"]),
        ),
        Section(
            "round",
            "round",
            ("diameter",),
            "A = π · d² / 4",
            ("d",),
            lambda v: round_area(v["diameter"]),
        ),
        Section(
            "tube",
            "tube",
            ("outer_diameter", "inner_diameter"),
            "A = π · (D² − d²) / 4",
            ("D", "d"),
            lambda v: tube_area(v["outer_diameter"], v["inner_diameter"]),
        ),
    )
}


def section_for(given: set[str]) -> Section:
    """The section that the given dimensions define.

    Raises :class:`InputError` naming the dimension that is missing or does not belong.

    >>> section_for({"width", "thickness"}).key
    'rectangle'
    """
    for section in SECTIONS.values():
        if given == set(section.dimensions):
            return section
    for section in SECTIONS.values():
        missing = set(section.dimensions) - given
        if given & set(section.dimensions) and given < set(section.dimensions):
            field = sorted(missing)[0]
            raise InputError(
                f"The {words(field)} is missing: a {section.name} section needs "
                f"{' and '.join(words(d) for d in section.dimensions)}.",
                field,
            )
    if not given:
        raise InputError(
            "The section is missing: give width and thickness, a diameter, or outer "
            "and inner diameter.",
            "width",
        )
    raise InputError(
        f"{', '.join(words(d) for d in sorted(given))} do not define one section: "
        "give width and thickness, a diameter, or outer and inner diameter.",
        sorted(given)[0],
    )


def words(key: str) -> str:
    """A key as words: ``outer_diameter`` → ``outer diameter``."""
    return key.replace("_", " ")
