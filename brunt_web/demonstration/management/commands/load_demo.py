"""``load_demo``: the invented workshop, once."""

from typing import Any

from django.core.management.base import BaseCommand
from django.utils import timezone

from brunt_web.demonstration.changed import change_some
from brunt_web.demonstration.load import load_demo


class Command(BaseCommand):
    """Load the demo data unless it is there."""

    help = "Load the invented demo workshop once."

    def handle(self, *args: Any, **options: Any) -> None:
        """Load, and say so."""
        now = timezone.now()
        if load_demo(now):
            change_some(now)
            self.stdout.write("The demo workshop is loaded; everything in it is invented.")
