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
    owed: list[Turn] = []
    if any(cell.reading_owed for cell in cells):
        owed = list(Turn.objects.filter(campaign=campaign, reading_owed=True).select_related("specimen")[:40])  # fmt: skip
    if not any(cell.running for cell in cells):
        return {"due": [], "owed": owed}
    clocks = running(campaign, timezone.now())
    return {"owed": owed, "due": [c for c in clocks if c["left"] is not None and c["left"] < 3600]}
