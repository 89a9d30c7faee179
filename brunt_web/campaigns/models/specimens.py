"""What is made to answer a question: specimens, their turns at procedures, their histories."""

from dataclasses import replace
from uuid import uuid4

from django.conf import settings
from django.contrib.postgres.functions import RandomUUID
from django.db import models
from django.db.models import Q
from django.db.models.functions import Now

from brunt_core.comparability import ProcedureFacts, comparability_key
from brunt_core.planning.deviations import speed_words
from brunt_core.specimens.types import SpecimenType, specimen_type
from brunt_web.campaigns import addresses
from brunt_web.campaigns.models.plans import Campaign, Condition
from brunt_web.campaigns.recorded import (
    DEVIATION_KEYS,
    MADE_KEYS,
    STEP_KEYS,
    TESTED_KEYS,
    MadeAs,
    OutstandingStep,
    RecordedDeviation,
    TestedAs,
)
from brunt_web.interface.records import (
    ItemsWithOnlyKeys,
    OnlyKeys,
    RecordField,
    RecordsField,
)
from brunt_web.library.models import Procedure, Rig
from brunt_web.library.parts import own_type
from brunt_web.people.models import Workshop


class MadeAsField(RecordField):
    """What a specimen was made as."""

    record = MadeAs


class OutstandingStepsField(RecordsField):
    """What a specimen needs before its test."""

    record = OutstandingStep


class DeviationsField(RecordsField):
    """Where a specimen departs from its plan."""

    record = RecordedDeviation


class TestedAsField(RecordField):
    """How a test was really done."""

    record = TestedAs


class Specimen(models.Model):
    """One thing with an ID, its tests in a fixed order, and a history.

    Its state columns are written by ``history`` alone: ``made`` (planned, made, failed), how, when and
    as what; ``outstanding_steps`` what it needs before its test; ``ready_at`` when it is old enough; ``spent`` by
    a test; ``lies_in`` the run that is on and holds it, in words; ``deviations`` from the plan in
    words. ``own_id`` is what its tester calls it; ``uuid`` names it wherever its ID could be taken
    for that of another workshop's.
    """

    uuid = models.UUIDField(default=uuid4, db_default=RandomUUID(), editable=False)
    workshop = models.ForeignKey(Workshop, models.CASCADE)
    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="specimens")
    condition = models.ForeignKey(Condition, models.CASCADE, related_name="specimens")
    procedure = models.ForeignKey(Procedure, models.PROTECT, related_name="specimens")
    code = models.CharField(max_length=7)
    own_id = models.CharField(max_length=80, blank=True, db_index=True)
    replicate = models.PositiveSmallIntegerField()
    spare = models.BooleanField(default=False)
    replaces = models.OneToOneField(
        "self", models.SET_NULL, null=True, blank=True, related_name="replaced_by"
    )
    note = models.TextField(blank=True)
    made = models.CharField(max_length=10, default="planned", db_index=True)
    made_how = models.CharField(max_length=60, blank=True)
    made_at = models.DateTimeField(null=True, blank=True)
    made_as = MadeAsField(default=MadeAs, blank=True)
    defects = models.JSONField(default=list, blank=True)
    outstanding_steps = OutstandingStepsField(default=tuple, blank=True)
    outstanding = models.CharField(max_length=20, default="making", blank=True)
    ready_at = models.DateTimeField(null=True, blank=True)
    spent = models.BooleanField(default=False)
    treated = models.BooleanField(default=False)
    lies_in = models.CharField(max_length=160, blank=True, default="")
    deviations = DeviationsField(default=tuple, blank=True)

    class Meta:
        ordering = ["condition_id", "replicate", "id"]
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "code"], name="specimen_code_once_a_workshop"
            ),
            models.UniqueConstraint(
                fields=["uuid", "workshop"], name="specimen_uuid_once_a_workshop"
            ),
            models.UniqueConstraint(
                fields=["condition", "procedure", "replicate"], name="replicate_once"
            ),
            models.CheckConstraint(
                condition=Q(made__in=["planned", "made", "failed"]), name="made_is_a_state"
            ),
            models.CheckConstraint(
                condition=OnlyKeys("made_as", keys=MADE_KEYS), name="made_as_has_its_keys"
            ),
            models.CheckConstraint(
                condition=ItemsWithOnlyKeys("outstanding_steps", keys=STEP_KEYS),
                name="outstanding_steps_have_their_keys",
            ),
            models.CheckConstraint(
                condition=ItemsWithOnlyKeys("deviations", keys=DEVIATION_KEYS),
                name="deviations_have_their_keys",
            ),
        ]

    def __str__(self) -> str:
        return self.code

    @property
    def address(self) -> str:
        """Its page."""
        return addresses.specimen_address(self.code)

    @property
    def geometry(self) -> SpecimenType:
        """What is made: the design its condition asks for, else what its procedure tests."""
        return geometry_asked(self.condition, self.procedure)

    @property
    def orientation(self) -> str:
        """How it stands on the plate."""
        return self.condition.requirements.orientation or self.procedure.orientation


def geometry_asked(condition: Condition, procedure: Procedure) -> SpecimenType:
    """The geometry of a condition under a procedure."""
    design = condition.requirements.design
    if design is None:
        return procedure.geometry
    if design.shape:
        own = int(design.key.removeprefix("own-"))
        return own_type(own, design.what, design.shape, design.sizes, design.part)
    return specimen_type(design.key)


class Turn(models.Model):
    """A specimen's turn at a procedure: its place in the test order, and how it stands.

    ``state`` is waiting, running, read, held, broken, void, or gone (spent before it came to it).
    ``step`` counts the tests of one specimen from 0; ``open`` says that the earlier ones are done.
    What was set for it (``speed``, ``conditioning``) comes from its levels, else its procedure.
    ``tested_as`` is how it was really done; state columns are written by ``history`` alone.
    """

    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="turns")
    condition = models.ForeignKey(Condition, models.CASCADE, related_name="turns")
    procedure = models.ForeignKey(Procedure, models.PROTECT, related_name="turns")
    specimen = models.ForeignKey(Specimen, models.CASCADE, related_name="turns")
    step = models.PositiveSmallIntegerField(default=0)
    open = models.BooleanField(default=True)
    run_order = models.PositiveIntegerField()
    skips = models.PositiveSmallIntegerField(default=0)
    speed = models.FloatField(null=True, blank=True, help_text="m/s")
    conditioning = models.CharField(max_length=120, blank=True)
    state = models.CharField(max_length=10, default="waiting", db_index=True)
    outcome = models.CharField(max_length=20, blank=True)
    place = models.CharField(max_length=30, blank=True)
    excluded = models.BooleanField(default=False)
    excluded_because = models.CharField(max_length=300, blank=True)
    stated = models.BooleanField(default=False)
    reading_outstanding = models.BooleanField(
        default=False, help_text="tested, reading to be entered later"
    )
    untimely = models.CharField(max_length=300, blank=True)
    spends = models.BooleanField(default=False)
    tested_at = models.DateTimeField(null=True, blank=True)
    tested_as = TestedAsField(default=TestedAs, blank=True)
    rig = models.ForeignKey(
        Rig,
        models.PROTECT,
        null=True,
        blank=True,
        related_name="+",
        help_text="instead of its procedure's",
    )
    in_hand_of = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.SET_NULL, null=True, blank=True, related_name="+"
    )
    in_hand_since = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["run_order", "id"]
        indexes = [
            models.Index(fields=["campaign", "procedure", "state"]),
            # What the library counts is read from this alone.
            models.Index(fields=["condition", "procedure", "state", "tested_at"]),
            models.Index(fields=["tested_at"]),
            models.Index(fields=["procedure", "tested_at"]),
        ]
        constraints = [
            models.UniqueConstraint(
                fields=["specimen", "procedure"],
                name="one_turn_a_procedure",
                deferrable=models.Deferrable.DEFERRED,
            ),
            models.UniqueConstraint(
                fields=["specimen", "step"],
                name="one_turn_a_step",
                deferrable=models.Deferrable.DEFERRED,
            ),
            models.UniqueConstraint(
                fields=["specimen"], condition=Q(spends=True), name="spent_by_one_test"
            ),
            models.CheckConstraint(
                condition=Q(
                    state__in=["waiting", "running", "read", "held", "broken", "void", "gone"]
                ),
                name="turn_state_is_one",
            ),
            models.CheckConstraint(
                condition=OnlyKeys("tested_as", keys=TESTED_KEYS), name="tested_as_has_its_keys"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.code}, {self.procedure.name}"

    @property
    def code(self) -> str:
        """The specimen's ID."""
        return self.specimen.code

    @property
    def on_rig(self) -> Rig | None:
        """The rig it is tested on: its own, else its procedure's."""
        return self.rig if self.rig_id else self.procedure.rig

    @property
    def replicate(self) -> int:
        """Which of its condition's specimens it is."""
        return self.specimen.replicate

    @property
    def workshop_id(self) -> int:
        """The workshop it belongs to."""
        return self.specimen.workshop_id

    @property
    def done(self) -> bool:
        """Whether it has its test."""
        return self.state in ("read", "held", "broken", "void")

    @property
    def waits(self) -> bool:
        """Whether it can be tested as it is."""
        return self.state == "waiting" and self.open and not self.specimen.outstanding

    @property
    def address(self) -> str:
        """Where the bench takes it."""
        return addresses.bench_address(self.code, self.step)

    @property
    def at(self) -> str:
        """Its key in an address."""
        return addresses.turn_key(self.code, self.step)

    @property
    def step_text(self) -> str:
        """Its step as text."""
        return str(self.step)

    @property
    def base(self) -> str:
        """What the addresses of this turn begin with."""
        return self.address.removesuffix("bench/")

    @property
    def geometry(self) -> SpecimenType:
        """What is tested."""
        return geometry_asked(self.condition, self.procedure)

    @property
    def orientation(self) -> str:
        """How it stood on the plate."""
        return self.condition.requirements.orientation or self.procedure.orientation

    @property
    def facts(self) -> ProcedureFacts:
        """What makes its result comparable: its procedure's facts with its levels in them."""
        speed = speed_words(self.speed) if self.speed else ""
        return replace(
            self.procedure.facts,
            orientation=self.orientation,
            specimen_type=self.geometry.key,
            speed=speed,
            conditioning=self.conditioning,
        )

    @property
    def comparability_key(self) -> str:
        """Equal exactly when two tests may stand in one ranking."""
        return comparability_key(self.facts)


class HistoryEvent(models.Model):
    """One thing that happened to a specimen: when, when it was written down, who, and what.

    Never edited, but that a moment of sizes gathers those of one sitting; one that was undone is
    marked so and stays.
    """

    specimen = models.ForeignKey(Specimen, models.CASCADE, related_name="events")
    kind = models.CharField(max_length=20)
    at = models.DateTimeField()
    noted_at = models.DateTimeField(db_default=Now())
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)
    what = models.CharField(max_length=400)
    detail = models.JSONField(default=dict, blank=True)
    undone_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["at", "id"]
        indexes = [models.Index(fields=["specimen", "kind"])]

    def __str__(self) -> str:
        return f"{self.kind}: {self.what}"
