"""How the workshop writes things, and when somebody who went away is signed out."""

from collections.abc import Callable
from time import time

from django.contrib.auth import logout
from django.http import HttpRequest, HttpResponse

from brunt_core.quantities.rendering import DECIMAL_SIGN
from brunt_web.interface.ways import (
    WITH_MARKS,
    Ways,
    current,
    with_commas,
    with_points,
    write_for_reader,
)

_SEEN = "seen"


class WaysMiddleware:
    """Sets the workshop's form of dates and decimals for the request; ends a session that lay idle too long."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        token, sign = current.set(Ways()), DECIMAL_SIGN.set(".")
        try:
            self._end_idle(request)
            response = self.get_response(request)
            kind = response.get("Content-Type", "").partition(";")[0]
            if current.get().comma and not response.streaming and kind in WITH_MARKS:
                turn = with_commas if kind == "text/html" else with_points
                response.content = turn(response.content)
            return response
        finally:
            DECIMAL_SIGN.reset(sign)
            current.reset(token)

    def process_view(
        self, request: HttpRequest, view: object, args: object, kwargs: object
    ) -> None:
        """For pages that somebody signed in opens."""
        if getattr(view, "login_required", True) and request.user.is_authenticated:
            shop = request.workshop  # type: ignore[attr-defined]
            current.set(Ways(shop.date_form, shop.comma))
            # A request that stores begins to write its answer with the template; a file keeps its points.
            if request.method in ("GET", "HEAD") and "." not in request.path.rpartition("/")[2]:
                write_for_reader()

    def _end_idle(self, request: HttpRequest) -> None:
        """Sign out who has asked for nothing as long as the workshop allows; noted once in a while."""
        seen, now = request.session.get(_SEEN), time()
        limit = request.session.get("idle")
        if limit and seen and now - seen > limit * 60:
            logout(request)
            return
        if seen is None and "_auth_user_id" not in request.session:
            return
        if seen is None or now - seen > 60:
            shop = getattr(getattr(request.user, "seat", None), "workshop", None)
            request.session["idle"] = shop.idle_minutes if shop else 0
            request.session[_SEEN] = int(now)
            hand = "Mobi" in request.headers.get("User-Agent", "")
            device = "a phone or tablet" if hand else "a computer"
            request.session["from"] = [device, request.META.get("REMOTE_ADDR", "")]
