"""Rigs, geometries and procedures."""

from dataclasses import replace
from datetime import date

from django.conf import settings
from django.db import models
from django.db.models.functions import Now

from brunt_core.comparability import ProcedureFacts, comparability_key
from brunt_core.mechanics.calibration import CalibrationPoint
from brunt_core.methods.base import Input, Method, Place
from brunt_core.methods.registry import method
from brunt_core.properties import PROPERTIES, Property, own_property
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import render, time_words
from brunt_core.specimens.types import SpecimenType, specimen_type
from brunt_web.library.parts import own_type
from brunt_web.people.models import Workshop


class Rig(models.Model):
    """A device: capacity and resolution in the SI unit of ``dimension``, relative limit of error."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="rigs")
    name = models.CharField(max_length=80)
    dimension = models.CharField(max_length=20, default="force")
    capacity = models.FloatField(null=True, blank=True)
    resolution = models.FloatField(default=0)
    relative_error = models.FloatField(default=0.01)
    note = models.TextField(blank=True)
    location = models.CharField(max_length=80, blank=True)
    slowest = models.FloatField(null=True, blank=True, help_text="m/s")
    fastest = models.FloatField(null=True, blank=True, help_text="m/s")
    instrument = models.CharField(
        max_length=120,
        blank=True,
        help_text="where its readings come from: tcp:, serial:, sim:, browser:",
    )
    due_on = models.DateField(
        null=True, blank=True, help_text="when its calibration is due, of the last certificate"
    )
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], name="rig_name_once_a_workshop")
        ]

    def __str__(self) -> str:
        return self.name

    def overdue(self, day: date) -> bool:
        """Whether its calibration was due before a day; one that was never calibrated is not overdue."""
        return self.due_on is not None and self.due_on < day

    @property
    def speeds(self) -> str:
        """The speeds it can do, in words; empty where nobody has said."""
        told = [f"{in_unit(v, 'speed', 'mm/min'):g}" for v in (self.slowest, self.fastest) if v]
        return f"{' to '.join(told)} mm/min" if told else ""

    def can_do(self, speed: float | None) -> bool:
        """Whether a speed in m/s lies among its own; anything does where nobody has said."""
        if not speed:
            return True
        low, high = self.slowest or 0.0, self.fastest or float("inf")
        return low * 0.999 <= speed <= high * 1.001


class Calibration(models.Model):
    """A certificate of a rig: its day, when the next is due, its figures [applied, read, expanded] in SI."""

    rig = models.ForeignKey(Rig, models.CASCADE, related_name="calibrations")
    on = models.DateField()
    due = models.DateField(null=True, blank=True)
    certificate = models.CharField(max_length=120, blank=True)
    by_whom = models.CharField(max_length=120, blank=True)
    figures = models.JSONField(default=list)
    note = models.TextField(blank=True)
    withdrawn_at = models.DateTimeField(null=True, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField(db_default=Now())

    class Meta:
        ordering = ["-on", "-id"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(due__isnull=True) | models.Q(due__gte=models.F("on")),
                name="calibration_due_after",
            )
        ]

    def __str__(self) -> str:
        return self.certificate or f"calibration of {self.on:%-d %b %Y}"

    @property
    def points(self) -> list[CalibrationPoint]:
        """Its figures as the core has them."""
        return [CalibrationPoint(*row) for row in self.figures]


ELSEWHERE = Place("elsewhere", "elsewhere", "Z", 0.5)


class SpecimenVariant(models.Model):
    """The tester's own geometry: a shape of the core with sizes in mm, or a part from a mesh file."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="variants")
    name = models.CharField(max_length=80)
    shape = models.CharField(max_length=30)
    sizes = models.JSONField()
    part = models.JSONField(
        null=True, blank=True, help_text="of a part from a mesh file: how it lies, what is marked"
    )
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "name"], name="variant_name_once_a_workshop"
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def geometry(self) -> SpecimenType:
        """The core's geometry."""
        return own_type(self.pk, self.name, self.shape, self.sizes, self.part)

    @property
    def places(self) -> tuple[Place, ...]:
        """Where a part may fail first, as its tester named it; and elsewhere."""
        named = self.part.get("places", []) if self.part else []
        own = tuple(Place(p["key"], p["label"], p["letter"], p["at"]) for p in named)
        return (*own, ELSEWHERE) if own else ()


SIZES = [
    ("each", "measured on every specimen"),
    ("batch", "measured on some of a batch, say three"),
    ("nominal", "nominal, not measured"),
]


class Procedure(models.Model):
    """A method with its parameters fixed. Results compare when their comparability keys agree."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="procedures")
    name = models.CharField(max_length=80)
    method_key = models.CharField(max_length=40)
    orientation = models.CharField(max_length=20)
    specimen_type = models.CharField(max_length=40)
    variant = models.ForeignKey("SpecimenVariant", models.PROTECT, null=True, blank=True)
    rig = models.ForeignKey(Rig, models.PROTECT, null=True, blank=True)
    also_on = models.ManyToManyField(Rig, blank=True, related_name="+")
    speed = models.FloatField(null=True, blank=True, help_text="m/s")
    conditioning = models.CharField(max_length=120, blank=True)
    standard = models.CharField(max_length=400, blank=True)
    parameters = models.JSONField(default=dict, blank=True)
    preload = models.FloatField(null=True, blank=True, help_text="N")
    reading_times = models.JSONField(default=list, blank=True, help_text="s from the start")
    ranked_by = models.CharField(max_length=40, blank=True)
    destroys = models.BooleanField(
        null=True, blank=True, help_text="as the method says when it is empty"
    )
    sizes = models.CharField(max_length=10, choices=SIZES, default="each")
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "name"], name="procedure_name_once_a_workshop"
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def method(self) -> Method:
        """The core's definition of the method; of a custom part with the places its tester named."""
        found = method(self.method_key)
        places = self.variant.places if self.variant_id and self.variant else ()
        return replace(found, places=places) if places else found

    @property
    def spends(self) -> bool:
        """Whether a specimen is usually spent by it: as it says, else as its method does."""
        return self.method.destroys if self.destroys is None else self.destroys

    @property
    def geometry(self) -> SpecimenType:
        """The core's geometry of what is printed: a published type, or the workshop's own."""
        return self.variant.geometry if self.variant else specimen_type(self.specimen_type)

    @property
    def facts(self) -> ProcedureFacts:
        """What makes its results comparable."""
        speed = f"{in_unit(self.speed, 'speed', 'mm/min'):g} mm/min" if self.speed else ""
        return ProcedureFacts(
            self.method_key,
            self.orientation,
            self.geometry.key,
            speed=speed,
            conditioning=self.conditioning,
            parameters=self.parameter_words,
            reading_times=self.time_words,
            preload=f"preload {render(self.preload, 'force')}" if self.preload else "",
        )

    @property
    def parameter_words(self) -> str:
        """The fixed inputs in words: ``span 64 mm, notch none``."""
        fixed = [i for i in self.method.fixed if self.parameters.get(i.key) and i.key != "how"]
        return ", ".join(f"{i.label.lower()} {self.parameters[i.key]}" for i in fixed)

    @property
    def time_words(self) -> str:
        """The reading times in words: ``read at 1 s, 30 s, 1 min``."""
        return (
            "read at " + ", ".join(time_words(t) for t in self.reading_times)
            if self.reading_times
            else ""
        )

    @property
    def ranked_property(self) -> Property:
        """The property its results are ranked by: as it says, else the method's first."""
        return self.property_called(self.ranked_by or self.method.results[0].property)

    def property_called(self, key: str) -> Property:
        """A property of its results by key."""
        return own_property(self.parameters) if self.method.own_property else PROPERTIES[key]

    @property
    def reading(self) -> Input:
        """What the bench asks for in large: the reading its ranked property rests on."""
        return self.method.reading_for(self.ranked_property.key)

    @property
    def comparability_key(self) -> str:
        """Equal exactly when two procedures' results may stand in one ranking."""
        return comparability_key(self.facts)

    @property
    def summary(self) -> str:
        """Orientation and speed, for a column head."""
        facts = self.facts
        return " · ".join(filter(None, [self.orientation, facts.speed, facts.reading_times]))
