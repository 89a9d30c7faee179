"""Qualifications of feedstock, the attempts at their steps, and pictures of particles."""

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.db.models.functions import Now

from brunt_web.library.models import Lot, Material, Recipe
from brunt_web.people.models import Workshop

KINDS = {"feedstock": "pellets, regrind, unknown filament", "resin": "resin"}


class Qualification(models.Model):
    """One material on its way up: what is qualified, of which lot, and the recipe that came of it."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="qualifications")
    kind = models.CharField(max_length=12, choices=list(KINDS.items()), default="feedstock")
    name = models.CharField(max_length=80)
    material = models.ForeignKey(Material, models.PROTECT, null=True, blank=True)
    lot = models.ForeignKey(Lot, models.PROTECT, null=True, blank=True)
    recipe = models.ForeignKey(Recipe, models.SET_NULL, null=True, blank=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(db_default=Now())

    class Meta:
        ordering = ["-created_at", "-id"]
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "name"], name="qualification_name_once_a_workshop"
            )
        ]

    def __str__(self) -> str:
        return self.name


class Attempt(models.Model):
    """One attempt at a step: what was typed, how it was judged, what was learnt. Never edited."""

    qualification = models.ForeignKey(Qualification, models.CASCADE, related_name="attempts")
    gate = models.CharField(max_length=20)
    texts = models.JSONField(default=dict)
    passed = models.BooleanField()
    reason = models.CharField(max_length=300)
    working = models.JSONField(default=list)
    learnt = models.JSONField(default=dict)
    note = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    undone_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["at", "id"]


class Picture(models.Model):
    """A photo of flakes on paper: its file, its scale in m a pixel, and the strays taken off it."""

    qualification = models.ForeignKey(Qualification, models.CASCADE, related_name="pictures")
    file = models.CharField(max_length=60, unique=True)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    scale = models.FloatField(null=True, blank=True)
    strays = models.JSONField(default=list)
    found = models.JSONField(default=list)
    taken_at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)

    class Meta:
        ordering = ["-taken_at", "-id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(scale__isnull=True) | Q(scale__gt=0), name="scale_positive"
            )
        ]
