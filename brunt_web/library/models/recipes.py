"""Printers and recipes."""

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.db.models.functions import Now

from brunt_core.printing.tuning import TRIALS
from brunt_web.library.models.materials import Lot
from brunt_web.people.models import Workshop

KINDS = {"filament": "filament", "resin": "resin"}


class Printer(models.Model):
    """A machine with its bed in mm."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="printers")
    name = models.CharField(max_length=60)
    kind = models.CharField(max_length=10, choices=list(KINDS.items()), default="filament")
    bed_width = models.FloatField()
    bed_depth = models.FloatField()
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "name"], name="printer_name_once_a_workshop"
            ),
            models.CheckConstraint(
                condition=Q(bed_width__gt=0, bed_depth__gt=0), name="bed_positive"
            ),
        ]

    def __str__(self) -> str:
        return self.name


class Recipe(models.Model):
    """A set of print settings. Never edited once used: an edit then makes the next version.

    ``settings`` maps a field's key to ``{"text", "value", "shown"}`` with the value in SI.
    """

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="recipes")
    name = models.CharField(max_length=80)
    version = models.PositiveSmallIntegerField(default=1)
    kind = models.CharField(max_length=10, choices=list(KINDS.items()), default="filament")
    settings = models.JSONField(default=dict)
    parent = models.ForeignKey(
        "self", models.SET_NULL, null=True, blank=True, related_name="children"
    )
    reason = models.CharField(max_length=300, blank=True)
    created_at = models.DateTimeField(db_default=Now())
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["name", "-version"]
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "name", "version"], name="recipe_version_once"
            )
        ]

    def __str__(self) -> str:
        return f"{self.name}, version {self.version}"

    @property
    def values(self) -> dict[str, float | None]:
        """Settings in SI by key."""
        return {k: s.get("value") for k, s in self.settings.items()}

    @property
    def shown(self) -> dict[str, str]:
        """Settings as text in their own unit."""
        return {k: s.get("shown", "") for k, s in self.settings.items()}


class Tuning(models.Model):
    """A short print that stepped one setting of a recipe: what was tried, and the version it led to.

    ``rows`` are ``{"text", "score", "note"}`` by step; ``chosen`` as a setting's text.
    """

    recipe = models.ForeignKey(Recipe, models.CASCADE, related_name="tuning_trials")
    kind = models.CharField(max_length=20, choices=[(t.key, t.name) for t in TRIALS.values()])
    setting = models.CharField(max_length=30)
    rows = models.JSONField(default=list)
    chosen = models.CharField(max_length=80, blank=True)
    words = models.CharField(max_length=300)
    made = models.ForeignKey(
        Recipe, models.SET_NULL, null=True, blank=True, related_name="brought_up_by"
    )
    lot = models.ForeignKey(Lot, models.PROTECT, null=True, blank=True)
    note = models.CharField(max_length=300, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField()

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} of {self.recipe}"
