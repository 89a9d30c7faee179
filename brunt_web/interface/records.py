"""A column that holds one typed record: read as the record, stored as its JSON, refused where it is neither."""

from collections.abc import Iterable, Mapping
from typing import Any, Protocol, Self

from django.db import models
from django.db.models.expressions import Expression


class StoredRecord(Protocol):
    """A frozen record that can be stored."""

    @classmethod
    def read(cls, stored: Mapping[str, Any]) -> Self:
        """The record as it is stored; raises :class:`TypeError` for a key that is none."""

    @property
    def stored(self) -> dict[str, Any]:
        """The record to be stored."""


class RecordField(models.JSONField):
    """JSON in the database, the record in Python. Queries reach into it as into any JSON column."""

    record: type[StoredRecord]

    def deconstruct(self) -> Any:
        """For a migration it is plain JSON: what the record looks like changes without the column."""
        name, _, args, kwargs = super().deconstruct()
        return name, "django.db.models.JSONField", args, {**kwargs, "default": dict}

    def from_db_value(self, value: Any, expression: Expression, connection: Any) -> Any:
        """The record; a part of it, where a query asked for that, as it is."""
        found = super().from_db_value(value, expression, connection)
        return self.to_python(found) if self._whole(expression) else found

    @staticmethod
    def _whole(expression: Expression) -> bool:
        return not isinstance(expression, models.fields.json.KeyTransform)

    def to_python(self, value: Any) -> Any:
        """The record, of itself or of its JSON."""
        return self.read(value) if isinstance(value, Mapping) else value

    def read(self, stored: Any) -> Any:
        """The record of its JSON. Raises :class:`TypeError` for JSON that is none of it."""
        if not isinstance(stored, Mapping):
            raise TypeError("is no record")
        return self.record.read(stored)

    def pre_save(self, model_instance: models.Model, add: bool) -> Any:
        """What stands in the row is made a record first: a key that is none is never stored."""
        found = self.to_python(super().pre_save(model_instance, add))
        setattr(model_instance, self.attname, found)
        return found

    def get_db_prep_value(self, value: Any, connection: Any, prepared: bool = False) -> Any:
        """Its JSON."""
        return super().get_db_prep_value(self.plain(value), connection, prepared)

    @staticmethod
    def plain(value: Any) -> Any:
        """The JSON of a record, or of a tuple of records; anything else as it is."""
        if isinstance(value, tuple):
            return [RecordField.plain(v) for v in value]
        stored = getattr(value, "stored", None)
        return value if stored is None else stored


class RecordsField(RecordField):
    """A JSON array in the database, a tuple of records in Python."""

    def deconstruct(self) -> Any:
        """For a migration it is plain JSON."""
        name, path, args, kwargs = super().deconstruct()
        return name, path, args, {**kwargs, "default": list}

    def from_db_value(self, value: Any, expression: Expression, connection: Any) -> Any:
        """The records; a part of them, where a query asked for that, as it is."""
        found = models.JSONField.from_db_value(self, value, expression, connection)
        return self.to_python(found) if self._whole(expression) else found

    def to_python(self, value: Any) -> Any:
        """The records, of themselves or of their JSON."""
        return self.read(value) if isinstance(value, list | tuple) else value

    def read(self, stored: Any) -> Any:
        """The records of their JSON. Raises :class:`TypeError` for JSON that is none of them."""
        if not isinstance(stored, list | tuple):
            raise TypeError("is no array of records")
        return tuple(
            v if hasattr(v, "stored") else super(RecordsField, self).read(v) for v in stored
        )


class OnlyKeys(models.Func):
    """Whether a column's JSON is an object with no key but these: what a constraint holds a record to."""

    conditional = True
    output_field = models.BooleanField()
    template = (
        "(jsonb_typeof(%(expressions)s) = 'object' AND %(expressions)s - %(keys)s = '{}'::jsonb)"
    )

    def __init__(self, *expressions: Any, keys: Iterable[str]) -> None:
        named = ", ".join(f"'{key}'" for key in keys)
        super().__init__(*expressions, keys=f"ARRAY[{named}]")


class ItemsWithOnlyKeys(models.Func):
    """Whether a column's JSON is an array of objects with no key but these."""

    conditional = True
    output_field = models.BooleanField()
    template = (
        "(jsonb_typeof(%(expressions)s) = 'array'"
        " AND NOT jsonb_path_exists(%(expressions)s, '$[*] ? (@.type() != \"object\")', '{}', true)"
        " AND NOT jsonb_path_exists(%(expressions)s, '$[*].keyvalue().key ? (%(keys)s)', '{}', true))"
    )

    def __init__(self, *expressions: Any, keys: Iterable[str]) -> None:
        super().__init__(*expressions, keys=" && ".join(f'@ != "{key}"' for key in keys))
