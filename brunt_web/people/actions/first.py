"""The first person of a workshop of one's own."""

from django.contrib.auth import get_user_model
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.people.actions.seats import ensure_seat, found_workshop
from brunt_web.people.models import Workshop


def somebody() -> bool:
    """Whether anybody can sign in."""
    active = get_user_model().objects.filter(is_active=True)
    return any(user.has_usable_password() for user in active.only("password")[:200])


@transaction.atomic
def first_person(name: str, password: str, workshop: str = "") -> User:
    """Make the first person, who owns the workshop.

    Raises :class:`InputError` for a name that is empty or taken, a password that is too easy, and where
    somebody can sign in already.
    """
    name = " ".join(name.split())
    if not name or len(name) > 150:
        raise InputError("Give a name of 1 to 150 characters.", "name")
    if somebody():
        raise InputError("Somebody can sign in already; they invite the others.", "name")
    if get_user_model().objects.filter(username__iexact=name).exists():
        raise InputError(f"The name {name} is taken.", "name")
    user = User(username=name, is_staff=True, is_superuser=True)
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise InputError(" ".join(error.messages), "password") from None
    user.set_password(password)
    user.save()
    called = " ".join(workshop.split())[:120] or f"{name}'s workshop"
    shop = Workshop.objects.filter(name=called).first() or found_workshop(called)
    ensure_seat(user, shop, "owner")
    return user
