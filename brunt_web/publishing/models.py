"""What stands in a report besides what was measured, and the links it is read by."""

from datetime import date

from django.conf import settings
from django.db import models
from django.db.models.functions import Now

from brunt_web.campaigns.models import Campaign
from brunt_web.people.expiring_links import closed_on
from brunt_web.people.queries import belongs
from brunt_web.testing.models import Photo


class Report(models.Model):
    """What its authors say in a campaign's report; everything else in it is read from the campaign."""

    campaign = models.OneToOneField(Campaign, models.CASCADE, related_name="report")
    summary = models.TextField(blank=True, max_length=4000)
    authors = models.CharField(max_length=200, blank=True)
    version = models.PositiveIntegerField(default=0)
    changed_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    changed_at = models.DateTimeField(null=True)


class ReportPhoto(models.Model):
    """A photo chosen for the report."""

    report = models.ForeignKey(Report, models.CASCADE, related_name="chosen")
    photo = models.ForeignKey(Photo, models.CASCADE, related_name="+")

    class Meta:
        ordering = ["photo__at", "photo_id"]
        constraints = [
            models.UniqueConstraint(fields=["report", "photo"], name="photo_once_a_report")
        ]


class ReportLink(models.Model):
    """A way in for readers without an account: whoever has the address reads, until it ends or is revoked.

    ``until`` is the last day it opens. With ``no_money`` no price and no note of a material or lot is told.
    """

    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="report_links")
    token = models.CharField(max_length=60, unique=True)
    name = models.CharField(max_length=80, blank=True)
    until = models.DateField(null=True, blank=True)
    no_money = models.BooleanField(default=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(db_default=Now())
    revoked_at = models.DateTimeField(null=True, blank=True)
    revoked_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    opened = models.PositiveIntegerField(default=0)
    opened_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-made_at", "-id"]

    def closed_on(self, today: date) -> str:
        """Why it does not open on that day; nothing where it does."""
        closed = closed_on("link", self.revoked_at, self.until, today)
        if not closed and not belongs(self.made_by, self.campaign.workshop):
            return "This link ended: its creator is no longer in the workshop."
        return closed
