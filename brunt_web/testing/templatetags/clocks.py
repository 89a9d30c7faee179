"""What is due on clocks that run, for pages beside the bench."""

from typing import Any

from django import template
from django.utils import timezone

from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.testing.timed_queries import running_clocks

register = template.Library()


@register.inclusion_tag("testing/_due.html")
def clocks_due(campaign: Campaign, rows: Any) -> dict[str, Any]:
    """The clocks of a rack that are late or due within the hour; no query when none runs."""
    cells = [cell for row in rows for cell in row.cells]
    to_follow: list[Turn] = []
    if any(cell.reading_outstanding for cell in cells):
        to_follow = list(Turn.objects.filter(campaign=campaign, reading_outstanding=True).select_related("specimen")[:40])  # fmt: skip
    if not any(cell.running for cell in cells):
        return {"due": [], "to_follow": to_follow}
    clocks = running_clocks(campaign, timezone.now())
    return {
        "to_follow": to_follow,
        "due": [c for c in clocks if c["left"] is not None and c["left"] < 3600],
    }
