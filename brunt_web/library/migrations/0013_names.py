from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("library", "0012_printers_put_away")]

    operations = [migrations.RenameModel("BringUp", "Tuning")]
