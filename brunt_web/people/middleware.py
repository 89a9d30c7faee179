"""Puts the signed-in person's seat and workshop on the request."""

from typing import Any

from django.http import HttpResponse
from django.utils.functional import SimpleLazyObject

from brunt_web.people.actions.seats import ensure_seat
from brunt_web.people.queries import seat_of


class SeatMiddleware:
    """``request.seat`` and ``request.workshop``, read when first used."""

    def __init__(self, get_response: Any) -> None:
        self.get_response = get_response

    def __call__(self, request: Any) -> HttpResponse:
        request.seat = SimpleLazyObject(lambda: seat_of(request.user) or ensure_seat(request.user))
        request.workshop = SimpleLazyObject(lambda: request.seat.workshop)
        return self.get_response(request)
