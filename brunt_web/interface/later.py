"""Views that are imported when one of them is first asked for, so that the server answers its first page sooner."""

from collections.abc import Callable
from importlib import import_module
from threading import RLock
from typing import Any

from django.http import HttpRequest
from django.http.response import HttpResponseBase

# One thread imports at a time: two that import modules which need each other can each find one half made.
_lock = RLock()
_known: dict[str, "Later"] = {}


def later(module: str) -> "Later":
    """A module's views, as ``from … import`` gives them, but not imported yet.

    >>> later("brunt_web.rack.views").start.__qualname__
    'start'
    """
    return _known.setdefault(module, Later(module))


def import_all() -> None:
    """Import every module whose views were told so far."""
    for module in list(_known):
        imported(module)


def imported(module: str) -> Any:
    """A module, imported by one thread at a time."""
    with _lock:
        return import_module(module)


class Later:
    """A module that is not imported yet; whatever is asked of it is a view."""

    def __init__(self, module: str) -> None:
        self._module = module

    def __getattr__(self, name: str) -> "LaterView":
        if name.startswith("__"):
            raise AttributeError(name)
        return LaterView(self._module, name)


class LaterView:
    """One of its views. What is set on it (that it needs no session, say) is asked of the view itself."""

    def __init__(self, module: str, name: str) -> None:
        self.__module__, self.__name__, self.__qualname__ = module, name, name

    def __call__(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        return self.view()(request, *args, **kwargs)

    def __getattr__(self, name: str) -> Any:
        # Django asks each address for the class of its view; these are functions.
        if name == "view_class":
            raise AttributeError(name)
        return getattr(self.view(), name)

    def view(self) -> Callable[..., HttpResponseBase]:
        """The view itself, imported now."""
        view: Callable[..., HttpResponseBase] = getattr(imported(self.__module__), self.__name__)
        return view
