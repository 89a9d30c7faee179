"""Changes to a plan after it is made: more replicates, recipes and lots of conditions, accepted differences."""

from collections.abc import Sequence
from uuid import uuid4

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Max

from brunt_core.errors import InputError
from brunt_core.planning.run_order import blocked_order
from brunt_web.campaigns import history
from brunt_web.campaigns.actions.plan_campaign import add_specimens, one_more
from brunt_web.campaigns.models import AcceptedConfounder, Campaign, Condition, Specimen
from brunt_web.library.models import Lot, Procedure, Recipe


@transaction.atomic
def add_replicates(campaign: Campaign, more: int, by: User | None = None) -> int:
    """Add so many replicates of every condition under every procedure; returns the specimens made."""
    if not 1 <= more <= 50:
        raise InputError("Add between 1 and 50 replicates.", "more")
    campaign = Campaign.objects.select_for_update().get(pk=campaign.pk)
    conditions = list(campaign.conditions.all())
    heads = Procedure.objects.filter(
        campaignprocedure__campaign=campaign, campaignprocedure__after__isnull=True
    )
    made, act = 0, uuid4().hex
    for position, procedure in enumerate(heads.order_by("campaignprocedure__position")):
        lasts = dict(
            Specimen.objects.filter(campaign=campaign, procedure=procedure)
            .values_list("condition")
            .annotate(last=Max("replicate"))
        )
        seed = campaign.seed + 1000 + max(lasts.values(), default=0) + position
        order = blocked_order(len(conditions), more, seed)
        wanted = [(conditions[c], lasts.get(conditions[c].pk, 0) + r + 1) for c, r in order]
        wanted.sort(key=lambda pair: pair[0].requirements.speed or 0.0)
        made += len(add_specimens(campaign, procedure, wanted, by, act=act))
    campaign.replicates += more
    campaign.save(update_fields=["replicates"])
    return made


@transaction.atomic
def add_to_condition(
    condition: Condition, procedures: Sequence[Procedure], more: int, by: User
) -> list[Specimen]:
    """More replicates of one condition only, each with a place by chance in the test order."""
    if not 1 <= more <= 50:
        raise InputError("Add between 1 and 50 replicates.", "more")
    act = uuid4().hex
    return [s for p in procedures for s in one_more(condition, p, by, more, act=act)]


def promote_spare(lost: Specimen) -> Specimen | None:
    """Let a spare of the same condition and procedure take the place of a specimen that was lost."""
    spare = (
        Specimen.objects.filter(
            condition_id=lost.condition_id,
            procedure_id=lost.procedure_id,
            spare=True,
            spent=False,
            turns__state="waiting",
            turns__step=0,
        )
        .exclude(made="failed")
        .order_by("-made", "replicate")
        .first()
    )
    if spare:
        spare.spare = False
        spare.save(update_fields=["spare"])
    return spare


@transaction.atomic
def set_making(condition: Condition, recipe: Recipe | None, lot: Lot | None) -> Condition:
    """Say with which recipe and from which lot a condition is printed.

    Raises :class:`InputError` for a lot of another material, or a recipe its levels cannot go into.
    """
    if lot and condition.material_id and lot.material_id != condition.material_id:
        raise InputError(f"{lot} is not {condition.material}.", "lot")
    condition.recipe, condition.lot = recipe, lot
    condition.save(update_fields=["recipe", "lot"])
    history.plan_changed(condition.campaign, [condition])
    return condition


@transaction.atomic
def accept_confounder(
    campaign: Campaign, by: User, key: str, sentence: str, reason: str
) -> AcceptedConfounder:
    """Accept a difference that is not a factor; the reason shows on Compare."""
    if not reason.strip():
        raise InputError(
            "Write why this difference does not matter; the reason is shown next to the ranking.",
            "reason",
        )
    found, _ = AcceptedConfounder.objects.update_or_create(
        campaign=campaign,
        key=key[:160],
        defaults={"sentence": sentence[:500], "reason": reason.strip()[:300], "by": by},
    )
    return found


def withdraw_confounder(campaign: Campaign, key: str) -> None:
    """Take the acceptance back."""
    AcceptedConfounder.objects.filter(campaign=campaign, key=key).delete()
