"""A question and what is made to answer it."""

from brunt_web.campaigns.models.plans import (
    AcceptedConfounder,
    BaseRecipe,
    Campaign,
    CampaignProcedure,
    Condition,
    Factor,
    Level,
)
from brunt_web.campaigns.models.specimens import HistoryEvent, Specimen, Turn, geometry_asked

__all__ = [
    "AcceptedConfounder",
    "BaseRecipe",
    "Campaign",
    "CampaignProcedure",
    "Condition",
    "Factor",
    "Level",
    "HistoryEvent",
    "Specimen",
    "Turn",
    "geometry_asked",
]
