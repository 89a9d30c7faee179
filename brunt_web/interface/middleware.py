"""Says how long the server worked on an answer; refuses what no page could read."""

from collections.abc import Callable
from time import perf_counter
from typing import Any

from django.conf import settings
from django.core.exceptions import BadRequest
from django.db import DataError, IntegrityError, connection
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


class CleanInputMiddleware:
    """Refuses control characters that no database keeps, and says so when two people collide.

    A NUL in an address or a field ends in "Request not readable"; what the database will not have
    (two at the same moment, a value out of all bounds) ends in one sentence, nothing stored.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_view(self, request: HttpRequest, view: Any, args: Any, kwargs: Any) -> None:
        """Look at what was sent before a view does."""
        sent = [request.path, *request.GET.values()]
        if request.method == "POST" and request.content_type != "multipart/form-data":
            sent += [v for values in request.POST.lists() for v in values[1]]
        if any("\x00" in text for text in sent):
            raise BadRequest("NUL")

    def process_exception(self, request: HttpRequest, problem: Exception) -> HttpResponse | None:
        """A collision or an impossible value, in one sentence."""
        if not isinstance(problem, IntegrityError | DataError):
            return None
        together = isinstance(problem, IntegrityError)
        said = (
            "Someone else changed this at the same time. Your change was not saved."
            if together
            else "The database could not save this. Nothing was saved."
        )
        if request.headers.get("X-Part"):
            return HttpResponse(said, status=422, content_type="text/plain; charset=utf-8")
        words = {
            "title": "Not saved",
            "happened": said,
            "todo": "Check the values, then send again.",
        }
        return render(request, "interface/sorry.html", words, status=409 if together else 400)


class OpenedMiddleware:
    """An address that only takes what a form sends, opened as a page, says so and leads on."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if response.status_code != 405 or request.method != "GET" or response.content:
            return response
        words = {
            "title": "Not a page",
            "happened": "This address receives forms; it is not a page.",
            "todo": "Go back to the page you came from. Nothing was changed.",
        }
        page = render(request, "interface/sorry.html", words, status=405)
        page["Allow"] = response["Allow"]
        return page


class NotKeptMiddleware:
    """What somebody signed in sees stays in no store of a shared tablet, nor in a proxy's."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        page = response.get("Content-Type", "").startswith("text/html")
        if (
            page
            and "Cache-Control" not in response
            and settings.SESSION_COOKIE_NAME in request.COOKIES
        ):
            response["Cache-Control"] = "private, no-store"
        return response


class ServerTimingMiddleware:
    """Adds ``Server-Timing`` with milliseconds and the number of queries."""

    def __init__(self, get_response: Any) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> Any:
        counter = _Counter()
        begun = perf_counter()
        with connection.execute_wrapper(counter):
            response = self.get_response(request)
        spent = (perf_counter() - begun) * 1000
        response["Server-Timing"] = f'app;dur={spent:.1f}, db;desc="{counter.queries} queries"'
        return response


class _Counter:
    def __init__(self) -> None:
        self.queries = 0

    def __call__(self, execute: Any, sql: Any, params: Any, many: Any, context: Any) -> Any:
        self.queries += 1
        return execute(sql, params, many, context)
