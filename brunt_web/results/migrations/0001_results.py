"""Results get a room of their own: the table is renamed by testing 0019 and stays as it is."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True

    dependencies = [("campaigns", "0019_requirements"), ("testing", "0019_results_leave")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="Result",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                        ("property_key", models.CharField(max_length=40)),
                        ("lower", models.FloatField(null=True)),
                        ("upper", models.FloatField(null=True)),
                        ("uncertainty", models.FloatField(null=True)),
                        ("rounding", models.FloatField(help_text="the part of the uncertainty that is this specimen's own", null=True)),
                        ("formula", models.CharField(max_length=200)),
                        ("source", models.CharField(max_length=300)),
                        ("steps", models.JSONField(default=list)),
                        ("at_time", models.FloatField(help_text="s after the start its last reading was taken", null=True)),
                        ("computed_by_version", models.CharField(max_length=20)),
                        ("turn", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="results", to="campaigns.turn")),
                    ],
                    options={
                        "constraints": [
                            models.UniqueConstraint(fields=("turn", "property_key"), name="result_once"),
                            models.CheckConstraint(condition=models.Q(("lower__isnull", False), ("upper__isnull", False), _connector="OR"), name="result_has_a_bound"),
                            models.CheckConstraint(
                                condition=models.Q(("lower__isnull", True), ("upper__isnull", True), ("lower__lte", models.F("upper")), _connector="OR"),
                                name="result_bounds_in_order",
                            ),
                        ],
                    },
                ),
            ],
        ),
    ]
