"""Earlier versions of rows that stood in tables of their own go into the record, where it does not have them."""

from django.db import migrations

# Each kind of row that had earlier versions: its table, theirs, and where its workshop stands.
_TURN = "SELECT workshop_id FROM campaigns_specimen s JOIN campaigns_turn t ON t.specimen_id = s.id WHERE t.id = h.turn_id"
KINDS = {
    "testing_measurement": (
        "testing_historicalmeasurement",
        "SELECT workshop_id FROM campaigns_specimen s JOIN campaigns_historyevent e ON e.specimen_id = s.id"
        " WHERE e.id = h.moment_id",
    ),
    "testing_test": ("testing_historicaltest", _TURN),
    "testing_reading": (
        "testing_historicalreading",
        "SELECT workshop_id FROM campaigns_specimen s JOIN campaigns_turn t ON t.specimen_id = s.id"
        " JOIN testing_test x ON x.turn_id = t.id WHERE x.id = h.test_id",
    ),
    "testing_timedreading": ("testing_historicaltimedreading", _TURN),
    "testing_curve": ("testing_historicalcurve", _TURN),
    "treatments_run": (
        "treatments_historicalrun",
        "SELECT workshop_id FROM treatments_run r WHERE r.id = h.id",
    ),
    "decisions_loadcase": (
        "decisions_historicalloadcase",
        "SELECT workshop_id FROM campaigns_campaign c WHERE c.id = h.campaign_id",
    ),
    "checks_checkstandard": ("checks_historicalcheckstandard", "h.workshop_id"),
    "checks_phase": (
        "checks_historicalphase",
        "SELECT workshop_id FROM checks_checkstandard c WHERE c.id = h.check_standard_id",
    ),
    "publishing_report": (
        "publishing_historicalreport",
        "SELECT workshop_id FROM campaigns_campaign c WHERE c.id = h.campaign_id",
    ),
}
# Two versions of a row that follow one another are one change: the columns that differ.
ONE = """
INSERT INTO changes_change (at, act, who_id, workshop_id, kind, row, what, keys, before, after)
SELECT at, -(version * 100 + {number}), who, workshop, '{kind}', row, '~', '{{}}',
  (SELECT jsonb_object_agg(key, value) FROM jsonb_each(was) WHERE value IS DISTINCT FROM is_ -> key),
  (SELECT jsonb_object_agg(key, value) FROM jsonb_each(is_) WHERE value IS DISTINCT FROM was -> key)
FROM (
  SELECT h.history_date AS at, h.history_id AS version, h.history_user_id AS who, ({workshop}) AS workshop, h.id AS row,
    lag(to_jsonb(h) - own.columns) OVER (PARTITION BY h.id ORDER BY h.history_date, h.history_id) AS was,
    to_jsonb(h) - own.columns AS is_
  FROM {table} h, (SELECT '{{history_id,history_date,history_type,history_user_id,history_change_reason}}'::text[]
    AS columns) own
  WHERE h.history_type <> '-'
) version
WHERE was IS NOT NULL AND was <> is_ AND NOT EXISTS (
  SELECT 1 FROM changes_change c WHERE c.kind = '{kind}' AND c.row = version.row AND c.what = '~'
    AND c.at BETWEEN version.at - interval '1 minute' AND version.at + interval '1 minute')
ORDER BY at
"""


def carry(apps, schema_editor):
    """Write a change for each pair of versions, where the record has none of that minute."""
    with schema_editor.connection.cursor() as cursor:
        for number, (kind, (table, workshop)) in enumerate(KINDS.items()):
            cursor.execute(
                ONE.format(number=number, kind=kind, table=table, workshop=workshop), None
            )


class Migration(migrations.Migration):
    dependencies = [
        ("changes", "0004_names"),
        ("campaigns", "0018_words"),
        ("checks", "0003_words"),
        ("decisions", "0004_words"),
        ("publishing", "0001_base"),
        ("testing", "0017_names"),
        ("treatments", "0001_base"),
    ]

    operations = [migrations.RunPython(carry, migrations.RunPython.noop)]
