"""Results: what the readings of a test come to. This app alone reads and writes them."""

from django.db import models
from django.db.models import F, Q

from brunt_core.observations import Observation
from brunt_web.campaigns.models import Turn

# The one rule of what counts, for results and for whatever else belongs to a turn.
COUNTED = Q(turn__excluded=False)


class ResultQuerySet(models.QuerySet["Result"]):
    """Results, with the one rule of what counts."""

    def counted(self) -> "ResultQuerySet":
        """Those that count: a mean, a comparison or a chart is made of these and no others."""
        return self.filter(COUNTED)


class Result(models.Model):
    """One property from one turn in SI, with bounds: no lower is "at most", no upper "at least"."""

    turn = models.ForeignKey(Turn, models.CASCADE, related_name="results")
    property_key = models.CharField(max_length=40)
    lower = models.FloatField(null=True)
    upper = models.FloatField(null=True)
    uncertainty = models.FloatField(null=True)
    rounding = models.FloatField(
        null=True, help_text="the part of the uncertainty that is this specimen's own"
    )
    formula = models.CharField(max_length=200)
    source = models.CharField(max_length=300)
    steps = models.JSONField(default=list)
    at_time = models.FloatField(null=True, help_text="s after the start its last reading was taken")
    computed_by_version = models.CharField(max_length=20)

    objects = ResultQuerySet.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["turn", "property_key"], name="result_once"),
            models.CheckConstraint(
                condition=Q(lower__isnull=False) | Q(upper__isnull=False), name="result_has_a_bound"
            ),
            models.CheckConstraint(
                condition=Q(lower__isnull=True) | Q(upper__isnull=True) | Q(lower__lte=F("upper")),
                name="result_bounds_in_order",
            ),
        ]

    @property
    def observation(self) -> Observation:
        """The core's observation."""
        return Observation(self.lower, self.upper)
