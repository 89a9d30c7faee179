"""Materials and their lots."""

from django.conf import settings
from django.db import models
from django.db.models import Q
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
    """One drying of a lot: kelvin, seconds, kg before and after."""

    lot = models.ForeignKey(Lot, models.CASCADE, related_name="dryings")
    ended_at = models.DateTimeField()
    temperature = models.FloatField()
    duration = models.FloatField()
    before = models.FloatField(null=True, blank=True)
    after = models.FloatField(null=True, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)

    class Meta:
        ordering = ["-ended_at"]
