"""Check standards and the phases of their charts."""

from django.conf import settings
from django.db import models
from django.db.models.functions import Now

from brunt_web.library.models import Material, Procedure
from brunt_web.people.models import Workshop


class CheckStandard(models.Model):
    """A reference material under a procedure: whatever is tested so, in whichever campaign, is a point."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="check_standards")
    name = models.CharField(max_length=80)
    material = models.ForeignKey(Material, models.PROTECT, related_name="+")
    procedure = models.ForeignKey(Procedure, models.PROTECT, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField(db_default=Now())
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], name="check_standard_name_once"),
            models.UniqueConstraint(
                fields=["workshop", "material", "procedure"], name="check_standard_once"
            ),
        ]

    def __str__(self) -> str:
        return self.name


class Phase(models.Model):
    """From this day on the level is another one, for a known reason: a repaired rig, a new lot."""

    check_standard = models.ForeignKey(CheckStandard, models.CASCADE, related_name="phases")
    starts_on = models.DateField()
    because = models.CharField(max_length=200)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField(db_default=Now())

    class Meta:
        ordering = ["starts_on"]
        constraints = [
            models.UniqueConstraint(fields=["check_standard", "starts_on"], name="phase_once_a_day")
        ]
