"""Reading people."""

from django.contrib.auth.models import User

from brunt_web.people.models import Seat


def seat_of(user: User) -> Seat | None:
    """The person's seat with its workshop, or ``None``."""
    return getattr(user, "seat", None)
