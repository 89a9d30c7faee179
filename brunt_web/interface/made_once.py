"""Queries whose SQL is made once. For what the bench asks at each key and each store, making it took longer than its answer."""

from collections.abc import Callable, Sequence
from copy import copy
from datetime import UTC, datetime
from functools import wraps
from typing import Any, TypeVar

from django.db import connections
from django.db.models import Model, QuerySet
from django.db.models.sql.compiler import SQLCompiler
from django.db.transaction import TransactionManagementError

M = TypeVar("M", bound=Model)
Value = int | str | datetime


def made_once(build: Callable[..., QuerySet[M, Any]]) -> Callable[..., list[Any]]:
    """A function that gives a queryset becomes one that gives its rows; its SQL is made at the first call.

    Its arguments are whole numbers, texts and times, by place, and go into conditions as they are: what it asks may
    not depend on them in another way (an empty list, a slice, a join). A first call that leaves one out of
    the SQL is refused.
    """
    known: dict[tuple[type, ...], _Made] = {}

    @wraps(build)
    def rows(*values: Value) -> list[Any]:
        kinds = tuple(_kind(v) for v in values)
        made = known.get(kinds)
        if made is None:
            made = known[kinds] = _Made(build, kinds)
        return list(made.asked(values))

    return rows


class _Made:
    def __init__(self, build: Callable[..., QuerySet[Any, Any]], kinds: Sequence[type]) -> None:
        # Made with two sets of marks: where they differ in its parameters the arguments go.
        self.queryset, self.compiler, self.sql, first = _compiled(build, kinds, _MARKS[0])
        *_, sql, second = _compiled(build, kinds, _MARKS[1])
        if sql != self.sql:
            raise TypeError(f"{build.__name__}: its SQL depends on its arguments")
        places = {tuple(_mark(kind, i, mark) for mark in _MARKS): i for i, kind in enumerate(kinds)}
        pairs = list(zip(first, second, strict=True))
        if odd := [one for one, other in pairs if one != other and (one, other) not in places]:
            raise TypeError(f"{build.__name__}: arguments go in changed, as {odd}")
        self.params = [(places[p] if p[0] != p[1] else None, p[0]) for p in pairs]
        if missing := set(places.values()) - {place for place, _ in self.params}:
            raise TypeError(f"{build.__name__}: arguments {sorted(missing)} are not in its SQL")

    def asked(self, values: Sequence[Value]) -> QuerySet[Any, Any]:
        """The queryset with these values in it, on this thread's connection."""
        params = tuple(p if i is None else values[i] for i, p in self.params)
        compiler = copy(self.compiler)
        compiler.connection = connection = connections[self.queryset.db]
        if self.queryset.query.select_for_update and connection.get_autocommit():
            raise TransactionManagementError("rows can be locked inside a transaction only")
        compiler.as_sql = lambda *args, **kwargs: (self.sql, params)  # type: ignore[method-assign, assignment]
        query = copy(self.queryset.query)
        query.get_compiler = lambda *args, **kwargs: compiler  # type: ignore[method-assign, assignment]
        # Not by copy(), which would fetch its rows first.
        queryset = object.__new__(type(self.queryset))
        vars(queryset).update(vars(self.queryset) | {"_query": query, "_result_cache": None})
        return queryset


# As small as the smallest column of whole numbers takes.
_MARKS = (31_000, 32_000)


def _compiled(
    build: Callable[..., QuerySet[Any, Any]], kinds: Sequence[type], mark: int
) -> tuple[QuerySet[Any, Any], SQLCompiler, str, tuple[Any, ...]]:
    queryset = build(*(_mark(kind, i, mark) for i, kind in enumerate(kinds)))
    compiler: SQLCompiler = queryset.query.get_compiler(queryset.db)
    sql, params = compiler.as_sql()
    return queryset, compiler, sql, tuple(params)


def _kind(value: Value) -> type:
    for kind in (int, str, datetime):
        if isinstance(value, kind):
            return kind
    raise TypeError(f"a query made once takes numbers, texts and times, not {type(value).__name__}")


def _mark(kind: type, place: int, mark: int) -> Value:
    if kind is int:
        return mark + place
    if kind is str:
        return f"{mark + place}"
    return datetime(1, 1, 1, microsecond=mark + place, tzinfo=UTC)
