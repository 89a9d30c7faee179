"""Working hours as spells of elapsed minutes, whatever the clocks on the wall do."""

from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from django.conf import settings

from brunt_web.days.models import Hours
from brunt_web.people.models import Workshop

# Zones by user, each with the moment (monotonic) until which it is believed; emptied when hours change.
known_zones: dict[int, tuple[float, ZoneInfo | None]] = {}


def hours_of(workshop: Workshop) -> Hours:
    """The workshop's hours, made when first asked for, in the server's zone."""
    found, _ = Hours.objects.get_or_create(
        workshop=workshop,
        defaults={
            "zone": settings.TIME_ZONE,
            "people": max(workshop.seats.count(), 1),
        },
    )
    return found


def zone_of(hours: Hours) -> ZoneInfo:
    """The zone, or UTC where it is not known on this machine."""
    try:
        return ZoneInfo(hours.zone)
    except (ZoneInfoNotFoundError, ValueError):
        return ZoneInfo("UTC")


def spells(hours: Hours, start: datetime, days: int) -> list[tuple[datetime, datetime]]:
    """The moments between which somebody is there, from a moment on, for so many days."""
    zone = zone_of(hours)
    first = start.astimezone(zone).date()
    found = []
    for i in range(days + 1):
        for begin, end in _of_day(hours, first + timedelta(days=i), zone):
            if end > start:
                found.append((begin, end))
    return found


def _of_day(hours: Hours, day: date, zone: ZoneInfo) -> list[tuple[datetime, datetime]]:
    found = []
    for begin, end in hours.week.get(str(day.weekday()), []):
        a = datetime.combine(day, time.fromisoformat(begin), zone)
        b = datetime.combine(day, time.fromisoformat(end), zone)
        if b <= a:
            b = datetime.combine(day + timedelta(days=1), time.fromisoformat(end), zone)
        found.append((a, b))
    return found
