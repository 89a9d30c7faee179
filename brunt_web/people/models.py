"""Workshops and who works in them."""

from django.conf import settings
from django.db import models
from django.db.models.functions import Now


class Workshop(models.Model):
    """Those who share materials, campaigns and rigs. IDs count up within a workshop."""

    name = models.CharField(max_length=120, unique=True)
    currency = models.CharField(max_length=8, default="€")
    next_specimen = models.PositiveIntegerField(default=0)
    invented = models.BooleanField(default=False)
    created_at = models.DateTimeField(db_default=Now())

    def __str__(self) -> str:
        return self.name


class Seat(models.Model):
    """A person's place in a workshop, with the role they are called by."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, models.CASCADE, related_name="seat")
    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="seats")
    role = models.CharField(max_length=60, default="bench lead")
    also = models.ManyToManyField(Workshop, blank=True, related_name="+", help_text="where else they may sit down")  # fmt: skip

    def __str__(self) -> str:
        return f"{self.role} in {self.workshop}"
