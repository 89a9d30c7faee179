"""What was read of a rig by day, on its page."""

from typing import Any

from django import template

from brunt_web.library.models import Rig
from brunt_web.testing.day import read_by_day

register = template.Library()


@register.inclusion_tag("testing/_rig_days.html")
def days_of_rig(rig: Rig) -> dict[str, Any]:
    """Start angle, free swing and the like, day by day, the newest first."""
    return {"days": read_by_day(rig)}
