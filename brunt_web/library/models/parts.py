"""The mesh of a custom part."""

from django.db import models

from brunt_web.library.models.procedures import SpecimenVariant


class PartMesh(models.Model):
    """A part's body as it lies (``content``: corners in mm and faces, packed), and the file it came from.

    ``views`` are its three sides and ``faces`` those it can rest on, as they are drawn.
    """

    variant = models.OneToOneField(SpecimenVariant, models.CASCADE, related_name="mesh")
    content = models.BinaryField()
    source = models.BinaryField()
    source_name = models.CharField(max_length=160)
    unit = models.CharField(max_length=10, default="mm")
    remarks = models.JSONField(default=list, blank=True)
    views = models.JSONField(default=dict)
    faces = models.JSONField(default=list)

    class Meta:
        ordering = ["variant_id"]

    def __str__(self) -> str:
        return f"mesh of {self.variant.name}"
