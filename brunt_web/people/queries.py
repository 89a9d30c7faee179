"""Reading people."""

from brunt_web.people.models import Seat


def seat_of(user) -> Seat | None:
    """The person's seat with its workshop, or ``None``."""
    return getattr(user, "seat", None)
