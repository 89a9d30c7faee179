from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("decisions", "0001_base"), ("campaigns", "0017_names")]

    operations = [
        migrations.RenameModel("Duty", "LoadCase"),
        migrations.RenameModel("HistoricalDuty", "HistoricalLoadCase"),
    ]
