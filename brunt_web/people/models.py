"""Workshops and who works in them."""

from secrets import randbelow, token_urlsafe
from uuid import uuid4

from django.conf import settings
from django.contrib.postgres.functions import RandomUUID
from django.db import models
from django.db.models.functions import Now
from django.dispatch import Signal

from brunt_core.identifiers import SHORT_ONES
from brunt_web.interface.instrument_tokens import PRIVATE
from brunt_web.interface.ways import DATE_FORMS
from brunt_web.people.roles import OWNER, ROLES


def _first_id() -> int:
    return randbelow(SHORT_ONES)


class Workshop(models.Model):
    """Those who share materials, campaigns and rigs. IDs count up within a workshop.

    ``first_id`` is where its sequence of specimen IDs begins, another for each workshop; ``uuid``
    names it in forms, labels, packages and exports.
    """

    uuid = models.UUIDField(default=uuid4, db_default=RandomUUID(), editable=False)
    name = models.CharField(max_length=120, unique=True)
    first_id = models.PositiveIntegerField(default=_first_id, db_default=0)
    currency = models.CharField(max_length=8, default="€")
    next_specimen = models.PositiveIntegerField(default=0)
    invented = models.BooleanField(default=False)
    date_form = models.CharField(max_length=10, default="j M Y", choices=list(DATE_FORMS.items()))
    comma = models.BooleanField(default=False, help_text="decimals are written with a comma")
    idle_minutes = models.PositiveIntegerField(default=720, help_text="0: nobody is signed out")
    instrument_networks = models.CharField(max_length=400, default=PRIVATE, blank=True)
    created_at = models.DateTimeField(db_default=Now())

    class Meta:
        constraints = [models.UniqueConstraint(fields=["uuid"], name="workshop_uuid_once")]

    def __str__(self) -> str:
        return self.name


class SecondFactor(models.Model):
    """A person's authenticator app and recovery codes: what is asked besides the password.

    ``secret`` is base32; ``step`` the last 30 s step of which a code was used, so that none counts twice; ``codes``
    are hashes of recovery codes not used yet; ``failed`` how often it was wrong since ``failed_at``.
    """

    user = models.OneToOneField(settings.AUTH_USER_MODEL, models.CASCADE, related_name="second_factor")  # fmt: skip
    secret = models.CharField(max_length=64)
    confirmed_at = models.DateTimeField(null=True, blank=True)
    step = models.BigIntegerField(default=0)
    codes = models.JSONField(default=list, blank=True)
    failed = models.PositiveIntegerField(default=0)
    failed_at = models.DateTimeField(null=True, blank=True)


class Passkey(models.Model):
    """A key that a device of a person's keeps: what may be asked besides the password instead of a code."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="passkeys")
    name = models.CharField(max_length=60)
    credential = models.BinaryField(unique=True)
    public_key = models.BinaryField()
    sign_count = models.BigIntegerField(default=0)
    made_at = models.DateTimeField(db_default=Now())
    used_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["made_at"]

    def __str__(self) -> str:
        return self.name


class House(models.Model):
    """What the hosts on one database share: a mark that lies in the storage and one of the secret. One row."""

    storage = models.CharField(max_length=80)
    secret = models.CharField(max_length=80)


founded = Signal()


class Seat(models.Model):
    """A person's place in a workshop: what they are called there, and what they may do.

    ``elsewhere`` keeps what they may do in the workshops where they are not sitting now, by key.
    """

    user = models.OneToOneField(settings.AUTH_USER_MODEL, models.CASCADE, related_name="seat")
    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="seats")
    role = models.CharField(max_length=60, default="bench lead")
    rights = models.CharField(max_length=10, default=OWNER, choices=[(r, r) for r in ROLES])
    elsewhere = models.JSONField(default=dict, blank=True)
    single_keys = models.BooleanField(
        default=True, help_text="whether a letter alone acts on a page"
    )
    also = models.ManyToManyField(Workshop, blank=True, related_name="+", help_text="which other workshops they may switch to")  # fmt: skip

    def __str__(self) -> str:
        return f"{self.role} in {self.workshop}"

    def rights_in(self, workshop: Workshop) -> str:
        """What they may do in a workshop they belong to, sitting there or not."""
        if self.workshop_id == workshop.pk:
            return self.rights
        return str(self.elsewhere.get(str(workshop.pk), OWNER))

    @property
    def others(self) -> bool:
        """Whether they belong to more workshops than the one they sit in."""
        return self.also.exclude(pk=self.workshop_id).exists()


def _token() -> str:
    return token_urlsafe(24)


class Invitation(models.Model):
    """A link by which one person joins a workshop, once, until a day."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="invitations")
    rights = models.CharField(max_length=10, choices=[(r, r) for r in ROLES])
    token = models.CharField(max_length=64, unique=True, default=_token)
    until = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    made_at = models.DateTimeField(db_default=Now())
    used_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.SET_NULL, null=True, blank=True, related_name="+"
    )
    taken_back_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-made_at"]

    def __str__(self) -> str:
        return f"invitation as {self.rights} to {self.workshop}"
