"""Times are shown in the workshop's zone, on every page."""

from collections.abc import Callable
from time import monotonic
from zoneinfo import ZoneInfo

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from brunt_web.days.hours import known_zones, zone_of
from brunt_web.days.models import Hours

_KEPT = 30.0


class ZoneMiddleware:
    """Activates the zone; looked up at most twice a minute in each server process."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            return self.get_response(request)
        finally:
            timezone.deactivate()

    def process_view(self, request: HttpRequest, view: Callable, args: tuple, kwargs: dict) -> None:
        """Only for pages that somebody signed in opens."""
        if not getattr(view, "login_required", True) or not request.user.is_authenticated:
            return
        zone = self.zone(int(request.user.pk))
        if zone:
            timezone.activate(zone)

    def zone(self, user: int) -> ZoneInfo | None:
        """The zone of somebody's workshop; ``None`` where it is the server's."""
        until, zone = known_zones.get(user, (0.0, None))
        if monotonic() >= until:
            hours = Hours.objects.filter(workshop__seats__user=user).first()
            other = hours is not None and hours.zone != settings.TIME_ZONE
            zone = zone_of(hours) if hours and other else None
            known_zones[user] = (monotonic() + _KEPT, zone)
        return zone
