"""What was changed of a thing, on its own page."""

from typing import Any

from django import template
from django.db.models import Model

from brunt_web.changes.models import Change
from brunt_web.changes.reading import acts, changes_of_rows

register = template.Library()


@register.inclusion_tag("changes/_of.html")
def changes_of(thing: Model, at_most: int = 12) -> dict[str, Any]:
    """The latest changes of a thing and of what belongs to it, with the way to all."""
    kind = thing._meta.db_table
    found = (
        Change.objects.filter(changes_of_rows(kind, [thing.pk]))
        .select_related("who")
        .order_by("-id")
    )
    rows = list(found[: at_most * 4 + 1])
    grouped = acts(rows)
    return {
        "acts": grouped[:at_most],
        "more": len(grouped) > at_most or len(rows) > at_most * 4,
        "of": f"{kind}:{thing.pk}",
    }
