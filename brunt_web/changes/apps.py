"""Takes the triggers off before migrations, which PostgreSQL lets alter no watched column, and sets them up after."""

from typing import Any

from django.apps import AppConfig
from django.db import connections
from django.db.models.signals import post_migrate, pre_migrate


def _watch(sender: AppConfig, using: str = "default", **more: Any) -> None:
    """The triggers, as the tables are now."""
    from brunt_web.changes.sql import set_up

    with connections[using].cursor() as cursor:
        set_up(cursor)


def _stand_aside(sender: AppConfig, using: str = "default", plan: Any = (), **more: Any) -> None:
    """Off with them while columns change; :func:`_watch` puts them back."""
    from brunt_web.changes.sql import drop_triggers

    if plan:
        with connections[using].cursor() as cursor:
            drop_triggers(cursor)


class Changes(AppConfig):
    """Who changed what, when, from what to what."""

    name = "brunt_web.changes"

    def ready(self) -> None:
        """Listen for migrations."""
        pre_migrate.connect(_stand_aside, sender=self)
        post_migrate.connect(_watch, sender=self)
