"""Pages are no longer kept between requests, so nothing notes which transactions wrote."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("changes", "0002_pulse")]

    operations = [
        migrations.RunSQL(
            "DROP FUNCTION IF EXISTS brunt_pulse() CASCADE", migrations.RunSQL.noop
        ),
        migrations.DeleteModel(name="Pulse"),
    ]
