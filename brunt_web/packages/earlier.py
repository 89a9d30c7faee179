"""What was changed, from what to what: the rows of the record that belong to a package, out and in."""

import csv
import io
import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import models
from django.db.models import Min

from brunt_core.errors import InputError
from brunt_web.changes.models import Change
from brunt_web.packages.cells import read_cell
from brunt_web.packages.references import inward
from brunt_web.packages.tables import BY_NAME, FILES, Table, columns, is_person, target
from brunt_web.people.models import Workshop

HEAD = ["id", "at", "person", "table", "row", "before", "after"]
# Until format 3 a package had the earlier versions of these tables' rows instead, each whole.
WITH_VERSIONS = (
    *("measurements", "tests", "readings", "timed_readings"),
    *("runs", "load_cases", "reports"),
)
_BATCH = 2000


@dataclass(frozen=True)
class EarlierValue:
    """One change of one row: when, by whom (a number of the package), which columns from what to what."""

    at: datetime
    person: int | None
    table: str
    row: int
    before: Mapping[str, Any]
    after: Mapping[str, Any]


def packaged_changes(rows: Mapping[str, list[dict[str, Any]]]) -> list[Change]:
    """The changes of rows that go into a package, in their order; without those of the rows' making."""
    found: list[Change] = []
    for name, own in rows.items():
        table = BY_NAME[name]
        keys = [r["pk"] for r in own]
        found += Change.objects.filter(kind=table.model._meta.db_table, row__in=keys, what="~")
    return sorted(found, key=lambda c: c.pk)


def people_in(changes: list[Change]) -> set[int]:
    """Who made the changes, and whom a changed column named."""
    users = {c.who_id for c in changes if c.who_id}
    tables = {t.model._meta.db_table: t for t in BY_NAME.values()}
    for change in changes:
        for f in columns(tables[change.kind]):
            if is_person(f):
                users |= {v for d in (change.before, change.after) if (v := d.get(f.attname))}
    return users


def can_go_out(table: Table, field: models.Field) -> bool:
    """Whether a column's earlier values stand in a package: those of files do not."""
    to_elsewhere = field.is_relation and not is_person(field) and target(field) is None
    is_file = isinstance(field, models.BinaryField) or (table.model, field.name) in FILES
    return not (to_elsewhere or is_file)


# -- read ---------------------------------------------------------------------------------------


def read_changes(
    rows: list[list[str]], sizes: Mapping[str, int], people: int
) -> list[EarlierValue]:
    """The table of changes. Raises :class:`InputError` for a cell that cannot be."""
    found = []
    for i, cells in enumerate(rows, 1):
        try:
            found.append(_read_one(cells, sizes, people))
        except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
            raise InputError(f"changes, row {i}: it does not fit the package.", "file") from None
    return found


def _read_one(cells: list[str], sizes: Mapping[str, int], people: int) -> EarlierValue:
    _, at, person, name, row, before, after = cells
    change = EarlierValue(
        datetime.fromisoformat(at),
        int(person) if person else None,
        name,
        int(row),
        json.loads(before),
        json.loads(after),
    )
    _check_change(change, sizes, people)
    return change


def _check_change(change: EarlierValue, sizes: Mapping[str, int], people: int) -> None:
    """Raise :class:`ValueError` where it leads to a row or a person that is not in the package."""
    if change.at.tzinfo is None or not 1 <= change.row <= sizes[change.table]:
        raise ValueError
    if change.person is not None and not 1 <= change.person <= people:
        raise ValueError
    for document in (change.before, change.after):
        for column, value in document.items():
            _check(BY_NAME[change.table], column, value, sizes, people)


def _check(table: Table, column: str, value: Any, sizes: Mapping[str, int], people: int) -> None:
    field = {f.attname: f for f in columns(table) if can_go_out(table, f)}[column]
    to = target(field)
    if value is not None and (is_person(field) or to is not None):
        most = people if to is None else sizes[to.name]
        if type(value) is not int or not 1 <= value <= most:
            raise ValueError


def read_versions(
    name: str, content: bytes, sizes: Mapping[str, int], people: int
) -> list[EarlierValue]:
    """The changes between the whole versions that a package of format 3 or before has of a table's rows.

    Raises :class:`InputError` for a table that cannot be read.
    """
    table = BY_NAME[name]
    try:
        versions = list(csv.DictReader(io.StringIO(content.decode(), newline="")))
        versions.sort(key=lambda v: (int(v["of"]), datetime.fromisoformat(v["history_date"])))
        pairs = [(old, new) for old, new in pairwise(versions) if old["of"] == new["of"]]
        found = [change for old, new in pairs for change in _between(table, old, new)]
        for change in found:
            _check_change(change, sizes, people)
    except (InputError, ValueError, KeyError, TypeError, csv.Error):
        raise InputError(
            f"The table {name}_history of the package cannot be read.", "file"
        ) from None
    return found


def _between(table: Table, old: dict[str, str], new: dict[str, str]) -> Iterator[EarlierValue]:
    fields = [f for f in columns(table) if can_go_out(table, f)]
    differing = [f for f in fields if f.name in new and old[f.name] != new[f.name]]
    if differing:
        before, after = (
            {f.attname: _plain(f, version[f.name]) for f in differing} for version in (old, new)
        )
        at, user = datetime.fromisoformat(new["history_date"]), new["history_user"]
        yield EarlierValue(
            at, int(user) if user else None, table.name, int(new["of"]), before, after
        )


def _plain(field: models.Field, text: str) -> Any:
    return json.loads(json.dumps(read_cell(field, text), cls=DjangoJSONEncoder))


# -- stored -------------------------------------------------------------------------------------


def store_changes(
    changes: list[EarlierValue],
    workshop: Workshop,
    keys: Mapping[str, Mapping[int, int]],
    people: Mapping[int, int],
    files: Mapping[str, str],
) -> None:
    """Write them into the record of a workshop, under the keys its rows have there."""
    first = min(Change.objects.aggregate(first=Min("act"))["first"] or 0, 0) - len(changes)
    rows = []
    for i, change in enumerate(changes):
        table = BY_NAME[change.table]
        before, after = (
            {k: _inward(table, k, v, keys, people, files) for k, v in document.items()}
            for document in (change.before, change.after)
        )
        rows.append(
            Change(
                at=change.at,
                act=first + i,
                who_id=people.get(change.person or 0),
                workshop=workshop,
                kind=table.model._meta.db_table,
                row=keys[change.table][change.row],
                what="~",
                before=before,
                after=after,
            )
        )
    Change.objects.bulk_create(rows, batch_size=_BATCH)


def _inward(
    table: Table,
    column: str,
    value: Any,
    keys: Mapping[str, Mapping[int, int]],
    people: Mapping[int, int],
    files: Mapping[str, str],
) -> Any:
    field = next(f for f in columns(table) if f.attname == column)
    if value is None:
        return None
    if is_person(field):
        return people[value]
    to = target(field)
    return inward(value, keys, files) if to is None else keys[to.name][value]
