"""A campaign, or a whole workshop, as one zip of plain tables: the tabular data package of Frictionless."""

import csv
import io
import json
import zipfile
from collections.abc import Iterable
from hashlib import sha256
from pathlib import PurePosixPath
from typing import Any

from django.contrib.auth import get_user_model
from django.db import models

from brunt_core.properties import PROPERTIES
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.exchange.export import export_csv
from brunt_web.interface.pictures import kept_file
from brunt_web.interface.snapshot import one_snapshot
from brunt_web.packages.cells import kind_of, written
from brunt_web.packages.references import outward
from brunt_web.packages.tables import (
    ALONG,
    FILES,
    FOLDERS,
    FORMAT,
    TABLES,
    Table,
    base_of,
    columns,
    heading,
    is_person,
    target,
)
from brunt_web.people.models import Workshop
from brunt_web.people.nameless import Nameless
from brunt_web.treatments.models import Inside, Run

LICENCE = {
    "name": "CC-BY-4.0",
    "path": "https://creativecommons.org/licenses/by/4.0/",
    "title": "Creative Commons Attribution 4.0",
}
_WHEN = (1980, 1, 1, 0, 0, 0)
Rows = list[dict[str, Any]]


def package_of(
    workshop: Workshop,
    campaigns: Iterable[Campaign],
    title: str,
    money: bool = True,
    whole: bool = False,
) -> bytes:
    """The package of these campaigns of a workshop with all that they rest on; people are numbered.

    With ``whole`` also what no campaign refers to: unused library, check bars, feedstock, hours.
    Without ``money`` no price is in it, nor any note on a material or lot, which may name a supplier.
    """
    return _Package(workshop, list(campaigns), title, money=money, whole=whole).zipped()


class _Package:
    """One package being made."""

    def __init__(
        self,
        workshop: Workshop,
        campaigns: list[Campaign],
        title: str,
        money: bool = True,
        whole: bool = False,
    ) -> None:
        self.money, self.whole = money, whole
        self.workshop = Workshop.objects.get(pk=workshop.pk)
        self.campaigns, self.title = campaigns, title
        self.rows: dict[str, Rows] = {}
        self.numbers: dict[str, dict[int, int]] = {}
        self.people: dict[int, int] = {}
        self.files: dict[str, bytes] = {}
        self.names: dict[str, str] = {}
        with one_snapshot():
            self._gather()
            self._number()
            self.tables = {t.name: self._table(t) for t in TABLES}
            self.levels = self._levels()
            self.flat = [self._flat(campaign) for campaign in campaigns]

    def _gather(self) -> None:
        """The rows of every table: those of the campaigns first, then what they refer to."""
        keys = [c.pk for c in self.campaigns]
        runs = Run.objects.filter(
            pk__in=Inside.objects.filter(specimen__campaign__in=keys).values("run")
        )
        for table in TABLES:
            if not table.path or table.history:
                continue
            if table.whole:
                self.rows[table.name] = (
                    _read(table, {table.path: self.workshop.pk}) if self.whole else []
                )
                continue
            if table.path in ("run", "run__run"):
                where: dict[str, Any] = {"pk__in" if table.path == "run" else "run__in": runs}
            else:
                where = {f"{table.path}__in": keys}
            self.rows[table.name] = _read(table, where)
        self._library()
        # Twice: a procedure's further rigs come along, and what comes along with those.
        for table in 2 * [t for t in TABLES if t.name in ALONG]:
            owner = ALONG[table.name]
            of = next(target(f) for f in columns(table) if f.name == owner)
            theirs = [r["pk"] for r in self.rows[of.name]] if of else []
            self.rows[table.name] = _read(table, {f"{owner}__in": theirs})
            self._library()
        for table in TABLES:
            if table.history:
                own = [r["pk"] for r in self.rows[base_of(table).name]]
                self.rows[table.name] = _read(table, {"id__in": own})

    def _library(self) -> None:
        """What is referred to, from those that refer to others down to those that refer to nothing."""
        for table in reversed([t for t in TABLES if not t.path and t.name not in ALONG]):
            self._referred(table)

    def _referred(self, table: Table) -> None:
        """The library's rows that rows already gathered refer to, those that they rest on too."""
        wanted: set[int] = set()
        if self.whole:
            wanted = set(table.model._default_manager.filter(workshop=self.workshop.pk).values_list("pk", flat=True))  # fmt: skip
        for other in TABLES:
            for f in columns(other):
                if target(f) is table:
                    wanted |= {r[f.attname] for r in self.rows.get(other.name, []) if r[f.attname]}
        have: set[int] = set()
        rows: Rows = []
        while wanted - have:
            more = _read(table, {"pk__in": wanted - have})
            have |= wanted
            rows += more
            own = [f for f in columns(table) if target(f) is table]
            wanted |= {r[f.attname] for r in more for f in own if r[f.attname]}
        self.rows[table.name] = sorted(rows, key=lambda r: r["pk"])

    def _number(self) -> None:
        """Every row gets its number within its table, every person one by the order they came."""
        users: set[int] = set()
        for table in TABLES:
            rows = self.rows[table.name]
            if not table.history:
                self.numbers[table.name] = {r["pk"]: i for i, r in enumerate(rows, 1)}
            for f in columns(table):
                if is_person(f):
                    users |= {r[f.attname] for r in rows if r[f.attname]}
        self.people = {pk: i for i, pk in enumerate(sorted(users), 1)}
        for user in get_user_model().objects.filter(pk__in=users):
            self.names[user.get_username()] = f"person {self.people[user.pk]}"
        self.hidden = Nameless(self.names)
        for table in TABLES:
            for f in columns(table):
                if (table.model, f.name) in FILES:
                    for i, row in enumerate(self.rows[table.name], 1):
                        self._file(row[f.attname], table.name, i)

    def zipped(self) -> bytes:
        """The file itself; the same data make the same bytes."""
        parts: dict[str, bytes] = {}
        resources = []
        for table in TABLES:
            text = self.tables[table.name]
            parts[f"data/{table.name}.csv"] = text.encode()
            resources.append(_resource(table))
        parts["data/condition_levels.csv"] = self.levels.encode()
        resources.append(_LEVELS)
        parts["data/people.csv"] = _csv(["id", "name"], [[str(n), f"person {n}"] for n in self.people.values()]).encode()  # fmt: skip
        parts["data/properties.csv"] = _properties().encode()
        resources += [_PEOPLE, _PROPERTIES]
        for i, text in enumerate(self.flat, 1):
            parts[f"flat/campaign_{i}.csv"] = text.encode()
        parts |= self.files
        manifest = {
            "profile": "tabular-data-package",
            "name": "brunt-package",
            "title": self.title,
            "description": "Tests of printed materials: every reading as typed and in SI, bounds, lives, recipes, "
            "procedures, treatments, exclusions and earlier versions. flat/ holds one plain table a campaign; "
            "curves/ and photos/ what the columns data, content, file and photo name. "
            "Advice on tested specimens only; not for lifting, life-safety or pressure parts.",
            "licenses": [LICENCE],
            "brunt": {
                "format": FORMAT,
                "sha256": {name: sha256(content).hexdigest() for name, content in sorted(parts.items())},
                "currency": self.workshop.currency,
                "next_specimen": self.workshop.next_specimen,
                "first_id": self.workshop.first_id,
                "workshop": str(self.workshop.uuid),
                "invented": self.workshop.invented,
            },
            "resources": resources,
        }  # fmt: skip
        parts["datapackage.json"] = json.dumps(manifest, ensure_ascii=False, indent=1).encode()
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
            for name in sorted(parts):
                file.writestr(zipfile.ZipInfo(name, _WHEN), parts[name], zipfile.ZIP_DEFLATED)
        return out.getvalue()

    def _flat(self, campaign: Campaign) -> str:
        """One plain table of a campaign, its people by number."""
        text = export_csv(campaign, self.hidden)
        return _csv(*_parted(csv.reader(io.StringIO(text, newline=""))))

    def _table(self, table: Table) -> str:
        fields = list(columns(table))
        rows = []
        for i, row in enumerate(self.rows[table.name], 1):
            cells = [self._cell(table, f, row, i) for f in fields]
            rows.append([str(i), *cells])
        return _csv(["id", *(heading(table, f) for f in fields)], rows)

    def _cell(self, table: Table, field: models.Field, row: dict[str, Any], number: int) -> str:
        value = row[field.attname]
        if not self.money:
            value = _unpriced(table, field, value)
        if table.history and field.name == "id":
            return str(self.numbers[base_of(table).name][value])
        if value is None:
            return ""
        if is_person(field):
            return str(self.people[value])
        to = target(field)
        if to is not None:
            found = self.numbers[to.name].get(value)
            return "" if found is None else str(found)
        if (table.model, field.name) in FILES:
            return self._file(value, table.name, number)
        if isinstance(value, bytes | memoryview):
            also = "" if field.name in ("data", "content") else f"_{field.name}"
            name = f"curves/{table.name}_{number}{also}.bin"
            self.files[name] = bytes(value)
            return name
        if field.get_internal_type() == "JSONField":
            value = outward(value, self.numbers, self.names)
        if isinstance(value, str) and field.name in ("what", "note", "reason"):
            value = self.hidden.text(value)
        return written(field, value)

    def _file(self, name: str, table: str, number: int) -> str:
        if not name:
            return ""
        wanted, folder = f"photos/{table}_{number}", FOLDERS.get(table, "photos")
        within, _, own = name.rpartition("/")
        file = kept_file(within or folder, own)
        if file is None:
            return ""
        target_name = f"{wanted}{PurePosixPath(own).suffix.lower()}"
        with file:
            self.files[target_name] = file.read()
        self.names[name] = target_name
        return target_name

    def _levels(self) -> str:
        through = Condition.levels.through.objects.filter(
            condition__campaign__in=[c.pk for c in self.campaigns]
        ).values_list("condition_id", "level_id")
        own = sorted((self.numbers["conditions"][c], self.numbers["levels"][x]) for c, x in through)
        return _csv(["condition", "level"], [[str(a), str(b)] for a, b in own])


def _unpriced(table: Table, field: models.Field, value: Any) -> Any:
    """The value where no price may be told: none of a price, none of a note on what was bought."""
    if field.name == "price":
        return None
    base = table.name.removesuffix("_history")
    if field.name == "note" and base in ("materials", "lots"):
        return ""
    if isinstance(value, dict) and base == "duties":
        return {k: v for k, v in value.items() if k != "price"}
    return value


def _read(table: Table, where: dict[str, Any]) -> Rows:
    names = [f.attname for f in columns(table)]
    key = "history_id" if table.history else "pk"
    rows = table.model._default_manager.filter(**where).order_by(key).distinct()
    found = [dict(zip(["pk", *names], r, strict=True)) for r in rows.values_list(key, *names)]
    return found


def _parted(rows: Iterable[list[str]]) -> tuple[list[str], list[list[str]]]:
    head, *rest = rows
    return head, rest


def _csv(head: list[str], rows: Iterable[list[str]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(head)
    writer.writerows(rows)
    return out.getvalue()


def _resource(table: Table) -> dict[str, Any]:
    """A table's entry with its schema."""
    fields: list[dict[str, Any]] = [{"name": "id", "type": "integer", "constraints": {"required": True, "unique": True}}]  # fmt: skip
    keys = []
    for f in columns(table):
        described: dict[str, Any] = {
            "name": heading(table, f),
            "type": kind_of(f) if f.name != "id" else "integer",
        }
        if described["type"] == "datetime":
            described["format"] = "any"
        if f.help_text:
            described["description"] = str(f.help_text)
        fields.append(described)
        to = target(f) or (base_of(table) if table.history and f.name == "id" else None)
        if is_person(f):
            keys.append(
                {
                    "fields": [heading(table, f)],
                    "reference": {"resource": "people", "fields": ["id"]},
                }
            )
        elif to is not None:
            own = "" if to is table else to.name
            keys.append(
                {"fields": [heading(table, f)], "reference": {"resource": own, "fields": ["id"]}}
            )
    return _entry(table.name, table.words, fields, keys)


def _entry(
    name: str, words: str, fields: list[dict[str, Any]], keys: list[dict[str, Any]], key: Any = "id"
) -> dict[str, Any]:
    return {
        "name": name, "path": f"data/{name}.csv", "profile": "tabular-data-resource", "title": words,
        "encoding": "utf-8", "format": "csv", "mediatype": "text/csv",
        "schema": {"fields": fields, "primaryKey": key, "foreignKeys": keys, "missingValues": [""]},
    }  # fmt: skip


_LEVELS = _entry(
    "condition_levels",
    "which levels a condition has",
    [{"name": "condition", "type": "integer"}, {"name": "level", "type": "integer"}],
    [
        {"fields": ["condition"], "reference": {"resource": "conditions", "fields": ["id"]}},
        {"fields": ["level"], "reference": {"resource": "levels", "fields": ["id"]}},
    ],
    ["condition", "level"],
)
_PEOPLE = _entry(
    "people", "who did it, by number", [{"name": "id", "type": "integer"}, {"name": "name", "type": "string"}], []
)  # fmt: skip
_PROPERTIES = _entry(
    "properties",
    "what is measured: unit shown, and which way is better; results are in SI",
    [
        {"name": n, "type": "string"}
        for n in ("key", "name", "symbol", "dimension", "unit", "better")
    ],
    [],
    "key",
)


def _properties() -> str:
    rows = [[p.key, p.name, p.symbol, p.dimension, p.unit, p.better] for p in PROPERTIES.values()]
    return _csv(["key", "name", "symbol", "dimension", "unit", "better"], rows)
