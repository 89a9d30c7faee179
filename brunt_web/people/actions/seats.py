"""Giving people a place."""

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.people.models import Seat, Workshop, founded
from brunt_web.people.roles import OWNER


def found_workshop(name: str) -> Workshop:
    """A new workshop; whoever listens furnishes it with what each has from the start."""
    made = Workshop.objects.create(name=name)
    founded.send(Workshop, workshop=made)
    return made


@transaction.atomic
def ensure_seat(
    user: User,
    workshop: Workshop | None = None,
    role: str = "bench lead",
    rights: str = OWNER,
) -> Seat:
    """The person's seat; a new one in the given workshop, or in one of their own."""
    found = Seat.objects.select_related("workshop").filter(user=user).first()
    if found:
        return found
    if workshop is None:
        name = f"{user.get_username()}'s workshop"
        workshop = Workshop.objects.filter(name=name).first() or found_workshop(name)
    return Seat.objects.create(user=user, workshop=workshop, role=role, rights=rights)


@transaction.atomic
def open_to(user: User, workshop: Workshop, rights: str = OWNER) -> None:
    """The person may switch to that workshop too, and do there what these rights allow."""
    seat = Seat.objects.select_for_update().get(pk=ensure_seat(user).pk)
    if seat.workshop_id != workshop.pk:
        seat.also.add(workshop)
        seat.elsewhere = {**seat.elsewhere, str(workshop.pk): rights}
        seat.save(update_fields=["elsewhere"])


@transaction.atomic
def sit_down(user: User, workshop_pk: int) -> Seat:
    """Go to another workshop that is open to them; the way back stays open.

    Raises :class:`InputError` for one that is not.
    """
    seat = Seat.objects.select_for_update().get(pk=ensure_seat(user).pk)
    if seat.workshop_id == workshop_pk:
        return seat
    shop = seat.also.filter(pk=workshop_pk).first()
    if shop is None:
        raise InputError("That workshop is not open to you.", "workshop")
    rights = {**seat.elsewhere, str(seat.workshop_id): seat.rights}
    seat.also.add(seat.workshop)
    seat.also.remove(shop)
    seat.workshop = shop
    seat.rights = rights.pop(str(shop.pk), OWNER)
    seat.elsewhere = rights
    seat.save()
    return seat
