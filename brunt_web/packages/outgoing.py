"""A campaign, or a whole workshop, as one zip of plain tables: the tabular data package of Frictionless.

Tables are gathered in one snapshot of the database; files are written one after another, so that a package takes
memory for its rows, not for its photos.
"""

import csv
import io
import json
import zipfile
from collections.abc import Iterable
from datetime import UTC
from hashlib import sha256
from pathlib import PurePosixPath
from typing import IO, Any

from django.core.files.storage import default_storage
from django.db import models
from django.db.models import Sum
from django.db.models.functions import Length

from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.checks.queries import watched
from brunt_web.exchange.export import export_csv
from brunt_web.interface.pictures import kept_file
from brunt_web.interface.snapshot import one_snapshot
from brunt_web.jobs.progress import stepped
from brunt_web.packages.cells import write_cell
from brunt_web.packages.earlier import HEAD, can_go_out
from brunt_web.packages.gathering import Gathered, Scope
from brunt_web.packages.references import outward
from brunt_web.packages.schema import (
    CHANGES,
    LEVELS,
    PEOPLE,
    PROPERTIES_TABLE,
    as_csv,
    property_table,
    resource,
)
from brunt_web.packages.tables import (
    FILES,
    FOLDERS,
    FORMAT,
    TABLES,
    Table,
    columns,
    is_person,
    target,
)
from brunt_web.packages.told import is_told, may_tell
from brunt_web.people.models import Workshop
from brunt_web.testing.models import Curve, Photo

LICENCE = {
    "name": "CC-BY-4.0",
    "path": "https://creativecommons.org/licenses/by/4.0/",
    "title": "Creative Commons Attribution 4.0",
}
_WHEN = (1980, 1, 1, 0, 0, 0)
_BLOCK = 1 << 20
# What is packed already gains nothing by being packed again.
_PACKED = (".jpg", ".jpeg", ".png", ".webp")
_NOT_PUBLISHED = b"This file was not published.\n"
Rows = list[dict[str, Any]]


def write_package(
    out: IO[bytes], workshop: Workshop, campaigns: Iterable[Campaign], title: str, scope: Scope
) -> None:
    """Write the package of these campaigns of a workshop with all that they rest on; people are numbered."""
    with one_snapshot():
        _Package(workshop, list(campaigns), title, scope).write(out)


def package_of(
    workshop: Workshop, campaigns: Iterable[Campaign], title: str, scope: Scope = Scope()
) -> bytes:
    """The package as bytes; see :func:`write_package`."""
    out = io.BytesIO()
    write_package(out, workshop, campaigns, title, scope)
    return out.getvalue()


def weight(campaign: Campaign) -> int:
    """Bytes of a campaign's photos and curves: what makes a package large."""
    names = Photo.objects.filter(specimen__campaign=campaign).values_list("file", flat=True)
    photos = sum(
        default_storage.size(p) for n in names if default_storage.exists(p := f"photos/{n}")
    )
    curves = Curve.objects.filter(turn__campaign=campaign)
    told = curves.aggregate(n=Sum(Length("data")))["n"]
    return photos + (told or 0)


class _Package(Gathered):
    """One package being made."""

    def __init__(
        self, workshop: Workshop, campaigns: list[Campaign], title: str, scope: Scope
    ) -> None:
        super().__init__(workshop, campaigns, scope)
        self.title = title
        # Where the content of a file is: an upload's folder and name, or a row's column.
        self.uploads: dict[str, tuple[str, str]] = {}
        self.stored: dict[str, tuple[Table, int, models.Field]] = {}
        for table in TABLES:
            for f in columns(table):
                if (table.model, f.name) in FILES:
                    for i, row in enumerate(self.rows[table.name], 1):
                        self._file(table, f, row[f.attname], i)

    def write(self, out: IO[bytes]) -> None:
        """The file itself, in the order of its names, the manifest last; the same data make the same bytes."""
        texts = {f"data/{t.name}.csv": self._table(t) for t in TABLES}
        texts["data/condition_levels.csv"] = self._levels()
        texts["data/changes.csv"] = self._changes()
        texts["data/people.csv"] = as_csv(["id", "name"], [[str(n), f"person {n}"] for n in self.people.values()])  # fmt: skip
        texts["data/properties.csv"] = property_table()
        texts |= {f"flat/campaign_{i}.csv": self._flat(c) for i, c in enumerate(self.campaigns, 1)}
        if self.checks:
            texts["flat/check_points.csv"] = self._check_points()
        sums: dict[str, str] = {}
        names = sorted([*texts, *self.uploads, *self.stored])
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
            for name in stepped(names, len(names), "files"):
                sums[name] = self._write_part(file, name, texts.get(name))
            info = zipfile.ZipInfo("datapackage.json", _WHEN)
            file.writestr(info, self._manifest(sums), zipfile.ZIP_DEFLATED)

    def _write_part(self, file: zipfile.ZipFile, name: str, text: str | None) -> str:
        """One part, block by block; its SHA-256."""
        info = zipfile.ZipInfo(name, _WHEN)
        packed = name.endswith(_PACKED)
        info.compress_type = zipfile.ZIP_STORED if packed else zipfile.ZIP_DEFLATED
        source = self._opened(name) if text is None else io.BytesIO(text.encode())
        known = sha256()
        with source, file.open(info, "w") as part:
            while block := source.read(_BLOCK):
                known.update(block)
                part.write(block)
        return known.hexdigest()

    def _opened(self, name: str) -> IO[bytes]:
        if name in self.uploads:
            return kept_file(*self.uploads[name]) or io.BytesIO()
        table, pk, field = self.stored[name]
        content = bytes(
            table.model._default_manager.values_list(field.attname, flat=True).get(pk=pk)
        )
        if self.scope.by_link and field.name == "source":
            content = _NOT_PUBLISHED
        return io.BytesIO(content)

    def _manifest(self, sums: dict[str, str]) -> bytes:
        manifest = {
            "profile": "tabular-data-package",
            "name": "brunt-package",
            "title": self.hidden.text(self.title) if self.scope.by_link else self.title,
            "description": "Tests of printed materials: every reading as typed and in SI, bounds, histories, recipes, "
            "procedures, treatments, exclusions and earlier versions. flat/ holds one plain table a campaign, and the "
            "days of check standards; curves/ and photos/ what the columns data, content, file and photo name. "
            "Advice on tested specimens only; not for lifting, life-safety or pressure parts.",
            "licenses": [LICENCE],
            "brunt": {
                "format": FORMAT,
                "sha256": sums,
                "not_included": sorted(set(self.not_included)),
                "currency": self.workshop.currency,
                "next_specimen": self.workshop.next_specimen,
                "first_id": self.workshop.first_id,
                "workshop": str(self.workshop.uuid),
                "invented": self.workshop.invented,
            },
            "resources": [*(resource(t) for t in TABLES), LEVELS, CHANGES, PEOPLE, PROPERTIES_TABLE],
        }  # fmt: skip
        return json.dumps(manifest, ensure_ascii=False, indent=1).encode()

    def _flat(self, campaign: Campaign) -> str:
        """One plain table of a campaign, its people by number."""
        text = export_csv(campaign, self.hidden)
        return as_csv(*_parted(csv.reader(io.StringIO(text, newline=""))))

    def _check_points(self) -> str:
        """Every bar of the check standards' charts, of whatever campaign: what their warnings rest on."""
        head = ["check_standard", "day", "specimen", "value", "unit", "campaign", "lot", "rig"]
        rows = []
        for check in self.checks:
            unit = check.procedure.ranked_property.unit
            for point in watched(check).points:
                for bar in point.bars:
                    named = [self.hidden.text(t) for t in (bar.campaign, bar.lot, bar.rig)]
                    rows.append(
                        [str(check), point.day.isoformat(), bar.code, repr(bar.value), unit, *named]
                    )
        return as_csv(head, rows)

    def _table(self, table: Table) -> str:
        fields = list(columns(table))
        rows = []
        for i, row in enumerate(self.rows[table.name], 1):
            cells = [self._cell(table, f, row, i) for f in fields]
            rows.append([str(i), *cells])
        return as_csv(["id", *(f.name for f in fields)], rows)

    def _cell(self, table: Table, field: models.Field, row: dict[str, Any], number: int) -> str:
        if isinstance(field, models.BinaryField):
            also = "" if field.name in ("data", "content") else f"_{field.name}"
            name = f"curves/{table.name}_{number}{also}.bin"
            self.stored[name] = (table, row["pk"], field)
            return name
        value = row[field.attname]
        if not self.scope.money:
            value = _unpriced(table, field, value)
        if value is None:
            return ""
        if is_person(field):
            return str(self.people[value])
        to = target(field)
        if to is not None:
            found = self.numbers[to.name].get(value)
            return "" if found is None else str(found)
        if (table.model, field.name) in FILES:
            return self._file(table, field, value, number)
        return write_cell(field, self._worded(table, field, value))

    def _changes(self) -> str:
        """What was changed of the rows in the package, in its numbers."""
        tables = {t.model._meta.db_table: t for t in TABLES}
        rows: list[list[str]] = []
        for change in self.changes:
            table = tables[change.kind]
            told = [self._document(table, d) for d in (change.before, change.after)]
            if any(told):
                at = change.at.astimezone(UTC).isoformat().replace("+00:00", "Z")
                who = str(self.people[change.who_id]) if change.who_id else ""
                row = str(self.numbers[table.name][change.row])
                rows.append([str(len(rows) + 1), at, who, table.name, row, *map(_json, told)])
        return as_csv(HEAD, rows)

    def _document(self, table: Table, document: dict[str, Any]) -> dict[str, Any]:
        """The columns of a change that may go out."""
        found = {}
        for f in columns(table):
            if f.attname not in document or not can_go_out(table, f):
                continue
            if self.scope.by_link and not (is_told(table) and may_tell(table, f)):
                continue
            value = document[f.attname]
            to = target(f)
            if is_person(f):
                value = self.people.get(value)
            elif to is not None:
                value = self.numbers[to.name].get(value)
            else:
                value = self._worded(table, f, value)
                value = value if self.scope.money else _unpriced(table, f, value)
            found[f.attname] = value
        return found

    def _worded(self, table: Table, field: models.Field, value: Any) -> Any:
        """What was written, with names by number; nothing where it may not be told."""
        if self.scope.by_link and not may_tell(table, field):
            return type(value)() if isinstance(value, str | list | dict) else None
        if field.get_internal_type() == "JSONField":
            return self.hidden.document(outward(value, self.numbers, self.names))
        if isinstance(value, str) and not field.flatchoices:
            return self.hidden.text(value)
        return value

    def _file(self, table: Table, field: models.Field, name: str, number: int) -> str:
        """What an uploaded file is called in the package; nothing where it does not go out."""
        if not name or (self.scope.by_link and not may_tell(table, field)):
            return ""
        folder, _, own = name.rpartition("/")
        folder = folder or FOLDERS.get(table.name, "photos")
        called = f"photos/{table.name}_{number}{PurePosixPath(own).suffix.lower()}"
        if called not in self.uploads:
            file = kept_file(folder, own)
            if file is None:
                self.not_included.append(
                    f"{called}: the file is not in the workshop's storage any more."
                )
                return ""
            file.close()
        self.uploads[called] = (folder, own)
        self.names[name] = called
        return called

    def _levels(self) -> str:
        through = Condition.levels.through.objects.filter(
            condition__campaign__in=[c.pk for c in self.campaigns]
        ).values_list("condition_id", "level_id")
        own = sorted((self.numbers["conditions"][c], self.numbers["levels"][x]) for c, x in through)
        return as_csv(["condition", "level"], [[str(a), str(b)] for a, b in own])


def _unpriced(table: Table, field: models.Field, value: Any) -> Any:
    """The value where no price may be told: none of a price, none of a note on what was bought."""
    if field.name == "price":
        return None
    if field.name == "note" and table.name in ("materials", "lots"):
        return ""
    if isinstance(value, dict) and table.name == "load_cases":
        return {k: v for k, v in value.items() if k != "price"}
    return value


def _parted(rows: Iterable[list[str]]) -> tuple[list[str], list[list[str]]]:
    head, *rest = rows
    return head, rest


def _json(document: dict[str, Any]) -> str:
    return json.dumps(document, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
