"""Several readings in one text are parted by ; from now on: texts written before keep their meaning.

Until now a blank or a stroke between two digits parted readings, always. A blank may group a number
now, and a stroke may be a fraction, so what stands in the database is written as it was read.
"""

import re

from django.db import migrations

_PARTED = re.compile(r"(?<=\d)\s*/\s*(?=[-+]?[\d.,])|(?<=\d)\s+(?=[-+]?\d)")


def parted(text: str) -> str:
    """A text with its readings parted by ``; `` where a blank or a stroke parted them."""
    return _PARTED.sub("; ", text)


def rewrite(apps, schema_editor):
    """Rewrite the texts of sizes and readings that hold several numbers."""
    for name in ("Measurement", "Reading"):
        model = apps.get_model("testing", name)
        for row in model.objects.filter(text__regex=r"[0-9](\s+|\s*/\s*)[-+]?[0-9.,]").iterator():
            if ":" not in row.text and parted(row.text) != row.text:
                model.objects.filter(pk=row.pk).update(text=parted(row.text)[:120])


class Migration(migrations.Migration):
    dependencies = [("testing", "0006_rounding")]
    operations = [migrations.RunPython(rewrite, migrations.RunPython.noop)]
