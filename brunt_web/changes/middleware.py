"""Tells the database who is at work, so that what its triggers write down has a name."""

from collections.abc import Callable

from django.conf import settings
from django.db import connection
from django.http import HttpRequest, HttpResponse


def name_worker(who: str, workshop: str) -> None:
    """Set who is at work on this connection, where it does not know yet; empty for nobody.

    Said once for a connection and person: it stays until another is named. Behind a pooler that hands a
    connection to another client between two transactions the names could be another's.
    """
    connection.ensure_connection()
    inner, told = connection.connection, f"{who} {workshop}"
    if not settings.TESTING and getattr(inner, "brunt_worker", " ") == told:
        return
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT set_config('brunt.who', %s, false), set_config('brunt.workshop', %s, false)",
            [who, workshop],
        )
    inner.brunt_worker = told  # type: ignore[union-attr]


class WorkerMiddleware:
    """Names the signed-in person before a view runs that may write, nobody where none is signed in."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_view(
        self, request: HttpRequest, view: object, args: object, kwargs: object
    ) -> None:
        """Name them."""
        if not getattr(view, "login_required", True) and request.method in ("GET", "HEAD"):
            return
        if request.user.is_authenticated:
            shop = request.workshop  # type: ignore[attr-defined]
            name_worker(str(request.user.pk), str(shop.pk))
        else:
            name_worker("", "")
