from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("library", "0001_base")]

    operations = [migrations.RenameModel("BringUp", "Tuning")]
