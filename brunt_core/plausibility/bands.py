"""Wide bands of what printed parts of a polymer family reach.

Recalled from general knowledge of the trade, not from a source, and wide on purpose: they serve to
notice a slipped unit and nothing else. Near-solid parts at 23 °C.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Family:
    """A polymer family: its strengths along and across the layers in Pa, density in kg/m³."""

    key: str
    name: str
    tensile: tuple[float, float]
    across: tuple[float, float]
    density: tuple[float, float]


def _family(
    key: str,
    name: str,
    tensile: tuple[float, float],
    across: tuple[float, float],
    density: tuple[float, float],
) -> Family:
    return Family(
        key,
        name,
        (tensile[0] * 1e6, tensile[1] * 1e6),
        (across[0] * 1e6, across[1] * 1e6),
        (density[0] * 1e3, density[1] * 1e3),
    )


FAMILIES: dict[str, Family] = {
    f.key: f
    for f in (
        _family("pla", "PLA", (30, 70), (10, 55), (1.20, 1.30)),
        _family("petg", "PETG", (28, 58), (10, 45), (1.23, 1.30)),
        _family("abs", "ABS", (22, 48), (8, 35), (1.02, 1.10)),
        _family("asa", "ASA", (25, 52), (8, 38), (1.04, 1.11)),
        _family("hips", "HIPS", (14, 32), (5, 24), (1.02, 1.08)),
        _family("pc", "PC", (45, 75), (18, 60), (1.18, 1.23)),
        _family("pa6", "PA6", (30, 90), (15, 65), (1.10, 1.17)),
        _family("pa12", "PA12", (30, 58), (20, 50), (0.93, 1.05)),
        _family("pp", "PP", (15, 38), (8, 30), (0.87, 0.95)),
        _family("tpu", "TPU", (18, 60), (8, 40), (1.10, 1.26)),
        _family("pvb", "PVB", (20, 60), (8, 40), (1.05, 1.15)),
        _family("pla-cf", "PLA, carbon-filled", (30, 70), (10, 40), (1.20, 1.40)),
        _family("pa-cf", "PA, fibre-filled", (45, 150), (15, 65), (1.05, 1.30)),
        _family("petg-cf", "PETG, carbon-filled", (30, 70), (10, 45), (1.22, 1.38)),
        _family("resin", "Resin, standard", (25, 70), (20, 70), (1.08, 1.22)),
        _family("resin-tough", "Resin, tough", (20, 60), (16, 60), (1.05, 1.20)),
        _family("resin-abs", "Resin, ABS-like", (25, 60), (20, 60), (1.05, 1.20)),
        _family("other", "Other", (2, 200), (1, 200), (0.3, 3.0)),
    )
}

_FIELD = {"tensile_strength": "tensile", "layer_adhesion_strength": "across", "density": "density"}


def band(family: str, property_key: str) -> tuple[float, float] | None:
    """The plausible band of a property for a family in SI, or ``None`` where none is kept.

    >>> band("pla", "tensile_strength")
    (30000000.0, 70000000.0)
    """
    found = FAMILIES.get(family)
    name = _FIELD.get(property_key)
    return getattr(found, name) if found and name else None
