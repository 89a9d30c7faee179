"""What was measured on a picture, in words."""

from brunt_core.mechanics.picture import Measured
from brunt_core.quantities.rendering import in_unit, width_in_unit

UNITS = {"length": ("length", "mm"), "angle": ("angle", "°"), "area": ("area", "mm²")}


def said(kind: str, value: Measured | None) -> str:
    """A value with its uncertainty as it is typed into a field: ``95.31 ± 0.42 °``."""
    if value is None:
        return ""
    dimension, unit = UNITS[kind]
    shown = in_unit(value.value, dimension, unit)
    off = width_in_unit(value.uncertainty, dimension, unit)
    places = 0
    while places < 4 and off * 10**places < 10:
        places += 1
    return f"{shown:.{places}f} ± {off:.{places}f} {unit}"
