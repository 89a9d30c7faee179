"""A question and what is made to answer it."""

from dataclasses import replace

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.db.models.functions import Now

from brunt_core.comparability import ProcedureFacts, comparability_key
from brunt_core.planning.deviations import speed_words
from brunt_core.specimens.types import SpecimenType, make_type, specimen_type
from brunt_web.library.models import (
    Lot,
    Material,
    Printer,
    Procedure,
    Recipe,
    SpecimenVariant,
)
from brunt_web.people.models import Workshop


class Campaign(models.Model):
    """A question, its factors, procedures and replicates."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="campaigns")
    question = models.CharField(max_length=200)
    replicates = models.PositiveSmallIntegerField(default=5)
    confidence = models.FloatField(default=0.95)
    seed = models.PositiveIntegerField(default=1)
    procedures = models.ManyToManyField(Procedure, through="CampaignProcedure")
    reference = models.ForeignKey(
        "Condition", models.SET_NULL, null=True, blank=True, related_name="+"
    )
    shape = models.CharField(max_length=20, default="rank")
    design = models.CharField(max_length=20, default="full")
    recipe = models.ForeignKey(Recipe, models.PROTECT, null=True, blank=True, related_name="+")
    printer = models.ForeignKey(Printer, models.PROTECT, null=True, blank=True, related_name="+")
    scatter = models.FloatField(null=True, blank=True)
    wanted = models.FloatField(null=True, blank=True)
    power = models.FloatField(default=0.8)
    loss = models.FloatField(default=0)
    spares = models.PositiveSmallIntegerField(default=0)
    notes = models.JSONField(default=list)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(db_default=Now())
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-created_at", "-id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(replicates__gte=1, replicates__lte=100), name="replicates_1_to_100"
            ),
            models.CheckConstraint(
                condition=Q(confidence__gt=0, confidence__lt=1), name="confidence_0_to_1"
            ),
        ]

    def __str__(self) -> str:
        return self.question


class CampaignProcedure(models.Model):
    """A procedure's column in a campaign.

    With ``after`` it is done on the very specimens of another column, once that one is done.
    """

    campaign = models.ForeignKey(Campaign, models.CASCADE)
    procedure = models.ForeignKey(Procedure, models.PROTECT)
    position = models.PositiveSmallIntegerField()
    after = models.ForeignKey("self", models.SET_NULL, null=True, blank=True, related_name="+")

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(
                fields=["campaign", "procedure"], name="procedure_once_a_campaign"
            )
        ]


class BaseRecipe(models.Model):
    """The recipe that a material, a procedure, or both start from, before levels are put in."""

    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="base_recipes")
    material = models.ForeignKey(Material, models.PROTECT, null=True, blank=True)
    procedure = models.ForeignKey(Procedure, models.PROTECT, null=True, blank=True)
    recipe = models.ForeignKey(Recipe, models.PROTECT)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["campaign", "material", "procedure"],
                name="base_recipe_once",
                nulls_distinct=False,
            )
        ]


class Factor(models.Model):
    """Something varied on purpose."""

    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="factors")
    position = models.PositiveSmallIntegerField()
    kind = models.CharField(max_length=30)
    name = models.CharField(max_length=60)
    setting = models.CharField(max_length=40, blank=True)

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["campaign", "name"], name="factor_name_once_a_campaign")
        ]


class Level(models.Model):
    """One value of a factor; ``value`` in SI where it is a number."""

    factor = models.ForeignKey(Factor, models.CASCADE, related_name="levels")
    position = models.PositiveSmallIntegerField()
    label = models.CharField(max_length=80)
    value = models.FloatField(null=True, blank=True)
    material = models.ForeignKey(Material, models.PROTECT, null=True, blank=True)
    lot = models.ForeignKey(Lot, models.PROTECT, null=True, blank=True)
    specimen_type = models.CharField(max_length=40, blank=True)
    variant = models.ForeignKey(SpecimenVariant, models.PROTECT, null=True, blank=True)

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["factor", "label"], name="level_label_once_a_factor")
        ]


class Condition(models.Model):
    """One combination of levels: what gets compared."""

    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="conditions")
    position = models.PositiveSmallIntegerField()
    label = models.CharField(max_length=120)
    detail = models.CharField(max_length=160, blank=True)
    material = models.ForeignKey(Material, models.PROTECT, null=True, blank=True)
    lot = models.ForeignKey(Lot, models.PROTECT, null=True, blank=True)
    recipe = models.ForeignKey(Recipe, models.PROTECT, null=True, blank=True)
    levels = models.ManyToManyField(Level, related_name="conditions")
    asks = models.JSONField(default=dict, blank=True, help_text="what its levels ask for")

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(
                fields=["campaign", "label", "detail"], name="condition_once_a_campaign"
            )
        ]

    def __str__(self) -> str:
        return f"{self.label}, {self.detail}" if self.detail else self.label

    @property
    def level_words(self) -> dict[str, str]:
        """Its levels by the name of their factor, in lower case."""
        return {x.factor.name.lower(): x.label for x in self.levels.select_related("factor").all()}


class AcceptedConfounder(models.Model):
    """Something that differs and is not a factor, accepted for a written reason."""

    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="accepted")
    key = models.CharField(max_length=160)
    sentence = models.CharField(max_length=500)
    reason = models.CharField(max_length=300)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField(db_default=Now())

    class Meta:
        ordering = ["at"]
        constraints = [
            models.UniqueConstraint(fields=["campaign", "key"], name="confounder_accepted_once")
        ]


class Specimen(models.Model):
    """One thing with an ID, its tests in a fixed order, and a life.

    Its state columns are written by ``life`` alone: ``made`` (planned, made, failed), how, when and
    as what; ``owed`` what it needs before its test; ``ready_at`` when it is old enough; ``spent`` by
    a test; ``deviations`` from the plan in words.
    """

    workshop = models.ForeignKey(Workshop, models.CASCADE)
    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="specimens")
    condition = models.ForeignKey(Condition, models.CASCADE, related_name="specimens")
    procedure = models.ForeignKey(Procedure, models.PROTECT, related_name="specimens")
    code = models.CharField(max_length=6)
    replicate = models.PositiveSmallIntegerField()
    spare = models.BooleanField(default=False)
    replaces = models.OneToOneField(
        "self", models.SET_NULL, null=True, blank=True, related_name="replaced_by"
    )
    note = models.TextField(blank=True)
    made = models.CharField(max_length=10, default="planned", db_index=True)
    made_how = models.CharField(max_length=60, blank=True)
    made_at = models.DateTimeField(null=True, blank=True)
    made_as = models.JSONField(default=dict, blank=True)
    defects = models.JSONField(default=list, blank=True)
    owed = models.JSONField(default=list, blank=True)
    owes = models.CharField(max_length=20, default="making", blank=True)
    ready_at = models.DateTimeField(null=True, blank=True)
    spent = models.BooleanField(default=False)
    treated = models.BooleanField(default=False)
    deviations = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ["condition_id", "replicate", "id"]
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "code"], name="specimen_code_once_a_workshop"
            ),
            models.UniqueConstraint(
                fields=["condition", "procedure", "replicate"], name="replicate_once"
            ),
            models.CheckConstraint(
                condition=Q(made__in=["planned", "made", "failed"]), name="made_is_a_state"
            ),
        ]

    def __str__(self) -> str:
        return self.code

    @property
    def geometry(self) -> SpecimenType:
        """What is made: the design its condition asks for, else what its procedure tests."""
        return geometry_asked(self.condition, self.procedure)

    @property
    def orientation(self) -> str:
        """How it stands on the plate."""
        return self.condition.asks.get("orientation") or self.procedure.orientation


def geometry_asked(condition: Condition, procedure: Procedure) -> SpecimenType:
    """The geometry of a condition under a procedure."""
    design = condition.asks.get("design")
    if not design:
        return procedure.geometry
    if design["shape"]:
        return make_type(design["key"], design["what"], design["shape"], design["sizes"])
    return specimen_type(design["key"])


class Turn(models.Model):
    """A specimen's turn at a procedure: its place in the test order, and how it stands.

    ``state`` is waiting, running, read, held, broken, void, or gone (spent before it came to it).
    ``step`` counts the tests of one specimen from 0; ``open`` says that the earlier ones are done.
    What was set for it (``speed``, ``conditioning``) comes from its levels, else its procedure.
    ``tested_as`` is how it was really done; state columns are written by ``life`` alone.
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
    untimely = models.CharField(max_length=300, blank=True)
    spends = models.BooleanField(default=False)
    tested_at = models.DateTimeField(null=True, blank=True)
    tested_as = models.JSONField(default=dict, blank=True)
    in_hand_of = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.SET_NULL, null=True, blank=True, related_name="+"
    )
    in_hand_since = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["run_order", "id"]
        indexes = [
            models.Index(fields=["campaign", "procedure", "state"]),
            models.Index(fields=["condition", "procedure"]),
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
        ]

    def __str__(self) -> str:
        return f"{self.code}, {self.procedure.name}"

    @property
    def code(self) -> str:
        """The specimen's ID."""
        return self.specimen.code

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
        return self.state == "waiting" and self.open and not self.specimen.owes

    @property
    def address(self) -> str:
        """Where the bench takes it."""
        return f"{self.base}bench/"

    @property
    def step_text(self) -> str:
        """Its step as text."""
        return str(self.step)

    @property
    def base(self) -> str:
        """What the addresses of this turn begin with."""
        return f"/specimens/{self.code}/{f'{self.step + 1}/' if self.step else ''}"

    @property
    def geometry(self) -> SpecimenType:
        """What is tested."""
        return geometry_asked(self.condition, self.procedure)

    @property
    def orientation(self) -> str:
        """How it stood on the plate."""
        return self.condition.asks.get("orientation") or self.procedure.orientation

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


class LifeEvent(models.Model):
    """One thing that happened to a specimen: when, when it was written down, who, and what.

    Never edited, but that a moment of sizes gathers those of one sitting; one that was taken back is
    marked so and stays.
    """

    specimen = models.ForeignKey(Specimen, models.CASCADE, related_name="life")
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
