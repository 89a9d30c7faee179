"""What takes longer than a page may: a form that was sent, worked on by the worker, and its answer."""

from datetime import datetime, timedelta
from uuid import uuid4

from django.contrib.auth.models import User
from django.db import models

from brunt_core.quantities.rendering import number
from brunt_web.people.models import Workshop

WAITING, RUNNING, DONE = "waiting", "running", "done"
REFUSED, CANCELLED, FAILED = "refused", "cancelled", "failed"
# A worker says each 2 s that it is at a job; after so long it is lost, and the job is taken up again.
SILENT, LOST = timedelta(seconds=6), timedelta(seconds=15)
MOST_ATTEMPTS = 3
OPEN = (WAITING, RUNNING)
STATES = {
    WAITING: "queued",
    RUNNING: "running",
    DONE: "done",
    REFUSED: "refused",
    CANCELLED: "cancelled",
    FAILED: "failed",
}
# What of the request's head the view may look at.
SENT_HEADERS = ("X-Part", "HX-Request", "Accept", "Referer", "Sec-Fetch-Mode")


class Job(models.Model):
    """A form sent to an address, kept until the worker has answered it, and for a while after."""

    id = models.UUIDField(primary_key=True, default=uuid4, editable=False)
    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="jobs")
    by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    title = models.CharField(max_length=200)
    path = models.CharField(max_length=500)
    query = models.TextField(blank=True)
    post = models.JSONField(default=list)
    headers = models.JSONField(default=dict)
    back = models.CharField(max_length=500, default="/")
    state = models.CharField(max_length=10, default=WAITING, choices=list(STATES.items()))
    done = models.BigIntegerField(default=0)
    total = models.BigIntegerField(default=0)
    unit = models.CharField(max_length=40, blank=True)
    words = models.CharField(max_length=400, blank=True)
    cancel = models.BooleanField(default=False)
    attempts = models.PositiveSmallIntegerField(default=0)
    created_at = models.DateTimeField()
    begun_at = models.DateTimeField(null=True, blank=True)
    seen_at = models.DateTimeField(null=True, blank=True)
    ended_at = models.DateTimeField(null=True, blank=True)
    peak_mb = models.PositiveIntegerField(default=0)
    status = models.PositiveSmallIntegerField(default=0)
    answer_headers = models.JSONField(default=dict)
    answer = models.BinaryField(default=b"")
    told = models.JSONField(default=list)

    class Meta:
        ordering = ("-created_at",)
        indexes = [models.Index(fields=["workshop", "-created_at"])]

    def __str__(self) -> str:
        return self.title

    @property
    def over(self) -> bool:
        """Whether nothing more happens to it."""
        return self.state not in OPEN

    def silent(self, now: datetime) -> bool:
        """Whether it is running by a worker that has not been heard of for a while: it is taken up again soon."""
        return self.state == RUNNING and self.seen_at is not None and now - self.seen_at > SILENT

    @property
    def percent(self) -> int | None:
        """How far it is; ``None`` where that is not known."""
        return min(100, 100 * self.done // self.total) if self.total else None

    @property
    def took(self) -> str:
        """How long it was worked on, in s or min."""
        if self.begun_at is None or self.ended_at is None:
            return ""
        seconds = (self.ended_at - self.begun_at).total_seconds()
        return f"{number(seconds, '.1f')} s" if seconds < 90 else f"{seconds / 60:.0f} min"


class JobFile(models.Model):
    """A file that came with the form; deleted when the job is over."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="files")
    field = models.CharField(max_length=80)
    name = models.CharField(max_length=255)
    kind = models.CharField(max_length=120, blank=True)
    size = models.BigIntegerField()
    stored = models.CharField(max_length=255)

    def __str__(self) -> str:
        return self.name
