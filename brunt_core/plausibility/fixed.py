"""Is what a procedure fixes of a workshop's size, or was another unit meant?"""

from collections.abc import Iterator, Mapping

from brunt_core.methods.base import Method
from brunt_core.quantities import DIMENSIONS, parse_typed
from brunt_core.quantities.rendering import render

# What rigs for printed specimens are built to, in SI and wide on purpose. Common practice, no source.
_BANDS: dict[str, tuple[float, float]] = {
    "hammer_mass": (0.05, 30),
    "hammer_arm": (0.05, 1.5),
    "hammer_energy": (0.1, 500),
    "mass": (0.01, 50),
    "span": (8e-3, 1.0),
    "reach": (5e-3, 1.0),
    "gauge_length": (5e-3, 0.5),
    "hole_diameter": (1e-3, 50e-3),
    "engagement": (1e-3, 0.1),
    "height": (1e-3, 0.3),
    "torque": (0.05, 500),
    "load": (0.05, 5000),
    "force": (0.05, 5000),
    "length": (5e-3, 1.0),
    "set_strain": (0.005, 0.9),
    "insertion_temperature": (293.15, 723.15),
    "reference_force": (1, 50e3),
    "ramp": (0.1 / 60, 20 / 60),
    "density": (300, 3000),
}


def odd_fixed(method: Method, texts: Mapping[str, str]) -> Iterator[tuple[str, str]]:
    """Which fixed inputs lie outside a workshop's range: (key, one sentence).

    Parameters: the method; what is typed by input key, each readable and in the unit the method
    names where it has none of its own. The sentence names the unit that would bring it in, if one does.

    >>> from brunt_core.methods.registry import method
    >>> [said for _, said in odd_fixed(method("flexure"), {"span": "2.5 mm"})]
    ['Span of 2.50 mm is not of a workshop’s size (8.0 mm to 1000 mm); 2.5 in or 2.5 cm would be.']
    """
    for spec in method.fixed:
        band, text = _BANDS.get(spec.key), texts.get(spec.key, "")
        if not band or not text or not spec.plain:
            continue
        typed = parse_typed(text, spec.dimension, spec.unit)
        if band[0] <= typed.observation.anchor <= band[1]:
            continue
        low, high = (render(x, spec.dimension, spec.unit, 2) for x in band)
        shown = render(typed.observation.anchor, spec.dimension, spec.unit)
        number = f"{typed.parts[0].number:.6g}" if len(typed.parts) == 1 else ""
        others = [f"{number} {u}" for u in _tried(spec.dimension) if number and u != spec.unit]
        fit = [o for o in others if _within(o, spec.dimension, band)]
        also = f"; {' or '.join(fit[:2])} would be" if fit else ""
        yield (
            spec.key,
            f"{spec.label} of {shown} is not of a workshop’s size ({low} to {high}){also}.",
        )


_UNITS = {
    "length": ("mm", "in", "cm"),
    "mass": ("kg", "g", "lb"),
    "energy": ("J", "mJ"),
    "torque": ("N·m", "N·cm", "kgf·cm"),
    "force": ("N", "kN", "kgf"),
    "density": ("g/cm³", "kg/m³"),
}


def _tried(dimension: str) -> list[str]:
    """The units such a thing is written in that Brunt can read."""
    kind = DIMENSIONS[dimension]
    return [u for u in _UNITS.get(dimension, ()) if kind.unit_of(u)]


def _within(text: str, dimension: str, band: tuple[float, float]) -> bool:
    return band[0] <= parse_typed(text, dimension).observation.anchor <= band[1]
