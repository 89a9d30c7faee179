"""Materials and their lots."""

from datetime import datetime, timedelta

from django.conf import settings
from django.db import models
from django.db.models import F, Q
from django.db.models.functions import Now

from brunt_core.plausibility.bands import FAMILIES
from brunt_web.people.models import Workshop

FORMS = {
    "filament": "filament",
    "resin": "resin",
    "pellet": "pellet or regrind",
    "stock": "board, bar or bought part",
}


class Material(models.Model):
    """What was bought or mixed. Density in kg/m³, price per kg in the workshop's currency."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="materials")
    name = models.CharField(max_length=80)
    family = models.CharField(max_length=20, choices=[(f.key, f.name) for f in FAMILIES.values()])
    form = models.CharField(max_length=10, choices=list(FORMS.items()), default="filament")
    filler = models.CharField(max_length=60, blank=True)
    density = models.FloatField(null=True, blank=True)
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    note = models.TextField(blank=True)
    archived_at = models.DateTimeField(null=True, blank=True)
    created_at = models.DateTimeField(db_default=Now())

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "name"], name="material_name_once_a_workshop"
            ),
            models.CheckConstraint(
                condition=Q(density__isnull=True) | Q(density__gt=0), name="density_positive"
            ),
            models.CheckConstraint(
                condition=Q(price__isnull=True) | Q(price__gte=0), name="price_not_negative"
            ),
        ]

    def __str__(self) -> str:
        return self.name


class Lot(models.Model):
    """One spool, bottle or bag. Masses in kg; ``price`` for the whole lot as bought."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="lots")
    material = models.ForeignKey(Material, models.CASCADE, related_name="lots")
    name = models.CharField(max_length=60)
    colour = models.CharField(max_length=40, blank=True)
    opened_at = models.DateTimeField(null=True, blank=True)
    bought = models.FloatField(null=True, blank=True)
    remaining = models.FloatField(null=True, blank=True)
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    note = models.TextField(blank=True)
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["material__name", "name"]
        constraints = [
            models.UniqueConstraint(fields=["material", "name"], name="lot_name_once_a_material"),
            models.CheckConstraint(
                condition=Q(remaining__isnull=True) | Q(remaining__gte=0),
                name="remaining_not_negative",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.material.name}, {self.name}"

    @property
    def price_per_kg(self) -> float | None:
        """From the lot's own price and mass, else the material's; ``None`` when unknown."""
        if self.price is not None and self.bought:
            return float(self.price) / self.bought
        return None if self.material.price is None else float(self.material.price)


class Drying(models.Model):
    """One drying of a lot: kelvin, seconds it is to last, kg before and after; running while no end is noted."""

    lot = models.ForeignKey(Lot, models.CASCADE, related_name="dryings")
    started_at = models.DateTimeField(null=True, blank=True)
    ended_at = models.DateTimeField(null=True, blank=True)
    temperature = models.FloatField()
    duration = models.FloatField()
    before = models.FloatField(null=True, blank=True)
    after = models.FloatField(null=True, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)

    class Meta:
        ordering = [F("ended_at").desc(nulls_first=True)]
        constraints = [
            models.CheckConstraint(
                condition=Q(started_at__isnull=False) | Q(ended_at__isnull=False),
                name="drying_starts_or_ends",
            ),
            models.CheckConstraint(
                condition=Q(started_at__isnull=True)
                | Q(ended_at__isnull=True)
                | Q(ended_at__gte=F("started_at")),
                name="drying_ends_after_it_starts",
            ),
        ]

    @property
    def due_at(self) -> datetime | None:
        """When a running one is to end."""
        if self.started_at is None or self.ended_at is not None:
            return None
        return self.started_at + timedelta(seconds=self.duration)


class Sealing(models.Model):
    """A lot in a sealed box or bag, with desiccant or not: these hours it takes up nothing."""

    lot = models.ForeignKey(Lot, models.CASCADE, related_name="sealings")
    since = models.DateTimeField()
    until = models.DateTimeField(null=True, blank=True)
    humidity = models.FloatField(null=True, blank=True, help_text="inside, a share of one")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)

    class Meta:
        ordering = ["-since"]
        constraints = [
            models.CheckConstraint(
                condition=Q(until__isnull=True) | Q(until__gte=F("since")),
                name="sealing_ends_after_it_starts",
            ),
            models.UniqueConstraint(
                fields=["lot"], condition=Q(until__isnull=True), name="one_sealing_open"
            ),
        ]


class BlendPart(models.Model):
    """So much of a lot in a blend of several; kg."""

    lot = models.ForeignKey(Lot, models.CASCADE, related_name="mixed_of")
    of = models.ForeignKey(Lot, models.PROTECT, related_name="mixed_into")
    mass = models.FloatField()

    class Meta:
        ordering = ["-mass"]
        constraints = [
            models.CheckConstraint(condition=Q(mass__gt=0), name="blend_part_positive"),
            models.CheckConstraint(condition=~Q(lot=F("of")), name="blend_of_others"),
        ]


class RoomAir(models.Model):
    """The room conditions as read: relative humidity as a share, temperature in K."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="air")
    at = models.DateTimeField()
    humidity = models.FloatField()
    temperature = models.FloatField(null=True, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)

    class Meta:
        ordering = ["-at"]
        constraints = [
            models.CheckConstraint(
                condition=Q(humidity__gte=0, humidity__lte=1), name="humidity_is_a_share"
            )
        ]
