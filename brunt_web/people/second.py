"""The second factor: codes of an authenticator app (RFC 6238, pyotp) and recovery codes; whether one is asked."""

import hmac
from datetime import datetime, timedelta
from hashlib import sha256
from ipaddress import ip_address
from secrets import token_hex

import pyotp
from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction
from django.http import HttpRequest

from brunt_core.errors import InputError
from brunt_web.people.models import Passkey, SecondFactor

_CODES, _WRONG, _CLOSED = 10, 8, timedelta(minutes=15)
_LOCAL = ("localhost",)


def has_second_factor(user: User) -> bool:
    """Whether more than a password is asked of a person."""
    if user.pk is None:
        return False
    return (
        SecondFactor.objects.filter(user=user, confirmed_at__isnull=False).exists()
        or Passkey.objects.filter(user=user).exists()
    )


def begin_app(user: User, again: bool = True) -> SecondFactor:
    """A secret to be scanned, a new one or the one that was shown; it counts once a code of it was typed."""
    found, _ = SecondFactor.objects.get_or_create(user=user, defaults={"secret": ""})
    if found.confirmed_at is None and (again or not found.secret):
        found.secret = pyotp.random_base32()
        found.save(update_fields=["secret"])
    return found


def provisioning_address(factor: SecondFactor) -> str:
    """What the code to scan says."""
    return pyotp.TOTP(factor.secret).provisioning_uri(
        name=factor.user.get_username(), issuer_name="Brunt"
    )


@transaction.atomic
def confirm_app(user: User, code: str, now: datetime) -> list[str]:
    """The app counts from now on; the recovery codes, shown once. Raises :class:`InputError` for a wrong code."""
    factor = SecondFactor.objects.select_for_update().filter(user=user).first()
    if factor is None or factor.confirmed_at:
        raise InputError("Start again: there is nothing to confirm.", "code")
    step = _step_of(factor, code, now)
    if step is None:
        raise InputError(
            "This is not the code the app shows now. Check the device's clock.", "code"
        )
    codes = [f"{token_hex(3)}-{token_hex(3)}" for _ in range(_CODES)]
    factor.confirmed_at, factor.step = now, step
    factor.codes = [_hashed(c) for c in codes]
    factor.save()
    return codes


def check_code(user: User, typed: str, now: datetime) -> bool:
    """Whether a code is the app's, used once, or a recovery code, which is used up.

    The answer is committed with the count of wrong ones. Raises :class:`InputError` after eight of them, for a
    quarter of an hour.
    """
    with transaction.atomic():
        factor = (
            SecondFactor.objects.select_for_update()
            .filter(user=user, confirmed_at__isnull=False)
            .first()
        )
        if factor is None:
            return False
        if factor.failed >= _WRONG and factor.failed_at and now - factor.failed_at < _CLOSED:
            raise InputError("Too many wrong codes; blocked for 15 minutes.", "code")
        step, spent = _step_of(factor, typed, now), _hashed(typed.strip().lower())
        right = step is not None or spent in factor.codes
        factor.step = step if step is not None else factor.step
        factor.codes = [c for c in factor.codes if c != spent]
        late = factor.failed_at is None or now - factor.failed_at >= _CLOSED
        factor.failed = 0 if right else (1 if late else factor.failed + 1)
        factor.failed_at = None if right else now
        factor.save()
    return right


def _step_of(factor: SecondFactor, typed: str, now: datetime) -> int | None:
    """The step of which a code is, one before or after now, later than the last that was used."""
    code, app = "".join(typed.split()).encode(), pyotp.TOTP(factor.secret)
    at = int(now.timestamp()) // app.interval
    for step in (at - 1, at, at + 1):
        if step > factor.step and hmac.compare_digest(app.generate_otp(step).encode(), code):
            return step
    return None


def _hashed(code: str) -> str:
    return hmac.new(
        settings.SECRET_KEY.encode(), f"brunt.recovery {code}".encode(), sha256
    ).hexdigest()[:40]


@transaction.atomic
def take_off_all(user: User) -> None:
    """Only the password is asked again."""
    SecondFactor.objects.filter(user=user).delete()
    Passkey.objects.filter(user=user).delete()


def can_have_passkeys(request: HttpRequest) -> bool:
    """Whether this address may keep passkeys: a name over https, or this machine itself."""
    host = request.get_host().rpartition(":")[0] or request.get_host()
    if host in _LOCAL:
        return True
    try:
        ip_address(host.strip("[]"))
    except ValueError:
        return request.is_secure()
    return False
