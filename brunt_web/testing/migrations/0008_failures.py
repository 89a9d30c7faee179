"""Failures stored as good results become the bounds that they are."""

from django.db import migrations

_FAILED = ("broke_under_load", "cracked")
# Properties of the two methods that can fail of which less is better, as they stood then.
_LESS_IS_BETTER = (
    *("creep_deflection", "creep_rate", "creep_exponent"),
    *("height_loss", "loosening_rate", "loosening_trend"),
)


def bound(apps, schema_editor):
    """At least so much crept, at most so much kept."""
    failed = apps.get_model("testing", "Result").objects.filter(
        turn__outcome__in=_FAILED, lower__isnull=False, upper__isnull=False
    )
    failed.filter(property_key__in=_LESS_IS_BETTER).update(upper=None)
    failed.exclude(property_key__in=_LESS_IS_BETTER).update(lower=None)


class Migration(migrations.Migration):
    dependencies = [("testing", "0007_parted")]
    operations = [migrations.RunPython(bound, migrations.RunPython.noop)]
