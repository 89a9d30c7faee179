"""Runs that are on tell their specimens that they hold them."""

from django.db import migrations


def tell(apps, schema_editor):
    """Write the run into what lies in it."""
    rows = apps.get_model("treatments", "Inside").objects
    for row in rows.filter(run__state="running", out_at__isnull=True).select_related("run"):
        words = f"run {row.run.number} ({row.run.what})"
        apps.get_model("campaigns", "Specimen").objects.filter(pk=row.specimen_id).update(
            lies_in=words
        )


class Migration(migrations.Migration):
    dependencies = [("treatments", "0001_runs"), ("campaigns", "0011_lies_in")]

    operations = [migrations.RunPython(tell, migrations.RunPython.noop)]
