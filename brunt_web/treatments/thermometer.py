"""A thermometer that is not there: what a probe in a pack would read. For demonstration and tests.

It stands in for a device on the network; anything that can post a reading to the run's address does.
"""

from datetime import datetime
from math import exp, sin

LAG, CONSTANT, OVEN_CONSTANT, ROOM = 900.0, 2760.0, 420.0, 295.15


def oven_at(seconds: float, target: float) -> float:
    """The oven, K, so many seconds after it was switched on: it rises and then hunts by 2 K.

    >>> round(oven_at(0.0, 463.15), 2), abs(oven_at(1e5, 463.15) - 463.15) < 2.1
    (295.15, True)
    """
    risen = target - (target - ROOM) * exp(-max(seconds, 0.0) / OVEN_CONSTANT)
    return risen + 2.0 * sin(seconds / 300.0) * (1 - exp(-max(seconds, 0.0) / OVEN_CONSTANT))


def core_at(seconds: float, target: float) -> float:
    """The core of a pack, K: nothing for a quarter of an hour, then a first-order approach.

    >>> round(core_at(600.0, 463.15), 2), round(core_at(900.0 + 2760.0, 463.15), 2)
    (295.15, 401.35)
    """
    if seconds <= LAG:
        return ROOM
    return target - (target - ROOM) * exp(-(seconds - LAG) / CONSTANT)


def seconds_between(start: datetime, now: datetime) -> float:
    """Seconds from one moment to another."""
    return (now - start).total_seconds()
