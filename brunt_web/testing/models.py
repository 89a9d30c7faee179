"""Measurements, tests and readings."""

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.db.models.functions import Now

from brunt_web.campaigns.models import HistoryEvent, Specimen, Turn
from brunt_web.library.models import Procedure, Rig
from brunt_web.people.models import Workshop


class Measurement(models.Model):
    """A size or mass of a specimen at one moment of its history: the text as typed and the mean in SI."""

    moment = models.ForeignKey(HistoryEvent, models.CASCADE, related_name="measurements")
    key = models.CharField(max_length=30)
    text = models.CharField(max_length=120)
    value = models.FloatField()
    uncertainty = models.FloatField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["moment", "key"], name="measurement_once"),
            models.CheckConstraint(
                condition=Q(value__gt=0) | Q(value=0, key="bow"), name="measurement_positive"
            ),
        ]


class Test(models.Model):
    """What came of a specimen's turn at a procedure. ``entry_key`` makes a second arrival harmless.

    ``assumed`` are sizes as drawn or as of the batch, used because none was measured;
    ``speed`` in m/s is the rig's as it was noted; ``untimely`` why it was tested while it was not ready.
    """

    turn = models.OneToOneField(Turn, models.PROTECT, related_name="test")
    entry_key = models.UUIDField(unique=True)
    outcome = models.CharField(max_length=20)
    place = models.CharField(max_length=30, blank=True)
    mode = models.CharField(max_length=40, blank=True)
    answers = models.JSONField(default=list, blank=True)
    reason = models.CharField(max_length=300, blank=True)
    note = models.TextField(blank=True)
    excluded = models.BooleanField(default=False)
    exclusion_reason = models.CharField(max_length=300, blank=True)
    stated = models.BooleanField(default=False)
    speed = models.FloatField(null=True, blank=True)
    untimely = models.CharField(max_length=300, blank=True)
    assumed = models.JSONField(default=dict, blank=True, help_text="sizes that were not measured")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField()
    recorded_at = models.DateTimeField(db_default=Now())

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=~Q(outcome="void") | ~Q(reason=""), name="void_has_reason"
            ),
            models.CheckConstraint(
                condition=Q(excluded=False) | ~Q(exclusion_reason=""), name="exclusion_has_reason"
            ),
        ]


class SpentEntryKey(models.Model):
    """The key of an entry that was undone or corrected: arriving late once more, it changes nothing."""

    key = models.UUIDField(primary_key=True)
    turn = models.ForeignKey(Turn, models.CASCADE, related_name="+")
    at = models.DateTimeField(db_default=Now())


class Reading(models.Model):
    """One number as read: text, unit, and its bounds in SI."""

    test = models.ForeignKey(Test, models.CASCADE, related_name="readings")
    key = models.CharField(max_length=30)
    text = models.TextField()
    unit = models.CharField(max_length=30, blank=True)
    unit_assumed = models.BooleanField(default=False)
    lower = models.FloatField(null=True)
    upper = models.FloatField(null=True)
    uncertainty = models.FloatField()
    elapsed = models.FloatField(null=True, help_text="s after the start, when it was really taken")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["test", "key"], name="reading_once")]


class Clock(models.Model):
    """A test with set reading times that has begun: it runs on whatever happens to page or server."""

    turn = models.OneToOneField(Turn, models.CASCADE, related_name="clock")
    started_at = models.DateTimeField()
    load_step = models.CharField(max_length=30, blank=True)
    passed = models.JSONField(
        default=list, blank=True, help_text="[input, load step, due] given up"
    )
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)


class DayReading(models.Model):
    """What belongs to a rig and a day, as read before a series: several readings in one text."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="+")
    procedure = models.ForeignKey(Procedure, models.CASCADE, related_name="+")
    rig = models.ForeignKey(Rig, models.CASCADE, null=True, blank=True, related_name="+")
    key = models.CharField(max_length=30)
    text = models.CharField(max_length=120)
    at = models.DateTimeField(db_index=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)

    class Meta:
        ordering = ["at", "id"]


class TimedReading(models.Model):
    """One reading of a running test: when it was due, when it was really taken, as typed and in SI."""

    turn = models.ForeignKey(Turn, models.CASCADE, related_name="timed_readings")
    entry_key = models.UUIDField(unique=True)
    key = models.CharField(max_length=30)
    load_step = models.CharField(max_length=30, blank=True)
    due = models.FloatField()
    elapsed = models.FloatField()
    text = models.CharField(max_length=120)
    value = models.FloatField()
    taken_at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)

    class Meta:
        ordering = ["taken_at", "id"]
        constraints = [
            models.UniqueConstraint(
                fields=["turn", "key", "load_step", "due"], name="timed_reading_once"
            ),
            models.CheckConstraint(condition=Q(elapsed__gte=0), name="elapsed_not_negative"),
        ]


class Curve(models.Model):
    """A load–displacement curve as imported: the points in SI, compressed, and the picks moved by hand."""

    turn = models.OneToOneField(Turn, models.CASCADE, related_name="curve")
    name = models.CharField(max_length=120)
    data = models.BinaryField()
    points = models.PositiveIntegerField()
    picks = models.JSONField(default=dict, blank=True)
    notes = models.JSONField(default=list, blank=True)
    without_spikes = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField()


class AskedCurve(models.Model):
    """A file that can be read in more than one way, or holds several pulls, kept until the tester has said.

    ``way`` is how its columns are read, where that was said already.
    """

    turn = models.OneToOneField(Turn, models.CASCADE, related_name="asked_curve")
    name = models.CharField(max_length=120)
    way = models.CharField(max_length=40, blank=True)
    content = models.BinaryField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField()


class Photo(models.Model):
    """A picture of a specimen: checked, re-encoded without metadata, kept outside the static tree."""

    specimen = models.ForeignKey(Specimen, models.CASCADE, related_name="photos")
    file = models.CharField(max_length=80)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    caption = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "id"]


class PictureReading(models.Model):
    """Something picked on a photo: a scale, a length, an angle, an outline; picks in its pixels.

    ``text`` is what a scale's two picks are apart; ``value`` and ``uncertainty`` of the rest in SI, as
    they came to when the picks were last moved.
    """

    photo = models.ForeignKey(Photo, models.CASCADE, related_name="readings")
    kind = models.CharField(max_length=10)
    name = models.CharField(max_length=60, blank=True)
    picks = models.JSONField(default=list)
    text = models.CharField(max_length=60, blank=True)
    value = models.FloatField(null=True)
    uncertainty = models.FloatField(null=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField()

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(kind__in=["scale", "length", "angle", "area"]), name="picture_kind"
            )
        ]


class DismissedCaution(models.Model):
    """A person has read a method's cautions, as they stood in one version."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    method_key = models.CharField(max_length=40)
    version = models.PositiveSmallIntegerField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["user", "method_key", "version"], name="dismissed_once")
        ]
