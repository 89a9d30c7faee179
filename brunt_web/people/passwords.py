"""How long a password must be, and how many guesses an address has."""

from datetime import timedelta

from axes.helpers import get_client_ip_address
from axes.models import AccessAttempt
from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.db.models import Sum
from django.http import HttpRequest
from django.utils import timezone

from brunt_web.people.second import has_second_factor

# ASVS 5.0, 6.2.1 and 6.2.9: fifteen where the password stands alone, eight at least with a second factor.
ALONE, WITH_SECOND = 15, 10
# All accounts together, from one address within the time for which a door closes.
MOST_FROM_ADDRESS, WITHIN = 40, timedelta(minutes=15)


class LengthValidator:
    """Fifteen characters; ten for whoever also signs in with a second factor."""

    def validate(self, password: str, user: User | None = None) -> None:
        """Raises ``ValidationError`` for a shorter one."""
        least = WITH_SECOND if user is not None and has_second_factor(user) else ALONE
        if len(password) < least:
            more = (
                ""
                if least == WITH_SECOND
                else "; a second factor, under your name, makes ten enough"
            )
            raise ValidationError(
                f"This password is too short: {least} characters at least{more}. Four words are easy to keep.",
                code="password_too_short",
            )

    def get_help_text(self) -> str:
        """What is asked."""
        return f"{ALONE} characters at least, {WITH_SECOND} with a second factor"


def too_many_from(request: HttpRequest) -> bool:
    """Whether an address has guessed too often lately, at whatever names."""
    address = get_client_ip_address(request)
    lately = AccessAttempt.objects.filter(
        ip_address=address, attempt_time__gt=timezone.now() - WITHIN
    )
    tries = lately.aggregate(n=Sum("failures_since_start"))["n"] or 0
    return bool(address) and tries >= MOST_FROM_ADDRESS
