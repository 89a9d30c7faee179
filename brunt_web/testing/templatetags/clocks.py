"""What is due on clocks that run, for pages beside the bench."""

from typing import Any

from django import template
from django.utils import timezone

from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.testing.timed_queries import running

register = template.Library()


@register.inclusion_tag("testing/_due.html")
def clocks_due(campaign: Campaign, rows: Any) -> dict[str, Any]:
    """The clocks of a rack that are late or due within the hour; no query when none runs."""
    cells = [cell for row in rows for cell in row.cells]
    outstanding_steps: list[Turn] = []
    if any(cell.reading_outstanding for cell in cells):
        outstanding_steps = list(Turn.objects.filter(campaign=campaign, reading_outstanding=True).select_related("specimen")[:40])  # fmt: skip
    if not any(cell.running for cell in cells):
        return {"due": [], "outstanding_steps": outstanding_steps}
    clocks = running(campaign, timezone.now())
    return {
        "outstanding_steps": outstanding_steps,
        "due": [c for c in clocks if c["left"] is not None and c["left"] < 3600],
    }
