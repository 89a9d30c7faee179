"""Reading people."""

from typing import Any

from brunt_web.people.models import Seat


def seat_of(user: Any) -> Seat | None:
    """The person's seat with its workshop, or ``None``."""
    return getattr(user, "seat", None)
