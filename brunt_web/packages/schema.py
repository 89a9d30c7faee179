"""What a package says of its own tables: their columns, kinds and keys, as Frictionless describes them."""

import csv
import io
from collections.abc import Iterable
from typing import Any

from brunt_core.properties import PROPERTIES
from brunt_web.packages.cells import kind_of
from brunt_web.packages.tables import Table, columns, is_person, target


def as_csv(head: list[str], rows: Iterable[list[str]]) -> str:
    """A plain table."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(head)
    writer.writerows(rows)
    return out.getvalue()


def resource(table: Table) -> dict[str, Any]:
    """A table's entry with its schema."""
    fields: list[dict[str, Any]] = [{"name": "id", "type": "integer", "constraints": {"required": True, "unique": True}}]  # fmt: skip
    keys = []
    for f in columns(table):
        described: dict[str, Any] = {
            "name": f.name,
            "type": kind_of(f),
        }
        if described["type"] == "datetime":
            described["format"] = "any"
        if f.help_text:
            described["description"] = str(f.help_text)
        fields.append(described)
        to = target(f)
        if is_person(f):
            keys.append(
                {
                    "fields": [f.name],
                    "reference": {"resource": "people", "fields": ["id"]},
                }
            )
        elif to is not None:
            own = "" if to is table else to.name
            keys.append({"fields": [f.name], "reference": {"resource": own, "fields": ["id"]}})
    return _entry(table.name, table.words, fields, keys)


def _entry(
    name: str, words: str, fields: list[dict[str, Any]], keys: list[dict[str, Any]], key: Any = "id"
) -> dict[str, Any]:
    return {
        "name": name, "path": f"data/{name}.csv", "profile": "tabular-data-resource", "title": words,
        "encoding": "utf-8", "format": "csv", "mediatype": "text/csv",
        "schema": {"fields": fields, "primaryKey": key, "foreignKeys": keys, "missingValues": [""]},
    }  # fmt: skip


LEVELS = _entry(
    "condition_levels",
    "which levels a condition has",
    [{"name": "condition", "type": "integer"}, {"name": "level", "type": "integer"}],
    [
        {"fields": ["condition"], "reference": {"resource": "conditions", "fields": ["id"]}},
        {"fields": ["level"], "reference": {"resource": "levels", "fields": ["id"]}},
    ],
    ["condition", "level"],
)
CHANGES = _entry(
    "changes",
    "what was changed later: the columns of a row that differ, before and after",
    [
        {"name": "id", "type": "integer"},
        {"name": "at", "type": "datetime", "format": "any"},
        {"name": "person", "type": "integer"},
        {"name": "table", "type": "string"},
        {"name": "row", "type": "integer"},
        {"name": "before", "type": "string"},
        {"name": "after", "type": "string"},
    ],
    [{"fields": ["person"], "reference": {"resource": "people", "fields": ["id"]}}],
)
PEOPLE = _entry(
    "people", "who did it, by number", [{"name": "id", "type": "integer"}, {"name": "name", "type": "string"}], []
)  # fmt: skip
PROPERTIES_TABLE = _entry(
    "properties",
    "what is measured: unit shown, and which way is better; results are in SI",
    [
        {"name": n, "type": "string"}
        for n in ("key", "name", "symbol", "dimension", "unit", "better")
    ],
    [],
    "key",
)


def property_table() -> str:
    """The table of what is measured."""
    rows = [[p.key, p.name, p.symbol, p.dimension, p.unit, p.better] for p in PROPERTIES.values()]
    return as_csv(["key", "name", "symbol", "dimension", "unit", "better"], rows)
