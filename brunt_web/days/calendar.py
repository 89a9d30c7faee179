"""The plan as an iCalendar file (RFC 5545)."""

from collections.abc import Mapping
from datetime import datetime, timedelta

from brunt_web.days.planning import DayTable


def calendar_of(
    table: DayTable, starts: Mapping[str, int], name: str, host: str, now: datetime
) -> bytes:
    """Every placed job and every timed reading as an event, times in UTC.

    A reading lies at its elapsed time, so that a change to summer time does not move it.
    """
    from icalendar import Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Brunt//schedule//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for key, job in table.jobs.items():
        if job.fixed is not None:
            start, minutes = job.fixed, float(job.minutes)
        elif key in starts:
            start = job.began or table.moment(starts[key])
            minutes = float(job.minutes)
        else:
            continue
        event = Event()
        event.add("uid", f"{key}@{host}")
        event.add("summary", job.label)
        event.add("dtstamp", now)
        event.add("dtstart", start)
        event.add("dtend", start + timedelta(minutes=minutes))
        lane = next((x.name for x in table.lanes if x.key == job.lane), "")
        event.add("location", lane)
        if job.window:
            event.add("description", f"within {job.window:.0f} min of it")
        calendar.add_component(event)
    return bytes(calendar.to_ical())
