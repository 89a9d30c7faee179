"""Puts the signed-in person's seat and workshop on the request; sends strangers to sign in first."""

from collections.abc import Callable
from copy import copy
from urllib.parse import urlsplit

from django.conf import settings
from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.contrib.auth.models import User
from django.contrib.auth.views import redirect_to_login
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.http.response import HttpResponseBase
from django.shortcuts import render
from django.urls import reverse
from django.utils.functional import SimpleLazyObject
from django.utils.http import url_has_allowed_host_and_scheme

from brunt_web.people.actions.seats import ensure_seat
from brunt_web.people.identity import FIELD, is_uuid
from brunt_web.people.kept import sealed_form
from brunt_web.people.models import Seat
from brunt_web.people.queries import seat_of
from brunt_web.people.roles import READER, may, needed

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

    def process_view(
        self, request: HttpRequest, view: object, args: object, kwargs: object
    ) -> HttpResponse | None:
        """A request that names a workshop is answered in that one, whichever its person is in now."""
        named = named_workshop(request) if request.user.is_authenticated else ""
        own: Seat = request.seat  # type: ignore[attr-defined]
        if not named or named == str(own.workshop.uuid):
            return None
        shop = own.also.filter(uuid=named).first() if is_uuid(named) else None
        if shop is None:
            return _not_there(request)
        moved = copy(own)
        moved.workshop, moved.rights = shop, own.rights_in(shop)
        request.seat, request.workshop = moved, shop  # type: ignore[attr-defined]
        return None


def named_workshop(request: HttpRequest) -> str:
    """The workshop that a form, an entry or a script says it belongs to; empty where it says nothing."""
    named = request.headers.get("X-Workshop", "")
    if not named and request.method == "POST":
        named = str(request.POST.get(FIELD, ""))
    return named


def _not_there(request: HttpRequest) -> HttpResponse:
    """What is sent for a workshop that its person does not belong to is not stored anywhere."""
    said = "This was entered in another workshop, which you no longer belong to. Nothing was saved."
    todo = "Ask an owner of that workshop to invite you, then send it again."
    return _refusal(request, 409, said, "Another workshop", todo)


def _refusal(request: HttpRequest, status: int, said: str, title: str, todo: str) -> HttpResponse:
    """A sentence for a script, a page for a person."""
    if is_part(request):
        return HttpResponse(said, status=status, content_type="text/plain; charset=utf-8")
    words = {"title": title, "happened": said, "todo": todo}
    return render(request, "interface/sorry.html", words, status=status)


class RoleMiddleware:
    """Asks the one table of roles before any view runs; refuses in one sentence that says whom to ask."""

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_view(
        self, request: HttpRequest, view: object, args: object, kwargs: object
    ) -> HttpResponse | None:
        """Nothing where the person may; a page with the reason where not."""
        match = request.resolver_match
        if not request.user.is_authenticated or match is None:
            return None
        least = needed(match.url_name or "", request.method or "GET")
        if least == READER:
            return None
        rights = request.seat.rights  # type: ignore[attr-defined]
        if may(rights, least):
            return None
        said = f"You are a {rights} here; this is for a {least}. Nothing was changed."
        todo = "Ask an owner of the workshop, under People, to do it or to give you the role."
        return _refusal(request, 403, said, "Not allowed in your role", todo)


def is_part(request: HttpRequest) -> bool:
    """Whether a script asks, not somebody who opened a page or sent a form."""
    behind = request.headers.get("Sec-Fetch-Mode", "navigate") != "navigate"
    return behind or any(request.headers.get(h) for h in ("X-Part", "HX-Request"))


class SignInFirstMiddleware(LoginRequiredMiddleware):
    """Whoever is not signed in goes to sign in, and after that to a page that can be opened.

    A part of a page that asks behind the scenes is told so (401) and keeps what it holds. What a form sent
    is kept, sealed, on the page for signing in, and can be sent after that: nothing typed is lost.
    """

    def handle_no_permission(
        self, request: HttpRequest, view_func: Callable[..., HttpResponseBase]
    ) -> HttpResponseRedirect:
        """To the sign-in page, with the way back."""
        if is_part(request):
            said = "You are signed out; this was not saved. Sign in to send it again."
            plain = "text/plain; charset=utf-8"
            return HttpResponse(said, status=401, content_type=plain, headers={"X-Signed-Out": "1"})  # type: ignore[return-value]
        if sealed := sealed_form(request):
            context = {"kept": sealed, "next": reverse("start"), "demo": settings.DEMO}
            return render(request, "people/signed_out.html", context, status=401)  # type: ignore[return-value]
        if request.method in ("GET", "HEAD"):
            return super().handle_no_permission(request, view_func)
        came_from = request.headers.get("Referer", "")
        here = url_has_allowed_host_and_scheme(came_from, {request.get_host()})
        back = urlsplit(came_from).path if came_from and here else reverse("start")
        return redirect_to_login(back, self.get_login_url(view_func))
