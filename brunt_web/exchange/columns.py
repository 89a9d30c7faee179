"""Which column of a file plays which part: the file's own parts here, a test's inputs by its method."""

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
    "mode": ("mode", "failure mode", "how"),
    "reason": ("reason", "void reason"),
    "note": ("note", "notes", "comment"),
    "untimely": ("tested all the same because",),
    "left_out": ("left out", "excluded"),
    "left_out_because": ("left out because", "exclusion reason"),
}


def part_of(column: Column, methods: list[Method]) -> str | None:
    """The part a column plays, an input's key, a property's key, or ``None``.

    The file's own parts come first, then what the campaign's methods call their inputs.
    """
    for part, names in _PARTS.items():
        if column.name in names:
            return part
    folded = column.name.replace(" ", "_")
    inputs = [i for m in methods for i in m.inputs]
    named = next((i.key for i in inputs if folded == i.key), None)
    named = named or next((i.key for i in inputs if folded in i.aliases), None)
    return named or (folded if folded in PROPERTIES else None)
