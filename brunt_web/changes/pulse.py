"""What was written since a moment: one row for each transaction that wrote anything a page may show.

PostgreSQL names the transactions that a moment can see, its *snapshot* (manual, 9.28.8 "Transaction ID and
Snapshot Information Functions"). What was worked out after a snapshot was taken still holds exactly while
every transaction noted here is visible in that snapshot: one that was open then and ended since is not.
"""

from typing import Any

from django.db import connection

from brunt_web.changes.tracked import NOT_TRACKED, TRACKED

# Written all the time, shown on no page that is kept.
_SILENT = {
    "people_house",
    "changes_change",
    "changes_pulse",
    "jobs_job",
    "jobs_jobfile",
    "notebooks_token",
}
WATCHED = tuple(sorted({*TRACKED, *NOT_TRACKED} - _SILENT))

NOTE = "INSERT INTO changes_pulse (act, at) VALUES (pg_current_xact_id()::text::bigint, now()) ON CONFLICT DO NOTHING;"
FUNCTION = f"""
CREATE OR REPLACE FUNCTION brunt_pulse() RETURNS trigger LANGUAGE plpgsql AS $body$
BEGIN
  {NOTE}
  RETURN NULL;
END $body$;
"""
_TRIGGER = (
    "CREATE OR REPLACE TRIGGER brunt_pulse AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON {}"
    " FOR EACH STATEMENT EXECUTE FUNCTION brunt_pulse();"
)
# A restored, a copied or another database is another one, whatever its snapshots are called.
_SAME = "concat(pg_postmaster_start_time(), ' ', 'changes_pulse'::regclass::oid, ' ', inet_server_port())"
_LOOK = f"SELECT pg_current_snapshot()::text, {_SAME}"
_STILL = """, NOT EXISTS (
  SELECT 1 FROM changes_pulse WHERE act >= pg_snapshot_xmin(%(then)s::pg_snapshot)::text::bigint
  AND NOT pg_visible_in_snapshot(act::text::xid8, %(then)s::pg_snapshot))"""

Moment = tuple[str, str]


def statements(tables: Any) -> str:
    """The function and its triggers, for those of the watched tables that there are."""
    return FUNCTION + "".join(_TRIGGER.format(table) for table in WATCHED if table in tables)


def look(then: Moment | None = None) -> tuple[Moment, bool]:
    """This moment, and whether nothing was written since ``then``; asked outside of a transaction.

    >>> now, _ = look()        # doctest: +SKIP
    >>> look(now)[1]           # doctest: +SKIP
    True
    """
    with connection.cursor() as cursor:
        if then is None:
            cursor.execute(_LOOK)
            snapshot, database = cursor.fetchone()
            return (snapshot, database), False
        cursor.execute(_LOOK + _STILL, {"then": then[0]})
        snapshot, database, still = cursor.fetchone()
    return (snapshot, database), still and database == then[1]


def forget(hours: int = 3) -> None:
    """Throw away what is older than anything that is kept; see :mod:`brunt_web.changes.keeping`."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM changes_pulse WHERE at < now() - make_interval(hours => %s)", [hours])  # fmt: skip
