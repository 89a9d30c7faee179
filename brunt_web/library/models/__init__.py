"""What a workshop has."""

from brunt_web.library.models.materials import FORMS, Drying, Lot, Material
from brunt_web.library.models.parts import PartMesh
from brunt_web.library.models.procedures import SIZES, Procedure, Rig, SpecimenVariant
from brunt_web.library.models.recipes import KINDS, BringUp, Printer, Recipe

__all__ = [
    "FORMS",
    "KINDS",
    "SIZES",
    "BringUp",
    "Drying",
    "Lot",
    "Material",
    "PartMesh",
    "Printer",
    "Procedure",
    "Recipe",
    "Rig",
    "SpecimenVariant",
]
