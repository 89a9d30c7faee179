"""``house``: whether this host shares secret and storage with the others on its database."""

import sys
from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand

from brunt_web.interface.house import settle_marks


class Command(BaseCommand):
    """Ends with 1 and a sentence where it does not; ``--accept`` makes this host's the marks that hold."""

    help = "Look whether this host belongs to the others on its database."
    requires_system_checks = ()

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Whether its own secret and storage are to hold from now on."""
        parser.add_argument("--accept", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Say it."""
        problem = settle_marks(options["accept"])
        if problem:
            print(problem, file=sys.stderr)
            raise SystemExit(1)
