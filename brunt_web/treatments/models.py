"""Vessels, the tester's own kinds, and runs with their steps, what lies in them, and their log."""

from typing import Any

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.db.models.functions import Now

from brunt_core.errors import InputError
from brunt_core.treatments.kind import Kind, composed
from brunt_core.treatments.kinds import KINDS
from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.library.models import Lot
from brunt_web.people.models import Workshop

VESSELS = {
    "oven": "oven",
    "bed": "heated bed",
    "bath": "bath",
    "freezer": "freezer",
    "chamber": "climate chamber",
    "lamp": "UV lamp",
    "box": "box",
    "room": "room, shelf",
    "place": "place outdoors or in sun",
}
PLANNED, RUNNING, DONE, STOPPED = "planned", "running", "done", "stopped"
FATES = {
    "lost": "lost: stuck, sagged or broken",
    "reprint": "lost, and another printed in its place",
    "control": "goes back as a control",
    "other": "kept for another test",
}


class Vessel(models.Model):
    """What things are treated in: how many specimens it takes at once, and the power it draws in W.

    ``each`` is how many it is filled by (those of a plate), ``room`` how that was said.
    """

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="vessels")
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=20, choices=list(VESSELS.items()))
    capacity = models.PositiveSmallIntegerField(default=12)
    each = models.PositiveSmallIntegerField(default=1)
    room = models.CharField(max_length=60, blank=True)
    watts = models.FloatField(null=True, blank=True)
    thermometer = models.CharField(max_length=20, blank=True)
    note = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["kind", "name"]
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "name"], name="vessel_name_once_a_workshop"
            ),
            models.CheckConstraint(condition=Q(capacity__gte=1), name="vessel_takes_one"),
        ]

    def __str__(self) -> str:
        return self.name


class OwnKind(models.Model):
    """A kind of treatment the workshop composed: its steps as plain data."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="own_kinds")
    name = models.CharField(max_length=80)
    event = models.CharField(max_length=12, default="treated")
    steps = models.JSONField(default=list)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "name"], name="own_kind_name_once_a_workshop"
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def kind(self) -> Kind:
        """The core's kind."""
        return composed(f"own-{self.pk}", self.name, tuple(self.steps), self.event)


class Run(models.Model):
    """Named specimens, or a lot, taken through the steps of a kind.

    ``what`` is what it is to the plan (the words of a level, or its own); ``texts`` the parameters
    as typed; ``accepted`` why it runs although something speaks against it.
    """

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="runs")
    campaign = models.ForeignKey(
        Campaign, models.CASCADE, null=True, blank=True, related_name="runs"
    )
    number = models.PositiveIntegerField()
    kind_key = models.CharField(max_length=30)
    own = models.ForeignKey(OwnKind, models.PROTECT, null=True, blank=True)
    event = models.CharField(max_length=12, default="treated")
    what = models.CharField(max_length=120)
    texts = models.JSONField(default=dict, blank=True)
    vessel = models.ForeignKey(Vessel, models.PROTECT, null=True, blank=True, related_name="runs")
    lot = models.ForeignKey(Lot, models.PROTECT, null=True, blank=True, related_name="runs")
    state = models.CharField(max_length=10, default=PLANNED, db_index=True)
    planned_for = models.DateTimeField(null=True, blank=True)
    started_at = models.DateTimeField(null=True, blank=True)
    ended_at = models.DateTimeField(null=True, blank=True)
    accepted = models.CharField(max_length=300, blank=True)
    note = models.CharField(max_length=300, blank=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(db_default=Now())

    class Meta:
        ordering = ["-created_at", "-id"]
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "number"], name="run_number_once_a_workshop"
            ),
            models.CheckConstraint(
                condition=Q(state__in=[PLANNED, RUNNING, DONE, STOPPED]), name="run_state_is_one"
            ),
        ]

    def __str__(self) -> str:
        return f"Run {self.number}: {self.what}"

    @property
    def kind(self) -> Kind:
        """What is done."""
        return self.own.kind if self.own else KINDS[self.kind_key]

    @property
    def values(self) -> dict[str, Any]:
        """The parameters in SI; nothing where they can no longer be read."""
        try:
            return dict(self.kind.read(self.texts))
        except InputError:
            return {}

    @property
    def heat(self) -> float | None:
        """The set temperature in K, where it has one."""
        value = self.values.get("temperature")
        return float(value) if isinstance(value, float) else None

    @property
    def gap(self) -> float:
        """How near the core must come to the set point, K."""
        value = self.values.get("gap")
        return float(value) if isinstance(value, float) and value > 0 else 10.0

    @property
    def open(self) -> bool:
        """Whether it holds its specimens."""
        return self.state in (PLANNED, RUNNING)


class RunStep(models.Model):
    """One step of a run as planned and as it went. Seconds planned, temperature in K."""

    run = models.ForeignKey(Run, models.CASCADE, related_name="steps")
    position = models.PositiveSmallIntegerField()
    key = models.CharField(max_length=20)
    label = models.CharField(max_length=80)
    order = models.CharField(max_length=80)
    ends = models.CharField(max_length=10)
    seconds = models.FloatField()
    heat = models.FloatField(null=True, blank=True)
    attended = models.BooleanField(default=False)
    started_at = models.DateTimeField(null=True, blank=True)
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["run_id", "position"]
        constraints = [
            models.UniqueConstraint(fields=["run", "position"], name="step_once_a_run"),
            models.CheckConstraint(
                condition=Q(ended_at__isnull=True) | Q(ended_at__gte=models.F("started_at")),
                name="step_ends_after_it_began",
            ),
        ]

    def __str__(self) -> str:
        return self.label


class Inside(models.Model):
    """One specimen in a run: where it lies, and what became of it when it was taken out early."""

    run = models.ForeignKey(Run, models.CASCADE, related_name="inside")
    specimen = models.ForeignKey(Specimen, models.CASCADE, related_name="runs")
    place = models.PositiveSmallIntegerField()
    out_at = models.DateTimeField(null=True, blank=True)
    fate = models.CharField(max_length=10, blank=True)
    reason = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["place"]
        constraints = [
            models.UniqueConstraint(fields=["run", "specimen"], name="specimen_once_a_run"),
        ]


class LogReading(models.Model):
    """One reading of a run: a temperature in K (core, oven), a humidity as a share, or the door.

    ``source`` is typed, file or thermometer.
    """

    run = models.ForeignKey(Run, models.CASCADE, related_name="log")
    what = models.CharField(max_length=10)
    at = models.DateTimeField()
    value = models.FloatField(null=True, blank=True)
    text = models.CharField(max_length=60, blank=True)
    source = models.CharField(max_length=12, default="typed")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)

    class Meta:
        ordering = ["at", "id"]
        indexes = [models.Index(fields=["run", "what", "at"])]
        constraints = [
            models.UniqueConstraint(fields=["run", "what", "at"], name="log_once_a_moment")
        ]
