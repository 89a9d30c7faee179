"""A campaign archived and restored; nothing of it is lost."""

from datetime import datetime

from brunt_web.campaigns.models import Campaign


def archive_campaign(campaign: Campaign, at: datetime) -> Campaign:
    """Off the lists, the schedule and the all campaigns; its own pages stay."""
    campaign.archived_at = at
    campaign.save(update_fields=["archived_at"])
    return campaign


def restore_campaign(campaign: Campaign) -> Campaign:
    """Among the others again."""
    campaign.archived_at = None
    campaign.save(update_fields=["archived_at"])
    return campaign
