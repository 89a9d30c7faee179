"""Which column of a file plays which part."""

from brunt_core.methods.base import Method
from brunt_core.properties import PROPERTIES
from brunt_core.tables import Column

_PARTS: dict[str, tuple[str, ...]] = {
    "specimen": ("specimen", "specimen id", "id", "code", "sample"),
    "condition": ("condition", "material", "group", "filament"),
    "procedure": ("procedure", "test", "method", "orientation"),
    "property": ("property",),
    "value": ("value", "result", "strength", "stress"),
    "outcome": ("outcome", "ended"),
    "place": ("place", "break place", "broke at"),
    "reason": ("reason", "void reason"),
    "note": ("note", "notes", "comment"),
}
_INPUTS: dict[str, tuple[str, ...]] = {
    "force": ("force", "load", "peak load", "peak force", "peak", "max load", "maximum load"),
    "width": ("width", "b"),
    "thickness": ("thickness", "h", "height"),
    "diameter": ("diameter", "d"),
    "outer_diameter": ("outer diameter",),
    "inner_diameter": ("inner diameter",),
}


def part_of(column: Column, methods: list[Method]) -> str | None:
    """The part a column plays, an input's key, a property's key, or ``None``."""
    for part, names in (*_PARTS.items(), *_INPUTS.items()):
        if column.name in names:
            return part
    folded = column.name.replace(" ", "_")
    if folded in PROPERTIES or any(i.key == folded for m in methods for i in m.inputs):
        return folded
    return None
