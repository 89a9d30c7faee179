"""What a workshop has."""

from brunt_web.library.models.materials import (
    FORMS,
    BlendPart,
    Drying,
    Lot,
    Material,
    RoomAir,
    Sealing,
)
from brunt_web.library.models.parts import PartMesh
from brunt_web.library.models.procedures import (
    SIZES,
    Calibration,
    Procedure,
    Rig,
    SpecimenVariant,
)
from brunt_web.library.models.recipes import KINDS, Printer, Recipe, Tuning

__all__ = [
    "FORMS",
    "KINDS",
    "SIZES",
    "BlendPart",
    "Tuning",
    "Calibration",
    "Drying",
    "Lot",
    "Material",
    "PartMesh",
    "Printer",
    "Procedure",
    "Recipe",
    "Rig",
    "RoomAir",
    "Sealing",
    "SpecimenVariant",
]
