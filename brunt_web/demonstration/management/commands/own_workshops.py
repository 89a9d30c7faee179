"""``own_workshops``: the workshops of a database that are not invented and hold something."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.db import ProgrammingError, connection

from brunt_web.people.models import Workshop


class Command(BaseCommand):
    """Print their names, one a line."""

    help = "Name the workshops that are not invented and hold campaigns or materials."
    requires_system_checks = ()

    def handle(self, *args: Any, **options: Any) -> None:
        """Nothing where the database is still empty; an error where its tables are of another version."""
        if Workshop._meta.db_table not in connection.introspection.table_names():
            return
        try:
            for shop in Workshop.objects.filter(invented=False):
                if shop.campaigns.exists() or shop.materials.exists():
                    self.stdout.write(shop.name)
        except ProgrammingError as error:
            raise CommandError(f"The tables are of another version: {error}") from None
