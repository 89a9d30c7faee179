"""``first_person``: whether anybody can sign in, and the first who can."""

import os
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from brunt_core.errors import InputError
from brunt_web.people.actions.first import first_person, somebody


class Command(BaseCommand):
    """Say ``somebody`` or ``nobody``, or make the first person; the password comes by the environment."""

    help = "Make the first person of a workshop."
    requires_system_checks = ()

    def add_arguments(self, parser: Any) -> None:
        """The name, the workshop."""
        parser.add_argument("--known", action="store_true")
        parser.add_argument("--name", default="")
        parser.add_argument("--workshop", default="")

    def handle(self, *args: Any, **options: Any) -> None:
        """Answer, or make them."""
        if options["known"]:
            self.stdout.write("somebody" if somebody() else "nobody")
            return
        try:
            word = os.environ.get("BRUNT_FIRST_PASSWORD", "")
            first_person(options["name"], word, options["workshop"])
        except InputError as error:
            raise CommandError(error.sentence) from None
