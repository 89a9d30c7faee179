"""Sets the triggers up after every migration."""

from typing import Any

from django.apps import AppConfig
from django.db import connections
from django.db.models.signals import post_migrate


def _watch(sender: AppConfig, using: str = "default", **more: Any) -> None:
    """The triggers, as the tables are now."""
    from brunt_web.changes.sql import set_up

    with connections[using].cursor() as cursor:
        set_up(cursor)


class Changes(AppConfig):
    """Who changed what, when, from what to what."""

    name = "brunt_web.changes"

    def ready(self) -> None:
        """Listen for migrations."""
        post_migrate.connect(_watch, sender=self)
