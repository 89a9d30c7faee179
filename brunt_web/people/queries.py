"""Reading people."""

from django.contrib.auth.models import User
from django.db.models import Q, QuerySet

from brunt_web.people.models import Seat, Workshop


def seat_of(user: User) -> Seat | None:
    """The person's seat with its workshop, or ``None``."""
    return getattr(user, "seat", None)


def members(workshop: Workshop) -> QuerySet[Seat]:
    """Everybody who belongs to a workshop, those too who sit in another just now."""
    here = Q(workshop=workshop) | Q(also=workshop)
    return Seat.objects.filter(here).select_related("user").distinct()


def belongs(user: User, workshop: Workshop) -> bool:
    """Whether a person may sign in and belongs to a workshop: what addresses of theirs hold as long as."""
    return user.is_active and members(workshop).filter(user=user).exists()
