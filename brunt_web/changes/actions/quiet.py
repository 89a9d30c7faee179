"""Says that what comes in now is no change: a demo, a package that brings its own history."""

from django.db import connection


def quiet() -> None:
    """Until the transaction ends, nothing is written down as a change. Call it inside a transaction."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT set_config('brunt.quiet', 'on', true)")
