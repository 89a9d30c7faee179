"""Telling the database how large its tables have become, in the middle of a long transaction.

The planner knows tables as they were when they were last looked at. One transaction that fills empty
tables with thousands of rows is planned as if they were empty, and each row costs a walk through all
that came before; a look in between keeps it even.
"""

from django.db import connection

from brunt_web.campaigns.models import HistoryEvent, Specimen, Turn
from brunt_web.results.models import Result
from brunt_web.testing.models import Measurement, Reading, Test

_FILLED = (HistoryEvent, Specimen, Turn, Measurement, Reading, Result, Test)
_AT = (150, 1500, 15_000)


def gather_statistics() -> None:
    """Gather the statistics of the tables that tests fill; sees what this transaction has written."""
    names = ", ".join(connection.ops.quote_name(m._meta.db_table) for m in _FILLED)
    with connection.cursor() as cursor:
        cursor.execute(f"ANALYZE {names}")


def look_again_at(count: int) -> None:
    """Do so when so many rows were stored that it is worth it."""
    if count in _AT:
        gather_statistics()
