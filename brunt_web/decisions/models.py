"""What a part must carry, and what was chosen for it."""

from django.conf import settings
from django.db import models
from django.db.models.functions import Now

from brunt_web.campaigns.models import Campaign, Condition

MODES = {
    "bending": "bent between two supports",
    "cantilever": "bent, one end held",
    "tension": "pulled",
    "torsion": "twisted",
    "shear": "a pin, sheared",
    "thread": "held by a screw",
    "blow": "struck",
    "part": "as tested on the part",
}
DIRECTIONS = {"along": "along the layers", "across": "across the layers"}


class LoadCase(models.Model):
    """A part and its load. ``typed`` holds every quantity as it was typed, by field.

    ``sure`` says how the load is known, how it comes and what a failure does; ``version`` counts the
    changes, so that of two at once the second sees what the first did.
    """

    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="load_cases")
    name = models.CharField(max_length=80)
    mode = models.CharField(max_length=12, choices=list(MODES.items()), default="cantilever")
    direction = models.CharField(max_length=8, choices=list(DIRECTIONS.items()), default="along")
    typed = models.JSONField(default=dict, blank=True)
    sure = models.JSONField(default=dict, blank=True)
    chosen = models.ForeignKey(Condition, models.SET_NULL, null=True, blank=True, related_name="+")
    chosen_because = models.CharField(max_length=300, blank=True)
    version = models.PositiveIntegerField(default=1)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    changed_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    created_at = models.DateTimeField(db_default=Now())
    changed_at = models.DateTimeField()
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["created_at", "id"]
        verbose_name_plural = "load cases"

    def __str__(self) -> str:
        return self.name
