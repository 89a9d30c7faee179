"""Giving people a place."""

from django.contrib.auth.models import User
from django.db import transaction

from brunt_web.people.models import Seat, Workshop


@transaction.atomic
def ensure_seat(user: User, workshop: Workshop | None = None, role: str = "bench lead") -> Seat:
    """The person's seat; a new one in the given workshop, or in one of their own."""
    found = Seat.objects.select_related("workshop").filter(user=user).first()
    if found:
        return found
    workshop = (
        workshop or Workshop.objects.get_or_create(name=f"{user.get_username()}'s workshop")[0]
    )
    return Seat.objects.create(user=user, workshop=workshop, role=role)
