"""A package that was read, stored as a workshop of its own: all of it, or nothing."""

from pathlib import Path
from typing import Any
from uuid import uuid4

from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import DatabaseError, connection, models, transaction

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.changes.actions.quiet import quiet
from brunt_web.interface.records import RecordField
from brunt_web.packages.earlier import store_changes
from brunt_web.packages.incoming import Package
from brunt_web.packages.references import inward
from brunt_web.packages.tables import (
    FILES,
    FOLDERS,
    LATER,
    TABLES,
    Table,
    columns,
    is_person,
    target,
)
from brunt_web.people.models import Workshop

_BATCH, _FEW = 2000, 20


def store(package: Package, name: str = "") -> Workshop:
    """A workshop of its own with everything in it; its people are nobody's sign-in.

    Raises :class:`InputError` when a workshop of that name is there, or the rows cannot stand together.
    """
    wanted = (name or package.title).strip()[:120]
    if Workshop.objects.filter(name=wanted).exists():
        raise InputError(f"There is a workshop called “{wanted}” already: give another name.", "as")
    written: list[str] = []
    try:
        with transaction.atomic():
            quiet()
            made = _Storing(package, wanted, written).run()
            with connection.cursor() as cursor:
                cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
        return made
    except DatabaseError as error:
        _take_off(written)
        said = str(error).split("\n")[0][:160]
        raise InputError(f"The rows of the package are inconsistent: {said}", "file") from None
    except BaseException:
        _take_off(written)
        raise


def _take_off(written: list[str]) -> None:
    for place in written:
        default_storage.delete(place)


class _Storing:
    """One package being stored."""

    def __init__(self, package: Package, name: str, written: list[str]) -> None:
        self.package, self.name, self.written = package, name, written
        self.keys: dict[str, dict[int, int]] = {}
        self.files: dict[str, str] = {}

    def run(self) -> Workshop:
        """Table after table in the order they rest on one another."""
        own = self.package.manifest["brunt"]
        self.workshop = Workshop.objects.create(
            name=self.name,
            currency=str(own.get("currency") or "€")[:8],
            invented=bool(own.get("invented")),
            next_specimen=_counter(own.get("next_specimen")),
            first_id=_counter(own.get("first_id")),
        )
        self.people = self._people()
        self._photos()
        for table in TABLES:
            self._table(table)
        for table in TABLES:
            self._later(table)
        self._levels()
        self._documents()
        store_changes(self.package.changes, self.workshop, self.keys, self.people, self.files)
        return self.workshop

    def _people(self) -> dict[int, int]:
        """People without a sign-in, one for each number."""
        users = get_user_model()
        found = {}
        for i, name in enumerate(self.package.people, 1):
            user = users(username=f"{uuid4().hex[:12]}-{i}", first_name=name[:150], is_active=False)
            user.set_unusable_password()
            user.save()
            found[i] = user.pk
        return found

    def _photos(self) -> None:
        """Pictures under new names, so that two packages never share one."""
        for name, content in self.package.files.items():
            if name.startswith("photos/"):
                table = Path(name).stem.rpartition("_")[0]
                own = f"{uuid4().hex}{Path(name).suffix}"
                place = f"{FOLDERS.get(table, 'photos')}/{own}"
                self.written.append(default_storage.save(place, ContentFile(content)))
                self.files[name] = own

    def _table(self, table: Table) -> None:
        fields = list(columns(table))
        shop = any(f.name == "workshop" for f in table.model._meta.concrete_fields)
        heavy = any(isinstance(f, models.BinaryField) for f in fields)
        rows, batch = self.package.rows[table.name], _FEW if heavy else _BATCH
        keys: list[int] = []
        for at in range(0, len(rows), batch):
            part = [self._row(table, fields, shop, row) for row in rows[at : at + batch]]
            keys += [m.pk for m in table.model._default_manager.bulk_create(part)]
        self.keys[table.name] = dict(enumerate(keys, 1))

    def _row(
        self, table: Table, fields: list[models.Field], shop: bool, row: dict[str, Any]
    ) -> models.Model:
        values = {f.attname: self._value(table, f, row[f.name]) for f in fields}
        if shop:
            values["workshop_id"] = self.workshop.pk
        if any(f.name == "entry_key" for f in table.model._meta.concrete_fields):
            values["entry_key"] = uuid4()
        return table.model(**values)

    def _value(self, table: Table, field: models.Field, value: Any) -> Any:
        if value is None and isinstance(field, models.UUIDField):
            return uuid4()  # a package from before specimens had one
        if value is None or (table.model, field.name) in LATER:
            return None
        if is_person(field):
            return self.people[value]
        if isinstance(field, models.BinaryField):
            return self.package.files[value]
        if (table.model, field.name) in FILES:
            own = self.files.get(value, "")
            return f"photos/{own}" if own and isinstance(field, models.FileField) else own
        to = target(field)
        return value if to is None else self.keys[to.name][value]

    def _later(self, table: Table) -> None:
        """Keys that lead to the same table or to one that comes after it."""
        for field in columns(table):
            if (table.model, field.name) not in LATER:
                continue
            to = target(field)
            assert to is not None
            for i, row in enumerate(self.package.rows[table.name], 1):
                if row[field.name] is not None:
                    rows = table.model._default_manager.filter(pk=self.keys[table.name][i])
                    rows.update(**{field.attname: self.keys[to.name][row[field.name]]})

    def _levels(self) -> None:
        through = Condition.levels.through
        through.objects.bulk_create(
            [
                through(condition_id=self.keys["conditions"][c], level_id=self.keys["levels"][x])
                for c, x in self.package.levels
            ],
            batch_size=_BATCH,
        )

    def _documents(self) -> None:
        """Keys inside stored documents, now that every row has its own."""
        for table in TABLES:
            fields = [f for f in columns(table) if f.get_internal_type() == "JSONField"]
            if not fields:
                continue
            changed = []
            own = self.keys[table.name].values()
            for row in table.model._default_manager.filter(pk__in=list(own)):
                for f in fields:
                    before = RecordField.plain(getattr(row, f.attname))
                    setattr(row, f.attname, inward(before, self.keys, self.files))
                changed.append(row)
            table.model._default_manager.bulk_update(changed, [f.attname for f in fields], batch_size=_BATCH)  # fmt: skip


def _counter(value: Any) -> int:
    return value if isinstance(value, int) and 0 <= value < 2**31 else 0


def campaigns_in(workshop: Workshop) -> list[Campaign]:
    """The campaigns of a workshop, in the order of their making."""
    return list(Campaign.objects.filter(workshop=workshop).order_by("pk"))
