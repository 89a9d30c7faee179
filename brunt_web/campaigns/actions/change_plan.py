"""Changes to a plan after it is made: more replicates, recipes and lots of conditions, accepted confounders."""

from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.planning.run_order import blocked_order
from brunt_web.campaigns.actions.plan_campaign import add_specimens
from brunt_web.campaigns.models import AcceptedConfounder, Campaign, Condition, Specimen
from brunt_web.library.models import Lot, Recipe


@transaction.atomic
def add_replicates(campaign: Campaign, more: int) -> int:
    """Add so many replicates of every condition under every procedure; returns the specimens made."""
    if not 1 <= more <= 50:
        raise InputError("Add between 1 and 50 replicates.", "more")
    conditions = list(campaign.conditions.all())
    last = campaign.replicates + campaign.spares
    made = 0
    for position, procedure in enumerate(
        campaign.procedures.order_by("campaignprocedure__position")
    ):
        order = blocked_order(len(conditions), more, campaign.seed + 1000 + last + position)
        made += len(
            add_specimens(campaign, procedure, [(conditions[c], last + r + 1) for c, r in order])
        )
    campaign.replicates += more
    campaign.save(update_fields=["replicates"])
    return made


def promote_spare(lost: Specimen) -> Specimen | None:
    """Let a spare of the same condition and procedure take the place of a specimen that was lost."""
    spare = (
        Specimen.objects.filter(
            condition_id=lost.condition_id,
            procedure_id=lost.procedure_id,
            spare=True,
            test__isnull=True,
        )
        .exclude(print__failed=True)
        .order_by("replicate")
        .first()
    )
    if spare:
        spare.spare = False
        spare.save(update_fields=["spare"])
    return spare


@transaction.atomic
def set_making(condition: Condition, recipe: Recipe | None, lot: Lot | None) -> Condition:
    """Say with which recipe and from which lot a condition is printed.

    Raises :class:`InputError` for a lot of another material.
    """
    if lot and condition.material_id and lot.material_id != condition.material_id:
        raise InputError(f"{lot} is not {condition.material}.", "lot")
    condition.recipe, condition.lot = recipe, lot
    condition.save(update_fields=["recipe", "lot"])
    return condition


@transaction.atomic
def accept_confounder(
    campaign: Campaign, by, key: str, sentence: str, reason: str
) -> AcceptedConfounder:
    """Accept a difference that is not a factor; the reason shows on Compare."""
    if not reason.strip():
        raise InputError(
            "Write why this difference does not matter; the reason shows beside the ranking.",
            "reason",
        )
    found, _ = AcceptedConfounder.objects.update_or_create(
        campaign=campaign,
        key=key[:60],
        defaults={"sentence": sentence[:500], "reason": reason.strip()[:300], "by": by},
    )
    return found


def withdraw_confounder(campaign: Campaign, key: str) -> None:
    """Take the acceptance back."""
    AcceptedConfounder.objects.filter(campaign=campaign, key=key).delete()
