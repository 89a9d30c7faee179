"""Start a campaign from the form: new materials first, then the plan."""

from collections.abc import Callable, Sequence

from django.contrib.auth.models import User
from django.db import transaction

from brunt_web.campaigns.actions.plan_campaign import plan_campaign, replan_campaign
from brunt_web.campaigns.drafts import PlanDraft
from brunt_web.campaigns.models import Campaign
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.models import Material
from brunt_web.people.models import Workshop


@transaction.atomic
def start_campaign(
    workshop: Workshop,
    by: User,
    new_materials: Sequence[tuple[str, str]],
    make_draft: Callable[[list[Material]], PlanDraft],
    instead_of: Campaign | None = None,
) -> Campaign:
    """Add the new materials to the library and plan the campaign, all or nothing; or plan one anew."""
    added = [add_material(workshop, name, family) for name, family in new_materials]
    draft = make_draft(added)
    return (
        replan_campaign(instead_of, draft, by) if instead_of else plan_campaign(workshop, by, draft)
    )
