"""Batches, prints, grades and photos."""

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.db.models.functions import Now

from brunt_core.printing.checks import ASPECTS
from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.library.models import Lot, Printer, Recipe


class Batch(models.Model):
    """Specimens printed together: one printer, one lot, one recipe, plates filled with a seed."""

    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="batches")
    number = models.PositiveSmallIntegerField()
    printer = models.ForeignKey(Printer, models.PROTECT)
    recipe = models.ForeignKey(Recipe, models.PROTECT, null=True, blank=True)
    lot = models.ForeignKey(Lot, models.PROTECT, null=True, blank=True)
    orientation = models.CharField(max_length=20)
    gap = models.FloatField(default=5)
    seed = models.PositiveIntegerField()
    printed_at = models.DateTimeField(null=True, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(db_default=Now())

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["campaign", "number"], name="batch_number_once")
        ]

    def __str__(self) -> str:
        return f"batch {self.number}"


class Print(models.Model):
    """A specimen's place in a batch and how it came out. Places in mm on the plate."""

    specimen = models.OneToOneField(Specimen, models.CASCADE, related_name="print")
    batch = models.ForeignKey(Batch, models.CASCADE, related_name="prints")
    plate = models.PositiveSmallIntegerField()
    x = models.FloatField()
    y = models.FloatField()
    failed = models.BooleanField(default=False)
    defects = models.JSONField(default=list)
    mass = models.FloatField(null=True, blank=True)
    mass_text = models.CharField(max_length=60, blank=True)
    note = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["plate", "y", "x"]


class Grade(models.Model):
    """An observation graded 1 (poor) to 5 (flawless), for a batch or one specimen; ``measured`` in SI."""

    batch = models.ForeignKey(Batch, models.CASCADE, related_name="grades")
    specimen = models.ForeignKey(
        Specimen, models.CASCADE, null=True, blank=True, related_name="grades"
    )
    aspect = models.CharField(max_length=20, choices=[(k, v[0]) for k, v in ASPECTS.items()])
    score = models.PositiveSmallIntegerField()
    measured = models.FloatField(null=True, blank=True)
    measured_text = models.CharField(max_length=60, blank=True)
    note = models.CharField(max_length=300, blank=True)
    photo = models.FileField(upload_to="photos/", blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField(db_default=Now())

    class Meta:
        ordering = ["aspect", "at"]
        constraints = [
            models.CheckConstraint(condition=Q(score__gte=1, score__lte=5), name="score_1_to_5")
        ]
