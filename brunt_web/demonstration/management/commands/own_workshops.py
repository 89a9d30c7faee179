"""``own_workshops``: the workshops of a database that are not invented and hold something."""

from typing import Any

from django.core.management.base import BaseCommand
from django.db import ProgrammingError

from brunt_web.people.models import Workshop


class Command(BaseCommand):
    """Print their names, one a line."""

    help = "Name the workshops that are not invented and hold campaigns or materials."
    requires_system_checks = ()

    def handle(self, *args: Any, **options: Any) -> None:
        """Nothing where the database is still empty."""
        try:
            for shop in Workshop.objects.filter(invented=False):
                if shop.campaigns.exists() or shop.materials.exists():
                    self.stdout.write(shop.name)
        except ProgrammingError:
            return
