"""In the record, what the levels of a condition require is called so."""

from django.db import migrations


def rename(apps, schema_editor):
    """The column's new name wherever the record has the old one."""
    with schema_editor.connection.cursor() as cursor:
        for column in ("before", "after"):
            cursor.execute(
                f"UPDATE changes_change SET {column} = ({column} - 'asks') || jsonb_build_object('requirements', {column} -> 'asks')"
                f" WHERE kind = 'campaigns_condition' AND {column} ? 'asks'"
            )


class Migration(migrations.Migration):
    dependencies = [("changes", "0005_earlier_versions"), ("campaigns", "0019_requirements")]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]
