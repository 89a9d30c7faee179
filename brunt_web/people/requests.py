"""A request as views have it: with the seat and the workshop of the person who is signed in."""

from django.contrib.auth.models import User
from django.http import HttpRequest

from brunt_web.people.models import Seat, Workshop


class SeatedRequest(HttpRequest):
    """What the middleware of seats makes of a request; for annotations."""

    user: User
    seat: Seat
    workshop: Workshop
