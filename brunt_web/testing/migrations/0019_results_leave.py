"""The table of results goes to the app ``results``: renamed, nothing in it changes."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("testing", "0018_one_history"), ("changes", "0006_requirements")]

    operations = [
        migrations.AlterModelTable(name="result", table="results_result"),
        migrations.SeparateDatabaseAndState(state_operations=[migrations.DeleteModel(name="Result")]),
    ]
