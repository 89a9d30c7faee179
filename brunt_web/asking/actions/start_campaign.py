"""Start a campaign from the form: new materials first, then the plan."""

from collections.abc import Callable, Sequence

from django.contrib.auth.models import User
from django.db import transaction
from django.http import QueryDict

from brunt_web.asking.standing import plan_words, same_plan, standing_plan
from brunt_web.campaigns.actions.plan_campaign import plan_campaign, replan_campaign
from brunt_web.campaigns.drafts import PlanDraft
from brunt_web.campaigns.models import Campaign
from brunt_web.interface.typed import whole
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
    as_seen: Callable[[], None] | None = None,
) -> Campaign:
    """Add the new materials to the library and plan the campaign, all or nothing; or plan one again.

    ``as_seen`` is asked under the lock of the campaign whether it still stands as it was shown.
    """
    if instead_of is not None:
        Campaign.objects.select_for_update().get(pk=instead_of.pk)
    if as_seen is not None:
        as_seen()
    added = [add_material(workshop, name, family) for name, family in new_materials]
    draft = make_draft(added)
    return (
        replan_campaign(instead_of, draft, by) if instead_of else plan_campaign(workshop, by, draft)
    )


def made_already(workshop: Workshop, by: User, typed: QueryDict) -> Campaign | None:
    """The campaign that this very form made before: of one seed, and of one plan.

    A form that is gone back to and sent again makes nothing twice. Changed, it makes another.
    """
    seed = whole(typed.get("seed"))
    if not seed:
        return None
    found = Campaign.objects.filter(workshop=workshop, created_by=by, seed=seed).order_by("-pk")[:3]
    said = plan_words(workshop, typed)
    return next((c for c in found if same_plan(standing_plan(c), said)), None)
