"""Reading many tables as they stood at one moment, however much is entered meanwhile."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection, transaction


@contextmanager
def one_snapshot() -> Iterator[None]:
    """Every query inside sees the database as it was at the first of them.

    Inside a transaction that is already open its own isolation holds. Source: PostgreSQL manual,
    13.2.2 "Repeatable Read Isolation Level".
    """
    if connection.in_atomic_block:
        yield
        return
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY")
        yield
