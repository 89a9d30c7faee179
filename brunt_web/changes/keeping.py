"""Pages kept by the process that made them, and shown again while nothing was written since.

A page of Compare over many hundred specimens takes long to work out and seconds are read, turned and opened
again. It depends on rows of the database, on who asks and what for, and on the day. The first are asked by
:mod:`brunt_web.changes.pulse`, exactly; the others are part of the name it is kept by.
"""

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from threading import Lock
from time import monotonic
from typing import Any
from zlib import compress, decompress

from django.contrib.messages import get_messages
from django.db import connection
from django.http import HttpResponse
from django.utils import timezone

from brunt_web.changes import pulse
from brunt_web.interface.tokens import with_own_token
from brunt_web.people.requests import SeatedRequest

View = Callable[..., HttpResponse]
_MOST_BYTES, _LONGEST = 16_000_000, 3600.0
_PARTS = ("X-Part", "HX-Request", "HX-Target")


@dataclass(frozen=True)
class _Page:
    moment: pulse.Moment
    made: float
    headers: dict[str, str]
    body: bytes


class _Shelf:
    """The pages last asked for, up to so many bytes."""

    def __init__(self) -> None:
        self._pages: OrderedDict[tuple, _Page] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    def get(self, name: tuple) -> _Page | None:
        with self._lock:
            if name in self._pages:
                self._pages.move_to_end(name)
            return self._pages.get(name)

    def put(self, name: tuple, page: _Page) -> None:
        with self._lock:
            if former := self._pages.pop(name, None):
                self._bytes -= len(former.body)
            self._pages[name] = page
            self._bytes += len(page.body)
            while self._bytes > _MOST_BYTES:
                self._bytes -= len(self._pages.popitem(last=False)[1].body)

    def clear(self) -> None:
        with self._lock:
            self._pages.clear()
            self._bytes = 0


shelf = _Shelf()


def kept_page(seconds: float = _LONGEST) -> Callable[[View], View]:
    """A view whose page is shown again while nothing was written since, and for so many ``seconds`` at most.

    The seconds are for what moves with the clock alone, such as what is due. What waits to be said to this
    person (a message) is never kept, nor an answer that is not a whole page, nor one made within a
    transaction: its own writing is in no snapshot's list of what is still open.
    """

    def around(view: View) -> View:
        @wraps(view)
        def kept(request: SeatedRequest, *args: Any, **kwargs: Any) -> HttpResponse:
            if request.method != "GET" or connection.in_atomic_block or len(get_messages(request)):
                return view(request, *args, **kwargs)
            name = _name(request)
            found = shelf.get(name)
            if found and monotonic() - found.made > seconds:
                found = None
            moment, still = pulse.look(found.moment if found else None)
            if found and still:
                return _shown(request, found)
            response = view(request, *args, **kwargs)
            if response.status_code == 200 and not response.streaming and not response.cookies:
                headers = dict(response.items())
                shelf.put(name, _Page(moment, monotonic(), headers, compress(response.content, 1)))
            return response

        return kept

    return around


def _name(request: SeatedRequest) -> tuple:
    """What a page hangs on besides the database's rows."""
    return (
        request.get_full_path(),
        request.get_host(),
        request.user.pk,
        request.workshop.pk,
        timezone.get_current_timezone_name(),
        timezone.localdate(),
        *(request.headers.get(h, "") for h in _PARTS),
    )


def _shown(request: SeatedRequest, page: _Page) -> HttpResponse:
    """It again, with this session's token in its forms."""
    body = with_own_token(request, decompress(page.body))
    return HttpResponse(body, headers=page.headers)
