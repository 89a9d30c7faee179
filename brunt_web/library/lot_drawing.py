"""A lot's hours since its last drying as a bar: open, sealed, and its family's limit."""

from datetime import datetime
from typing import Any

from brunt_core.printing.checks import MOISTURE_LIMIT_H
from brunt_web.library.models import Lot
from brunt_web.library.queries import hours_open

_WIDE = 420.0
_NO_LIMIT = 336.0


def since_drying(lot: Lot, now: datetime) -> dict[str, Any]:
    """The bar: hours in the open on a scale that ends at a fifth over the limit; how urgent it is."""
    limit = MOISTURE_LIMIT_H.get(lot.material.family)
    hours = hours_open(lot, now)
    running = next((d for d in lot.dryings.all() if d.ended_at is None), None)
    sealed = next((s for s in lot.sealings.all() if s.until is None), None)
    most = (limit or _NO_LIMIT) * 1.2
    used = 0.0 if hours is None else min(hours / most, 1.0)
    share = 0.0 if limit is None or hours is None else hours / limit
    unknown = limit is not None and hours is None
    return {
        "lot": lot,
        "limit": limit,
        "hours": hours,
        "running": running,
        "late": running and running.due_at and running.due_at < now,
        "sealed": sealed,
        "used": round(used * _WIDE, 1),
        "mark": round(_WIDE / 1.2, 1) if limit else None,
        "over": limit is not None and hours is not None and hours > limit,
        "left": None if limit is None or hours is None else max(limit - hours, 0.0),
        "urgent": 2.0 if unknown else share,
    }
