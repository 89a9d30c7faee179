"""Which column of a file plays which part: the file's own parts here, a test's inputs by its method."""

from collections.abc import Mapping, Sequence

from brunt_core.methods.base import Method
from brunt_core.properties import PROPERTIES
from brunt_core.tables import Column
from brunt_web.exchange.models import HeadingMeaning
from brunt_web.people.models import Workshop

_PARTS: dict[str, tuple[str, tuple[str, ...]]] = {
    "specimen": ("specimen ID", ("specimen", "specimen id", "id", "code", "sample")),
    "own_id": (
        "your ID",
        (
            *("your id", "own id", "own specimen id", "sample id", "sample name", "specimen name"),
            *(
                "probe",
                "probenname",
                "échantillon",
                "muestra",
                "campione",
                "próbka",
                "试样",
                "試料",
            ),
        ),
    ),
    "condition": (
        "condition or material",
        (
            *("condition", "material", "group", "filament", "resin", "werkstoff", "matériau"),
            *("matière", "materiale", "materiaal", "materiał", "材料", "材質", "المادة"),
        ),
    ),
    "procedure": ("procedure", ("procedure", "test", "method", "orientation")),
    "property": ("property", ("property", "measured property")),
    "value": ("finished result", ("value", "result", "strength", "stress")),
    "outcome": ("outcome", ("outcome", "ended", "how it ended")),
    "place": ("break place", ("place", "break place", "broke at")),
    "mode": ("failure mode", ("mode", "failure mode", "how")),
    "reason": ("reason", ("reason", "void reason")),
    "note": (
        "note",
        ("note", "notes", "comment", "comments", "remark", "remarks", "bemerkung", "remarque"),
    ),
    "untimely": (
        "reason for testing anyway",
        ("tested anyway because", "tested all the same because", "untimely"),
    ),
    "excluded": ("excluded", ("excluded", "left out")),
    "excluded_because": (
        "excluded because",
        ("excluded because", "left out because", "exclusion reason"),
    ),
}


def column_part(column: Column, methods: Sequence[Method]) -> str | None:
    """The part a column plays, an input's key, a property's key, or ``None``.

    The file's own parts come first, then what the campaign's methods call their inputs.
    """
    for part, (_, names) in _PARTS.items():
        if column.name in names:
            return part
    folded = column.name.replace(" ", "_")
    inputs = [i for m in methods for i in m.inputs]
    named = next((i.key for i in inputs if folded in (i.key, i.label.lower())), None)
    named = named or next((i.key for i in inputs if folded in i.aliases), None)
    named = named or next((i.key for i in inputs if column.name == i.label.lower()), None)
    return named or (folded if folded in PROPERTIES else None)


def part_choices(methods: Sequence[Method]) -> list[tuple[str, str]]:
    """The parts a column may be given by hand: key and words."""
    own = [(part, words) for part, (words, _) in _PARTS.items()]
    inputs = {i.key: i.label for m in methods for i in m.inputs}
    results = {r.property: PROPERTIES[r.property].name for m in methods for r in m.results}
    return [*own, *inputs.items(), *((k, v) for k, v in results.items() if k not in inputs)]


def remembered(workshop: Workshop) -> dict[str, str]:
    """What headings mean in this workshop, by their folded name."""
    rows = HeadingMeaning.objects.filter(workshop=workshop)
    return dict(rows.values_list("heading", "part"))


def parts_for(
    columns: Sequence[Column],
    methods: Sequence[Method],
    meanings: Mapping[str, str],
    mapping: Mapping[int, str],
) -> list[str]:
    """The part of each column: as told now, as remembered, else as its heading says; each once."""
    allowed = {key for key, _ in part_choices(methods)}
    found: list[str] = []
    for i, column in enumerate(columns):
        if i in mapping:
            part = mapping[i]
        elif column.name in meanings:
            part = meanings[column.name]
        else:
            part = column_part(column, methods) or ""
        told = i in mapping
        found.append(part if part in allowed and (told or part not in found) else "")
    return found
