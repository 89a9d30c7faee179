"""Start a campaign from the form: new materials first, then the plan."""

from collections.abc import Sequence

from django.db import transaction

from brunt_web.campaigns.actions.plan_campaign import CampaignDraft, plan_campaign
from brunt_web.campaigns.models import Campaign
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.models import Material, Procedure
from brunt_web.people.models import Workshop


@transaction.atomic
def start_campaign(workshop: Workshop, by, question: str, materials: Sequence[Material],
                   new_materials: Sequence[tuple[str, str]], procedures: Sequence[Procedure],
                   replicates: int, seed: int) -> Campaign:
    """Add the new materials to the library and plan the campaign, all or nothing."""
    added = [add_material(workshop, name, family) for name, family in new_materials]
    every = [*materials, *added]
    return plan_campaign(workshop, by, CampaignDraft(question, every, procedures, replicates, seed,
                                                     reference=every[0] if every else None))
