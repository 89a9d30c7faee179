"""What an import leaves behind: what was imported, and what a workshop's headings mean."""

from django.conf import settings
from django.db import models

from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.people.models import Workshop


class HeadingMeaning(models.Model):
    """What a heading means in the tables of this workshop, as somebody once said."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="+")
    heading = models.CharField(max_length=120)
    part = models.CharField(max_length=60, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workshop", "heading"], name="heading_means_one_thing")
        ]


class DataImport(models.Model):
    """One import: it can be undone as a whole."""

    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="+")
    name = models.CharField(max_length=160, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField()
    count = models.PositiveIntegerField()
    conditions = models.JSONField(default=list, blank=True)
    materials = models.JSONField(default=list, blank=True)
    undone_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at", "-id"]


class DataImportRow(models.Model):
    """One row of an import: the turn it was stored for, and what it changed besides."""

    data_import = models.ForeignKey(DataImport, models.CASCADE, related_name="rows")
    turn = models.ForeignKey(Turn, models.CASCADE, related_name="+")
    entry_key = models.UUIDField()
    line = models.PositiveIntegerField()
    new_specimen = models.BooleanField(default=False)
    made_here = models.BooleanField(default=False)
    named_here = models.BooleanField(default=False)
