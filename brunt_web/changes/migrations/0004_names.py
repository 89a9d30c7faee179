"""What is stored under the names of before gets today's: keys in JSON, kinds, failure modes, and rows of the record."""

from django.db import migrations

MODES = {
    "through_the_roads": "across_the_beads",
    "slanting": "oblique",
    "necked_and_drew": "necking",
    "bent_and_kept": "bent_without_breaking",
    "wrung_and_kept": "twisted_without_breaking",
}
TABLES = {
    "library_bringup": "library_tuning",
    "campaigns_lifeevent": "campaigns_historyevent",
    "feedstock_ladder": "feedstock_qualification",
    "checks_checkbar": "checks_checkstandard",
    "decisions_duty": "decisions_loadcase",
    "exchange_broughtin": "exchange_dataimport",
    "exchange_broughtinrow": "exchange_dataimportrow",
}
# By table: the column as it was called and as it is called.
COLUMNS = {
    "campaigns_campaign": [("scatter", "cv")],
    "campaigns_specimen": [("owes", "outstanding"), ("owed", "outstanding_steps")],
    "campaigns_turn": [("reading_owed", "reading_outstanding")],
    "checks_phase": [("check_bar_id", "check_standard_id")],
    "exchange_dataimportrow": [("brought_in_id", "data_import_id")],
    "feedstock_attempt": [("ladder_id", "qualification_id")],
    "feedstock_picture": [("ladder_id", "qualification_id")],
    "testing_clock": [("rung", "load_step")],
    "testing_timedreading": [("rung", "load_step")],
}


def rename(apps, schema_editor):
    """Write the new names wherever an old one is stored."""
    with schema_editor.connection.cursor() as cursor:
        for old, new in MODES.items():
            for table in ("testing_test", "testing_historicaltest"):
                cursor.execute(f"UPDATE {table} SET mode = %s WHERE mode = %s", [new, old])
            for column in ("before", "after"):
                cursor.execute(
                    f"UPDATE changes_change SET {column} = jsonb_set({column}, '{{mode}}', to_jsonb(%s::text))"
                    f" WHERE kind = 'testing_test' AND {column} ->> 'mode' = %s",
                    [new, old],
                )
        for old, new in TABLES.items():
            cursor.execute("UPDATE changes_change SET kind = %s WHERE kind = %s", [new, old])
        for table, pairs in COLUMNS.items():
            for old, new in pairs:
                for column in ("before", "after", "keys"):
                    cursor.execute(
                        f"UPDATE changes_change SET {column} = ({column} - %s) || jsonb_build_object(%s::text, {column} -> %s)"
                        f" WHERE kind = %s AND {column} ? %s",
                        [old, new, old, table, old],
                    )
        cursor.execute(
            """
            UPDATE campaigns_condition SET asks = replace(asks::text, '"owes":', '"outstanding":')::jsonb;
            UPDATE campaigns_turn SET tested_as = replace(tested_as::text, '"owed":', '"outstanding_steps":')::jsonb
              WHERE tested_as ? 'owed';
            UPDATE campaigns_specimen SET deviations = replace(deviations::text, '"key": "owed ', '"key": "outstanding ')::jsonb
              WHERE deviations::text LIKE '%"key": "owed %';
            UPDATE campaigns_historyevent SET kind = 'excluded' WHERE kind = 'left_out';
            UPDATE campaigns_campaign SET shape = 'one_factor' WHERE shape = 'sweep';
            UPDATE campaigns_campaign SET shape = 'all_campaigns' WHERE shape = 'league';
            UPDATE exchange_headingmeaning SET part = 'excluded' WHERE part = 'left_out';
            UPDATE exchange_headingmeaning SET part = 'excluded_because' WHERE part = 'left_out_because';
            """
        )


class Migration(migrations.Migration):
    dependencies = [
        ("changes", "0003_no_kept_pages"),
        ("campaigns", "0018_words"),
        ("checks", "0003_words"),
        ("decisions", "0004_words"),
        ("exchange", "0002_names"),
        ("feedstock", "0003_words"),
        ("library", "0014_words"),
        ("testing", "0017_names"),
    ]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]
