"""``seat``: give somebody a place in a workshop that was imported."""

from argparse import ArgumentParser
from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand, CommandError

from brunt_web.people.actions.seats import ensure_seat
from brunt_web.people.models import Seat, Workshop


class Command(BaseCommand):
    """``seat NAME WORKSHOP``; a person is in one workshop at a time."""

    help = "Move a person to a workshop; they leave the previous one."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Who and where."""
        parser.add_argument("name")
        parser.add_argument("workshop")

    def handle(self, *args: Any, **options: Any) -> None:
        """Seat them."""
        user = get_user_model().objects.filter(username=options["name"]).first()
        shop = Workshop.objects.filter(name=options["workshop"]).first()
        if user is None or shop is None:
            raise CommandError(f"There is no {'person' if user is None else 'workshop'} called so.")
        Seat.objects.filter(user=user).delete()
        ensure_seat(user, shop)
        self.stdout.write(f"{user} is now in “{shop}”.")
