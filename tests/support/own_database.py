"""A database apart from the other tests', for those of migrations."""

from contextlib import contextmanager
from datetime import UTC, datetime

from django.db import connection
from django.db.migrations.executor import MigrationExecutor

START = datetime(2026, 9, 1, 8, 0, tzinfo=UTC)


@contextmanager
def database_of_its_own(name: str):
    """The connection on an empty database of its own; dropped afterwards, the connection put back."""
    stood = connection.settings_dict["NAME"]
    with connection.cursor() as cursor:
        cursor.execute(f'CREATE DATABASE "{name}" TEMPLATE template0')
    _point_at(name)
    try:
        yield
    finally:
        _point_at(stood)
        with connection.cursor() as cursor:
            cursor.execute(f'DROP DATABASE "{name}"')


def _point_at(name: str) -> None:
    connection.close()
    connection.settings_dict["NAME"] = name


def migrate(targets) -> object:
    """Migrate to these; returns the models as they are there."""
    executor = MigrationExecutor(connection)
    targets = targets or executor.loader.graph.leaf_nodes()
    executor.migrate(targets)
    return executor.loader.project_state(targets).apps
