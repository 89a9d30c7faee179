"""Each request says who is at work, so that what is written down has a name."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from brunt_web.people.at_work import name_worker


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
