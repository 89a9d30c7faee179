"""What the core asks about the parts that go into a run."""

from collections.abc import Sequence

from brunt_core.treatments.suits import TreatedPart
from brunt_web.campaigns.models import Specimen
from brunt_web.campaigns.resolved import Recipes
from brunt_web.campaigns.resolved_parts import Resolved


def parts_of(specimens: Sequence[Specimen]) -> list[TreatedPart]:
    """Family, filled share, thickness and support of each, as its own recipe has it."""
    recipes: dict[int, Recipes] = {}
    found = []
    for s in specimens:
        of = recipes.setdefault(s.campaign_id, Recipes.of(s.campaign))
        plan = of.resolved(s.condition, s.procedure)
        material = s.condition.material
        sizes = s.geometry.nominal
        thin = min(sizes.values(), default=0.0) / 1000 or None
        found.append(
            TreatedPart(
                family=material.family if material else "",
                infill=_infill(plan),
                thickness=thin,
                mark="raised" if s.made_how == "printed" else "",
                soluble_support="soluble" in _said(plan, "support"),
            )
        )
    return found


def _said(plan: Resolved, key: str) -> str:
    return str((plan.settings.get(key) or {}).get("text", "")).lower()


def _infill(plan: Resolved) -> float:
    value = (plan.settings.get("infill") or {}).get("value")
    return float(value) if isinstance(value, int | float) else 1.0
