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
        return self.record.read(found) if type(found) is dict and self._whole(expression) else found

    @staticmethod
    def _whole(expression: Expression) -> bool:
        return not isinstance(expression, models.fields.json.KeyTransform)

    def to_python(self, value: Any) -> Any:
        """The record, of itself or of its JSON."""
        return self.record.read(value) if isinstance(value, Mapping) else value

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
        """The JSON of a record; anything else as it is."""
        stored = getattr(value, "stored", None)
        return value if stored is None else stored


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
