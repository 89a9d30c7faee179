"""The registry of properties: what is compared, in which unit, and which way is better."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Property:
    """Something a test yields. ``better`` is ``"higher"`` or ``"lower"``."""

    key: str
    name: str
    symbol: str
    dimension: str
    unit: str
    better: str = "higher"


PROPERTIES: dict[str, Property] = {
    p.key: p
    for p in (
        Property("tensile_strength", "Tensile strength", "σ", "stress", "MPa"),
        Property("layer_adhesion_strength", "Layer adhesion strength", "σ", "stress", "MPa"),
    )
}
