"""Tokens: made, used, revoked."""

import hashlib
import secrets
from datetime import date, datetime, timedelta

from django.contrib.auth.models import User

from brunt_core.errors import InputError
from brunt_web.notebooks.models import Token
from brunt_web.people.models import Workshop

_SELDOM = timedelta(minutes=1)


def digest_of(secret: str) -> str:
    """What is kept of a token: its SHA-256. It is long and random, so no slow hash is needed."""
    return hashlib.sha256(secret.encode()).hexdigest()


def make_token(
    user: User, workshop: Workshop, at: datetime, name: str, until: date | None = None
) -> tuple[Token, str]:
    """A new token and its secret, which is told this once. Raises :class:`InputError` for a bad name or end."""
    name = " ".join(name.split())[:80]
    if not name:
        raise InputError("Give the purpose of the token.", "name")
    if until and until < at.date():
        raise InputError("The last day is in the past.", "until")
    secret = f"brunt_{secrets.token_urlsafe(32)}"
    made = Token.objects.create(
        user=user, workshop=workshop, name=name, digest=digest_of(secret),
        tail=secret[-6:], until=until, made_at=at,
    )  # fmt: skip
    return made, secret


def revoke_token(token: Token, at: datetime) -> None:
    """It is no longer valid."""
    Token.objects.filter(pk=token.pk, revoked_at=None).update(revoked_at=at)


def opened_by(secret: str, now: datetime, today: date) -> Token:
    """The token of a secret, noted as used. Raises :class:`InputError` for one that opens nothing.

    Somebody who has left the workshop, or may not sign in any more, opens nothing with it.
    """
    found = (
        Token.objects.filter(digest=digest_of(secret))
        .select_related("user__seat", "workshop")
        .first()
    )
    if found is None:
        raise InputError("This token is not known.", "token")
    closed = found.closed_on(today)
    if closed:
        raise InputError(closed, "token")
    seat = getattr(found.user, "seat", None)
    there = seat and (seat.workshop_id == found.workshop_id or seat.also.filter(pk=found.workshop_id).exists())  # fmt: skip
    if not found.user.is_active or not there:
        raise InputError("The owner of this token is no longer in that workshop.", "token")
    if found.used_at is None or now - found.used_at > _SELDOM:
        Token.objects.filter(pk=found.pk).update(used_at=now)
    return found
