"""Furnishes a new workshop with its standard procedures, so that opening a page never has to."""

from typing import Any

from django.apps import AppConfig


def _furnish(sender: Any, workshop: Any, **more: Any) -> None:
    from brunt_web.library.actions.standard_procedures import ensure_standard_procedures

    ensure_standard_procedures(workshop)


class Library(AppConfig):
    """What the workshop has, and what is known of it."""

    name = "brunt_web.library"

    def ready(self) -> None:
        """Listen for new workshops."""
        from brunt_web.people.models import founded

        founded.connect(_furnish)
