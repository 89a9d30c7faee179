"""Puts the signed-in person's seat and workshop on the request; sends strangers to sign in first."""

from collections.abc import Callable
from urllib.parse import urlsplit

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.contrib.auth.models import User
from django.contrib.auth.views import redirect_to_login
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.http.response import HttpResponseBase
from django.urls import reverse
from django.utils.functional import SimpleLazyObject
from django.utils.http import url_has_allowed_host_and_scheme

from brunt_web.people.actions.seats import ensure_seat
from brunt_web.people.queries import seat_of

Answer = Callable[[HttpRequest], HttpResponse]


class SeatMiddleware:
    """``request.seat`` and ``request.workshop``, read when first used."""

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        def seat() -> object:
            assert isinstance(request.user, User)
            return seat_of(request.user) or ensure_seat(request.user)

        request.seat = SimpleLazyObject(seat)  # type: ignore[attr-defined]
        request.workshop = SimpleLazyObject(lambda: request.seat.workshop)  # type: ignore[attr-defined]
        return self.get_response(request)


class SignInFirstMiddleware(LoginRequiredMiddleware):
    """Whoever is not signed in goes to sign in, and after that to a page that can be opened.

    What a form sent cannot be sent again by opening its address: the way back is the page it stood on.
    """

    def handle_no_permission(
        self, request: HttpRequest, view_func: Callable[..., HttpResponseBase]
    ) -> HttpResponseRedirect:
        """To the sign-in page, with the way back."""
        if request.method in ("GET", "HEAD"):
            return super().handle_no_permission(request, view_func)
        came_from = request.headers.get("Referer", "")
        here = url_has_allowed_host_and_scheme(came_from, {request.get_host()})
        back = urlsplit(came_from).path if came_from and here else reverse("start")
        return redirect_to_login(back, self.get_login_url(view_func))
