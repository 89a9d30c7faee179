"""The triggers that write changes down, whichever way a row is changed."""

from hashlib import sha256
from typing import Any

from brunt_web.changes.tracked import TRACKED, Tracked

# One row of jsonb for each row changed, whichever statement changed it: the pattern of an audit trigger
# in PostgreSQL's manual (43.10, "A PL/pgSQL Trigger Function for Auditing"), with only what differs.
FUNCTION = """
CREATE OR REPLACE FUNCTION brunt_note_change() RETURNS trigger LANGUAGE plpgsql AS $body$
DECLARE
  gone jsonb; come jsonb; keys jsonb; was jsonb; is_ jsonb;
  hidden text[] := string_to_array(TG_ARGV[0], ',');
  parts text[] := string_to_array(TG_ARGV[1], ',');
  only_ text[] := string_to_array(TG_ARGV[2], ',');
  shop text := coalesce(nullif(current_setting('brunt.workshop', true), ''), '');
BEGIN
  IF coalesce(current_setting('brunt.quiet', true), '') = 'on' THEN RETURN NULL; END IF;
  IF TG_OP <> 'INSERT' THEN gone := to_jsonb(OLD) - hidden; END IF;
  IF TG_OP <> 'DELETE' THEN come := to_jsonb(NEW) - hidden - parts; END IF;
  IF TG_OP = 'UPDATE' THEN
    gone := gone - parts;
    SELECT jsonb_object_agg(o.key, o.value) INTO was FROM jsonb_each(gone) o
      WHERE o.value IS DISTINCT FROM come -> o.key AND (only_ = '{}' OR o.key = ANY (only_));
    SELECT jsonb_object_agg(n.key, n.value) INTO is_ FROM jsonb_each(come) n
      WHERE n.value IS DISTINCT FROM gone -> n.key AND (only_ = '{}' OR n.key = ANY (only_));
    IF was IS NULL AND is_ IS NULL THEN RETURN NULL; END IF;
  ELSE
    was := gone; is_ := come;
  END IF;
  SELECT jsonb_object_agg(k.key, k.value) INTO keys FROM jsonb_each(coalesce(come, gone)) k
    WHERE k.key LIKE '%\\_id' OR k.key IN ('key', 'code', 'name', 'number', 'position');
  IF shop = '' THEN shop := coalesce(coalesce(come, gone) ->> 'workshop_id', ''); END IF;
  INSERT INTO changes_change (at, act, who_id, workshop_id, kind, row, what, keys, before, after)
  VALUES (
    clock_timestamp(), txid_current(), nullif(current_setting('brunt.who', true), '')::bigint,
    nullif(shop, '')::bigint, TG_TABLE_NAME, (coalesce(come, gone) ->> 'id')::bigint,
    CASE TG_OP WHEN 'INSERT' THEN '+' WHEN 'DELETE' THEN '-' ELSE '~' END,
    coalesce(keys, '{}'), coalesce(was, '{}'), coalesce(is_, '{}'));
  RETURN NULL;
END $body$;
"""


def _columns(names: tuple[str, ...]) -> str:
    return "'" + ",".join(names) + "'"


def trigger(table: str, tracked: Tracked, columns: set[str]) -> str:
    """The statements that watch one table, of the columns it has now."""
    only = tuple(c for c in tracked.only if c in columns)
    given = f"{_columns(tracked.hidden)}, {_columns(tracked.parts)}, {_columns(only)}"
    watched = only or tuple(sorted(columns - {*tracked.hidden}))
    old, new = (", ".join(f'{x}."{c}"' for c in watched) for x in ("OLD", "NEW"))
    of = ", ".join(f'"{c}"' for c in watched)
    rest = "INSERT OR DELETE" if tracked.made else "DELETE"
    put_in = (
        f"CREATE OR REPLACE TRIGGER brunt_put_in_place AFTER INSERT ON {table} FOR EACH ROW"
        " WHEN (current_setting('brunt.correcting', true) = 'on')"
        f" EXECUTE FUNCTION brunt_note_change({given});"
    )
    return (put_in if tracked.slot else "") + (
        f"CREATE OR REPLACE TRIGGER brunt_changed AFTER UPDATE OF {of} ON {table} FOR EACH ROW"
        f" WHEN (ROW({old}) IS DISTINCT FROM ROW({new})) EXECUTE FUNCTION brunt_note_change({given});"
        f"CREATE OR REPLACE TRIGGER brunt_made_or_gone AFTER {rest} ON {table} FOR EACH ROW"
        f" EXECUTE FUNCTION brunt_note_change({given});"
    )


def set_up(cursor: Any) -> None:
    """Put the triggers on every table there is; nothing where they stand as they should."""
    cursor.execute(
        "SELECT table_name, column_name FROM information_schema.columns WHERE table_schema = current_schema()"
    )
    columns: dict[str, set[str]] = {}
    for table, column in cursor.fetchall():
        columns.setdefault(table, set()).add(column)
    if "changes_change" not in columns:
        return
    wanted = FUNCTION + "".join(
        trigger(table, how, columns[table]) for table, how in TRACKED.items() if table in columns
    )
    mark = sha256(wanted.encode()).hexdigest()
    cursor.execute(
        "SELECT obj_description(oid) FROM pg_proc WHERE proname = 'brunt_note_change'"
        " AND pronamespace = current_schema()::regnamespace"
    )
    stands = cursor.fetchone()
    if stands and stands[0] == mark:
        return
    cursor.execute(wanted)
    cursor.execute(f"COMMENT ON FUNCTION brunt_note_change() IS '{mark}'")


def drop_triggers(cursor: Any) -> None:
    """Take every trigger off, with the function they call."""
    cursor.execute("DROP FUNCTION IF EXISTS brunt_note_change() CASCADE")
    cursor.execute("DROP FUNCTION IF EXISTS brunt_pulse() CASCADE")
