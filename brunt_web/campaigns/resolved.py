"""Resolved recipes: what each condition must really be printed with under each procedure."""

from dataclasses import dataclass, field

from brunt_web.campaigns.models import BaseRecipe, Campaign, Condition
from brunt_web.campaigns.resolved_parts import Resolved, base_among, resolved
from brunt_web.library.models import Procedure, Recipe


@dataclass
class Recipes:
    """A campaign's base recipes, read once."""

    campaign: Campaign
    chosen: dict[tuple[int | None, int | None], Recipe] = field(default_factory=dict)

    @classmethod
    def of(cls, campaign: Campaign) -> "Recipes":
        """Read them. One query, and one for the campaign's own recipe."""
        rows = BaseRecipe.objects.filter(campaign=campaign).select_related("recipe")
        return cls(campaign, {(r.material_id, r.procedure_id): r.recipe for r in rows})

    def base(self, condition: Condition, procedure: Procedure) -> Recipe | None:
        """The recipe a condition starts from: its own, its material's, its procedure's, the campaign's."""
        if condition.recipe_id:
            return condition.recipe
        return base_among(self.chosen, condition.material_id, procedure.pk, self.campaign.recipe)

    def resolved(self, condition: Condition, procedure: Procedure) -> Resolved:
        """Base recipe and levels together; never raises."""
        return resolved(self.base(condition, procedure), condition.requirements.settings)
