"""Django's templates, whose tags are imported when a template first asks for them and not with the first page."""

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

import django
from django.apps import apps
from django.template import Library
from django.template.backends.django import DjangoTemplates

from brunt_web.interface.later import imported


class Templates(DjangoTemplates):
    """The backend of all pages."""

    def __init__(self, params: dict[str, Any]) -> None:
        super().__init__(params)
        self.engine.template_libraries = _Libraries()  # type: ignore[assignment]

    def get_templatetag_libraries(self, custom_libraries: Any) -> dict[str, str]:
        """None are imported now."""
        return {}


class _Libraries(Mapping[str, Library]):
    """The tags of Django and of the apps, by the name a template loads them by."""

    def __init__(self) -> None:
        homes = {"django": Path(django.__file__).parent} | {
            app.name: Path(app.path) for app in apps.get_app_configs()
        }
        self._modules = {
            file.stem: f"{name}.templatetags.{file.stem}"
            for name, home in homes.items()
            for file in sorted((home / "templatetags").glob("[!_]*.py"))
        }

    def __getitem__(self, name: str) -> Library:
        library: Library = imported(self._modules[name]).register
        return library

    def __iter__(self) -> Iterator[str]:
        return iter(self._modules)

    def __len__(self) -> int:
        return len(self._modules)
