"""What a workshop has: materials, rigs, procedures."""

from django.db import models
from django.db.models import Q
from django.db.models.functions import Now

from brunt_core.comparability import ProcedureFacts, comparability_key
from brunt_core.methods.base import Method
from brunt_core.methods.registry import method
from brunt_core.plausibility.bands import FAMILIES
from brunt_core.quantities import in_unit
from brunt_core.specimens.tension_bars import TENSION_BARS
from brunt_web.people.models import Workshop

FORMS = {"filament": "filament", "resin": "resin", "pellet": "pellet or regrind"}


class Material(models.Model):
    """What was bought or mixed. Density in kg/m³, price per kg in the workshop's currency."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="materials")
    name = models.CharField(max_length=80)
    family = models.CharField(max_length=20, choices=[(f.key, f.name) for f in FAMILIES.values()])
    form = models.CharField(max_length=10, choices=list(FORMS.items()), default="filament")
    filler = models.CharField(max_length=60, blank=True)
    density = models.FloatField(null=True, blank=True)
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    note = models.TextField(blank=True)
    archived_at = models.DateTimeField(null=True, blank=True)
    created_at = models.DateTimeField(db_default=Now())

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], name="material_name_once_a_workshop"),
            models.CheckConstraint(condition=Q(density__isnull=True) | Q(density__gt=0), name="density_positive"),
            models.CheckConstraint(condition=Q(price__isnull=True) | Q(price__gte=0), name="price_not_negative"),
        ]

    def __str__(self) -> str:
        return self.name


class Rig(models.Model):
    """A device: capacity and resolution in the SI unit of ``dimension``, relative limit of error."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="rigs")
    name = models.CharField(max_length=80)
    dimension = models.CharField(max_length=20, default="force")
    capacity = models.FloatField(null=True, blank=True)
    resolution = models.FloatField(default=0)
    relative_error = models.FloatField(default=0.01)
    note = models.TextField(blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["workshop", "name"], name="rig_name_once_a_workshop")]

    def __str__(self) -> str:
        return self.name


class Procedure(models.Model):
    """A method with its parameters fixed. Results compare when their comparability keys agree."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="procedures")
    name = models.CharField(max_length=80)
    method_key = models.CharField(max_length=40)
    orientation = models.CharField(max_length=20)
    specimen_type = models.CharField(max_length=40)
    rig = models.ForeignKey(Rig, models.PROTECT, null=True, blank=True)
    speed = models.FloatField(null=True, blank=True, help_text="m/s")
    conditioning = models.CharField(max_length=120, blank=True)
    standard = models.CharField(max_length=200, blank=True)
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["workshop", "name"], name="procedure_name_once_a_workshop")]

    def __str__(self) -> str:
        return self.name

    @property
    def method(self) -> Method:
        """The core's definition of the method."""
        return method(self.method_key)

    @property
    def bar(self):
        """The core's geometry of the specimen type."""
        return TENSION_BARS[self.specimen_type]

    @property
    def facts(self) -> ProcedureFacts:
        """What makes its results comparable."""
        speed = f"{in_unit(self.speed, 'speed', 'mm/min'):g} mm/min" if self.speed else ""
        return ProcedureFacts(self.method_key, self.orientation, self.specimen_type, speed, self.conditioning)

    @property
    def comparability_key(self) -> str:
        """Equal exactly when two procedures' results may stand in one ranking."""
        return comparability_key(self.facts)

    @property
    def summary(self) -> str:
        """Orientation and speed, for a column head."""
        return " · ".join(filter(None, [self.orientation, self.facts.speed]))
