"""Batches, prints, grades and photos."""

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.db.models.functions import Now

from brunt_core.printing.checks import ASPECTS, DEFECTS
from brunt_core.quantities.rendering import number
from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.library.models import Lot, Printer, Recipe


class Batch(models.Model):
    """Specimens printed one after the other: one printer, one lot, plates filled with a seed.

    ``per_object`` says that walls, infill and the like are set for each object of a plate.
    """

    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="batches")
    number = models.PositiveSmallIntegerField()
    printer = models.ForeignKey(Printer, models.PROTECT)
    recipe = models.ForeignKey(Recipe, models.PROTECT, null=True, blank=True)
    lot = models.ForeignKey(Lot, models.PROTECT, null=True, blank=True)
    orientation = models.CharField(max_length=20)
    gap = models.FloatField(default=5)
    seed = models.PositiveIntegerField()
    per_object = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(db_default=Now())

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["campaign", "number"], name="batch_number_once")
        ]

    def __str__(self) -> str:
        return f"batch {self.number}"


class Plate(models.Model):
    """One plate of a batch: what it is to be printed with, and what it was.

    ``settings`` is the effective recipe all its objects share; ``used`` what it was really printed
    with, where that is known, and ``used_from`` where that is known from.
    """

    batch = models.ForeignKey(Batch, models.CASCADE, related_name="plates")
    number = models.PositiveSmallIntegerField()
    settings = models.JSONField(default=dict)
    dryness = models.CharField(max_length=20, blank=True)
    printed_at = models.DateTimeField(null=True, blank=True)
    used = models.JSONField(default=dict, blank=True)
    used_from = models.CharField(max_length=160, blank=True)
    # What lies on it, filled where it is drawn.
    laid: list["Print"]

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["batch", "number"], name="plate_number_once")
        ]

    def __str__(self) -> str:
        return f"batch {self.batch.number}, plate {self.number}"


class PrintAttempt(models.Model):
    """An attempt at a plate that failed: how it was made stick, what went wrong. Brim in mm."""

    plate = models.ForeignKey(Plate, models.CASCADE, related_name="attempts")
    defects = models.JSONField(default=list)
    bed_surface = models.CharField(max_length=80, blank=True)
    adhesive = models.CharField(max_length=80, blank=True)
    brim = models.FloatField(null=True, blank=True)
    enclosure = models.CharField(max_length=80, blank=True)
    note = models.CharField(max_length=300, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "id"]

    @property
    def words(self) -> str:
        """What went wrong and how it was held, in words."""
        wrong = ", ".join([*(DEFECTS[d] for d in self.defects if d in DEFECTS), self.note])
        held = [self.bed_surface, self.adhesive, self.enclosure]
        if self.brim is not None:
            held.append(f"brim {number(self.brim, 'g')} mm" if self.brim else "no brim")
        told = ", ".join(h for h in held if h)
        return wrong.strip(", ") + (f" ({told})" if told else "")


class Print(models.Model):
    """A specimen's place on a plate and how it came out. Places in mm on the plate.

    ``settings`` are what its object has of its own.
    """

    specimen = models.OneToOneField(Specimen, models.CASCADE, related_name="print")
    plate = models.ForeignKey(Plate, models.CASCADE, related_name="prints")
    x = models.FloatField()
    y = models.FloatField()
    settings = models.JSONField(default=dict, blank=True)
    failed = models.BooleanField(default=False)
    defects = models.JSONField(default=list)
    note = models.CharField(max_length=300, blank=True)
    # As drawn, filled by the queries: sizes as it stands and its upper edge, mm; what it has of its own.
    width: float
    depth: float
    height: float
    top: float
    own: list[tuple[str, str]]

    class Meta:
        ordering = ["plate__number", "y", "x"]


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
