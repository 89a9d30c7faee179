"""Personal tokens."""

from datetime import date

from django.conf import settings
from django.db import models
from django.db.models.functions import Now

from brunt_web.people.expiring_links import closed_on
from brunt_web.people.models import Workshop


class Token(models.Model):
    """A key for programs to read what its person can read, in one workshop. Only its digest is kept."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="tokens")
    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="+")
    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64, unique=True)
    tail = models.CharField(max_length=6)
    until = models.DateField(null=True, blank=True)
    made_at = models.DateTimeField(db_default=Now())
    used_at = models.DateTimeField(null=True, blank=True)
    revoked_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-made_at", "-id"]

    def __str__(self) -> str:
        return f"{self.name} (…{self.tail})"

    def closed_on(self, today: date) -> str:
        """Why it opens nothing on that day; nothing where it does."""
        return closed_on("token", self.revoked_at, self.until, today)
