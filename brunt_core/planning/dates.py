"""When a plan would be done: lanes from printing to the last test, on working days. Judgement, no source."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from math import ceil

_DAY_STARTS, _DAY_HOURS = 9, 8.0


@dataclass(frozen=True)
class Work:
    """What a plan takes: hours on one printer over so many plates, hours that only wait, hours at the rig.

    ``waiting`` is the longest wait between print and test (treatments, drying, age); ``running`` the
    longest test that goes by itself once begun.
    """

    print_hours: float
    plates: int
    waiting: float = 0.0
    rig_hours: float = 0.0
    running: float = 0.0


@dataclass(frozen=True)
class DateLane:
    """One kind of work from its first to its last hour."""

    name: str
    start: datetime
    end: datetime


def lanes(now: datetime, work: Work) -> list[DateLane]:
    """When each kind of work begins and ends, if it is begun now.

    One printer, plates one after the other, each begun while somebody is there (9 to 17, Monday to
    Friday) and left to finish; the tests when all are printed and have waited, since their order is
    shuffled, eight hours a day. Limits: nothing else stands in the queue; the schedule shows the rest.

    >>> at = datetime.fromisoformat("2026-03-02T09:00")
    >>> [(l.name, l.end.isoformat()) for l in lanes(at, Work(10.0, 2, 0.0, 9.0))]
    [('print', '2026-03-02T19:00:00'), ('test', '2026-03-04T10:00:00')]
    """
    found = []
    free = now
    if work.plates and work.print_hours > 0:
        each = timedelta(hours=work.print_hours / work.plates)
        start = working(now)
        free = start
        for _ in range(min(work.plates, 2000)):
            free = working(free) + each
        found.append(DateLane("print", start, free))
    if work.waiting > 0:
        ready = free + timedelta(hours=work.waiting)
        found.append(DateLane("wait", free, ready))
        free = ready
    if work.rig_hours > 0:
        start = working(free)
        free = _worked(start, work.rig_hours)
        found.append(DateLane("test", start, free))
        if work.running > 0:
            found.append(DateLane("run on", free, free + timedelta(hours=work.running)))
    return found


def working(at: datetime) -> datetime:
    """This moment, or the next at which somebody is there.

    >>> working(datetime.fromisoformat("2026-03-06T18:00")).isoformat()
    '2026-03-09T09:00:00'
    """
    while at.weekday() > 4 or at.hour + at.minute / 60 >= _DAY_STARTS + _DAY_HOURS:
        at = _morning(at + timedelta(days=1))
    return max(at, _morning(at))


def _morning(at: datetime) -> datetime:
    return at.replace(hour=_DAY_STARTS, minute=0, second=0, microsecond=0)


def _worked(start: datetime, hours: float) -> datetime:
    """So many hours of work later."""
    at, left = start, hours
    for _ in range(ceil(hours / _DAY_HOURS) + 2):
        today = _DAY_HOURS - (at - _morning(at)).total_seconds() / 3600
        if left <= today + 1e-9:
            return at + timedelta(hours=left)
        left -= today
        at = working(_morning(at) + timedelta(hours=_DAY_HOURS))
    return at
