"""A question, what is varied to answer it, and what gets compared."""

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.db.models.functions import Now

from brunt_web.campaigns.requirements import REQUIREMENT_KEYS, Requirements
from brunt_web.interface.records import OnlyKeys, RecordField
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
    cv = models.FloatField(null=True, blank=True)
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


class RequirementsField(RecordField):
    """What a condition requires."""

    record = Requirements


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
    requirements = RequirementsField(
        default=Requirements, blank=True, help_text="what its levels require"
    )

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(
                fields=["campaign", "label", "detail"], name="condition_once_a_campaign"
            ),
            models.CheckConstraint(
                condition=OnlyKeys("requirements", keys=REQUIREMENT_KEYS),
                name="requirements_have_their_keys",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.label}, {self.detail}" if self.detail else self.label

    @property
    def level_words(self) -> dict[str, str]:
        """Its levels by the name of their factor, in lower case."""
        return {x.factor.name.lower(): x.label for x in self.levels.select_related("factor")}


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
