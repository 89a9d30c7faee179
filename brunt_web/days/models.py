"""What the schedule keeps: working hours, jobs of one's own, where jobs are placed, calendar feeds."""

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.db.models.functions import Now

from brunt_web.people.models import Workshop

WEEK = [["09:00", "12:30"], ["13:30", "17:30"]]


def usual_hours() -> dict[str, list[list[str]]]:
    """Monday to Friday, with a break at noon."""
    return {str(day): [list(s) for s in WEEK] if day < 5 else [] for day in range(7)}


class Hours(models.Model):
    """Working hours: by day of the week from Monday, 0, in the workshop's zone; and how many."""

    workshop = models.OneToOneField(Workshop, models.CASCADE, related_name="hours")
    zone = models.CharField(max_length=40)
    week = models.JSONField(default=usual_hours)
    people = models.PositiveSmallIntegerField(default=2)

    class Meta:
        constraints = [models.CheckConstraint(condition=Q(people__gte=1), name="somebody_is_there")]


class OwnJob(models.Model):
    """Something of one's own to be fitted in."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="own_jobs")
    label = models.CharField(max_length=80)
    lane = models.CharField(max_length=30, default="hands")
    minutes = models.PositiveIntegerField()
    attended = models.BooleanField(default=True)
    not_before = models.DateTimeField(null=True, blank=True)
    due = models.DateTimeField(null=True, blank=True)
    done_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(condition=Q(minutes__gte=1), name="own_job_takes_time")
        ]

    def __str__(self) -> str:
        return self.label


class Placement(models.Model):
    """Where a job of the plan starts; ``pinned`` ones stay when the plan is made again."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="placements")
    key = models.CharField(max_length=40)
    start = models.DateTimeField()
    was = models.DateTimeField(null=True, blank=True)
    pinned = models.BooleanField(default=False)
    planned_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workshop", "key"], name="job_placed_once")]


class Feed(models.Model):
    """A calendar address of somebody's: whoever knows it reads the plan, until it is revoked."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="feeds")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    token = models.CharField(max_length=64, unique=True)
    created_at = models.DateTimeField(db_default=Now())
    revoked_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-created_at"]
