"""How full a specimen was to be printed, for what may be expected of it."""

from brunt_web.campaigns.models import Condition
from brunt_web.campaigns.resolved import Recipes
from brunt_web.library.models import Procedure


def infill_of(condition: Condition, procedure: Procedure) -> float:
    """The share of infill that its recipe and levels ask for; 1 where they say nothing."""
    found = Recipes.of(condition.campaign).resolved(condition, procedure).settings.get("infill")
    value = (found or {}).get("value")
    return float(value) if isinstance(value, int | float) and 0 <= value <= 1 else 1.0
