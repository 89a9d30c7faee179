"""Pages are no longer kept between requests, so nothing notes which transactions wrote."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("changes", "0001_base")]

    operations = [
        migrations.RunSQL(
            "DROP FUNCTION IF EXISTS brunt_pulse() CASCADE", migrations.RunSQL.noop
        ),
        migrations.DeleteModel(name="Pulse"),
    ]
