"""Cross-sections: rectangle, round and tube, from measured dimensions.

A rectangle bends the flat way: ``thickness`` is its depth. The functions take plain floats or
``uncertainties`` numbers alike, since they are plain arithmetic.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import pi
from typing import Any

from brunt_core.errors import InputError
from brunt_core.mechanics.torsion import stiffness_factor, stress_factor
from brunt_core.methods.base import Derived


@dataclass(frozen=True)
class Section:
    """A kind of section: the dimensions that define it, and its area, moduli and moments."""

    key: str
    name: str
    dimensions: tuple[str, ...]
    terms: tuple[Derived, ...]


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


def _rectangle_bending(v: Mapping[str, Any]) -> Any:
    return v["width"] * v["thickness"] ** 2 / 6


def _rectangle_second(v: Mapping[str, Any]) -> Any:
    return v["width"] * v["thickness"] ** 3 / 12


def _by(function: Callable[..., float], *keys: str) -> Callable[[Mapping[str, Any]], Any]:
    """A function of floats made fit for uncertain numbers."""

    def apply(values: Mapping[str, Any]) -> Any:
        from uncertainties import wrap

        return wrap(function)(*(values[k] for k in keys))

    return apply


def _terms(
    area: tuple[str, str, Any],
    bending: tuple[str, str, Any],
    second: tuple[str, str, Any],
    half: tuple[str, str, Any],
    twist: tuple[str, str, Any],
    polar: tuple[str, str, Any],
    needs: tuple[str, ...],
) -> tuple[Derived, ...]:
    kinds = (
        ("area", "area", "mm²", area),
        ("bending_modulus", "section_modulus", "mm³", bending),
        ("second_moment", "second_moment", "mm⁴", second),
        ("half_depth", "length", "mm", half),
        ("torsion_modulus", "section_modulus", "mm³", twist),
        ("torsion_constant", "second_moment", "mm⁴", polar),
    )
    return tuple(
        Derived(key, formula, numbers, compute=compute, needs=needs, dimension=dimension, unit=unit)
        for key, dimension, unit, (formula, numbers, compute) in kinds
    )


_RECT = ("width", "thickness")
_TUBE = ("outer_diameter", "inner_diameter")

SECTIONS: dict[str, Section] = {
    s.key: s
    for s in (
        Section(
            "rectangle",
            "rectangle",
            _RECT,
            _terms(
                (
                    "A = b · h",
                    "{width} · {thickness}",
                    lambda v: rectangle_area(v["width"], v["thickness"]),
                ),
                ("W = b · h² / 6", "{width} · ({thickness})² / 6", _rectangle_bending),
                ("I = b · h³ / 12", "{width} · ({thickness})³ / 12", _rectangle_second),
                half=("c = h / 2", "{thickness} / 2", lambda v: v["thickness"] / 2),
                twist=(
                    "W_t = α · b · t²",
                    "α for {width} by {thickness}",
                    _by(stress_factor, *_RECT),
                ),
                polar=(
                    "J = β · b · t³",
                    "β for {width} by {thickness}",
                    _by(stiffness_factor, *_RECT),
                ),
                needs=_RECT,
            ),
        ),
        Section(
            "round",
            "round",
            ("diameter",),
            _terms(
                ("A = π · d² / 4", "π · ({diameter})² / 4", lambda v: round_area(v["diameter"])),
                (
                    "W = π · d³ / 32",
                    "π · ({diameter})³ / 32",
                    lambda v: pi * v["diameter"] ** 3 / 32,
                ),
                (
                    "I = π · d⁴ / 64",
                    "π · ({diameter})⁴ / 64",
                    lambda v: pi * v["diameter"] ** 4 / 64,
                ),
                half=("c = d / 2", "{diameter} / 2", lambda v: v["diameter"] / 2),
                twist=(
                    "W_t = π · d³ / 16",
                    "π · ({diameter})³ / 16",
                    lambda v: pi * v["diameter"] ** 3 / 16,
                ),
                polar=(
                    "J = π · d⁴ / 32",
                    "π · ({diameter})⁴ / 32",
                    lambda v: pi * v["diameter"] ** 4 / 32,
                ),
                needs=("diameter",),
            ),
        ),
        Section(
            "tube",
            "tube",
            _TUBE,
            _terms(
                (
                    "A = π · (D² − d²) / 4",
                    "π · (({outer_diameter})² − ({inner_diameter})²) / 4",
                    lambda v: tube_area(v["outer_diameter"], v["inner_diameter"]),
                ),
                (
                    "W = π · (D⁴ − d⁴) / (32 · D)",
                    "π · (({outer_diameter})⁴ − ({inner_diameter})⁴) / (32 · {outer_diameter})",
                    lambda v: _quartic(v) / 32 / v["outer_diameter"],
                ),
                (
                    "I = π · (D⁴ − d⁴) / 64",
                    "π · (({outer_diameter})⁴ − ({inner_diameter})⁴) / 64",
                    lambda v: _quartic(v) / 64,
                ),
                half=("c = D / 2", "{outer_diameter} / 2", lambda v: v["outer_diameter"] / 2),
                twist=(
                    "W_t = π · (D⁴ − d⁴) / (16 · D)",
                    "π · (({outer_diameter})⁴ − ({inner_diameter})⁴) / (16 · {outer_diameter})",
                    lambda v: _quartic(v) / 16 / v["outer_diameter"],
                ),
                polar=(
                    "J = π · (D⁴ − d⁴) / 32",
                    "π · (({outer_diameter})⁴ − ({inner_diameter})⁴) / 32",
                    lambda v: _quartic(v) / 32,
                ),
                needs=_TUBE,
            ),
        ),
    )
}


def _quartic(v: Mapping[str, Any]) -> Any:
    tube_area(v["outer_diameter"], v["inner_diameter"])
    return pi * (v["outer_diameter"] ** 4 - v["inner_diameter"] ** 4)


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
