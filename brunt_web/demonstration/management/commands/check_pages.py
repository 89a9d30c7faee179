"""``check_pages``: read each main page of a database that was just restored or brought up to a new version."""

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError
from django.db import transaction
from django.test import Client

from brunt_web.people.models import Seat

_PAGES = ("/", "/library/", "/day/", "/all-campaigns/", "/checks/", "/people/", "/changes/")
_OF_A_CAMPAIGN = ("", "ask/", "print/", "treat/", "bench/", "compare/", "compare/summary/", "decide/", "report/")  # fmt: skip
_MOST_WORKSHOPS, _MOST_CAMPAIGNS = 5, 3


class Command(BaseCommand):
    """Nothing is written: what signing in notes was undone."""

    help = "Read each main page once; ends with an error where one does not open."
    requires_system_checks = ()

    def handle(self, *args: Any, **options: Any) -> None:
        """Each workshop is read by one of its people; the newest campaigns of each."""
        settings.ALLOWED_HOSTS = ["*"]
        settings.SECURE_SSL_REDIRECT = False
        seats: dict[int, Seat] = {}
        for seat in Seat.objects.select_related("user", "workshop").filter(user__is_active=True):
            seats.setdefault(seat.workshop_id, seat)
        read = 0
        with transaction.atomic():
            for seat in list(seats.values())[:_MOST_WORKSHOPS]:
                read += self._read(seat)
            transaction.set_rollback(True)
        self.stdout.write(f"{read} pages read.")

    def _read(self, seat: Seat) -> int:
        client = Client(SERVER_NAME="127.0.0.1", raise_request_exception=False)
        client.force_login(seat.user, backend=settings.AUTHENTICATION_BACKENDS[-1])
        newest = seat.workshop.campaigns.filter(archived_at__isnull=True).order_by("-pk")
        addresses = list(_PAGES)
        for pk in newest.values_list("pk", flat=True)[:_MOST_CAMPAIGNS]:
            addresses += [f"/campaigns/{pk}/{page}" for page in _OF_A_CAMPAIGN]
        for address in addresses:
            answer = client.get(address)
            if answer.status_code >= 400 and answer.status_code != 403:
                raise CommandError(f"The page {address} of {seat.workshop} does not open ({answer.status_code}).")  # fmt: skip
        return len(addresses)
