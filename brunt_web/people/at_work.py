"""Tells the database who is at work, so that what its triggers write down has a name."""

from django.conf import settings
from django.db import connection


def name_worker(who: str, workshop: str) -> None:
    """Set who is at work on this connection, where it does not know yet; empty for nobody.

    Said once for a connection and person: it stays until another is named. What is said inside a
    transaction goes with it when that fails, so it is said again next time. Behind a pooler that hands a
    connection to another client between two transactions the names could be another's.
    """
    connection.ensure_connection()
    inner, told = connection.connection, f"{who} {workshop}"
    if not settings.TESTING and getattr(inner, "brunt_worker", " ") == told:
        return
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT set_config('brunt.who', %s, false), set_config('brunt.workshop', %s, false)",
            [who, workshop],
        )
    inner.brunt_worker = "" if connection.in_atomic_block else told  # type: ignore[union-attr]
