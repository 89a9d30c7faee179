"""A plan as plain data, in and out."""

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any

from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.scheduling.reasons import reasons
from brunt_core.scheduling.solve import Plan
from brunt_core.scheduling.tasks import Resource, SchedulingProblem, Spell, Task, spells_of_days

MOST = 1000


def read_problem(document: Any) -> tuple[SchedulingProblem, datetime]:
    """The problem of a document, and when its minute 0 is.

    ``start`` is a date and time (ISO 8601). ``hours`` are the working spells: each day's, as
    ``["08:00", "12:00"]`` or hours of the day ``[8, 12]``, or single ones as dates and times; none
    given means that somebody is always there; ``people`` how many attended tasks at once. ``not_before`` and ``due`` are dates and times, or
    minutes from the start; ``temperature`` a text as "80 degC" or a number in °C.

    Raises :class:`InputError` with one sentence for anything that is not so.

    >>> p, start = read_problem({"start": "2026-03-02T08:00", "resources": [{"id": "oven"}],
    ...     "tasks": [{"id": "a", "resource": "oven", "minutes": 60, "due": "2026-03-02T10:00"}]})
    >>> p.tasks[0].due, p.resources[0].capacity, start.hour
    (120, 1, 8)
    """
    if not isinstance(document, Mapping):
        raise InputError("The file holds no object with start, resources and tasks.", "FILE")
    start = _moment(document.get("start"), "start")
    resources = tuple(_resource(r) for r in _list(document, "resources"))
    listed = _list(document, "tasks")
    if len(listed) > MOST:
        raise InputError(f"{len(listed)} tasks are too many; {MOST} are the most.", "tasks")
    tasks = tuple(_task(t, start) for t in listed)
    people = document.get("people")
    if people is not None and (
        isinstance(people, bool) or not isinstance(people, int) or people < 1
    ):
        raise InputError("“people” is not a whole number of them.", "people")
    spells = _spells(document.get("hours"), start, tasks)
    return SchedulingProblem(resources, tasks, spells, people), start


def plan_record(problem: SchedulingProblem, plan: Plan, start: datetime) -> dict[str, Any]:
    """A plan as plain data: starts and ends as dates, who is late, and why each starts when it does."""

    def clock(minute: int) -> str:
        moment = start + timedelta(minutes=minute)
        return moment.strftime("%H:%M" if moment.date() == start.date() else "%a %d %b %H:%M")

    def stamp(minute: int) -> str:
        return (start + timedelta(minutes=minute)).isoformat()

    return {
        "tasks": [
            {"id": t.id, "start": stamp(plan.starts[t.id]), "end": stamp(plan.ends[t.id])}
            for t in problem.tasks
        ],
        "late": list(plan.late),
        "makespan_minutes": plan.makespan,
        "why": reasons(problem, plan.starts, clock),
        "proven_best": plan.proven,
    }


def _list(document: Mapping, key: str) -> Sequence[Mapping]:
    found = document.get(key)
    if not isinstance(found, list) or not all(isinstance(x, Mapping) for x in found):
        raise InputError(f"“{key}” is not a list of objects.", key)
    return found


def _name(found: Mapping, what: str) -> str:
    name = found.get("id")
    if not isinstance(name, str) or not name.strip():
        raise InputError(f"A {what} has no id.", "id")
    return name


def _whole(value: Any, what: str) -> int:
    if isinstance(value, bool) or not isinstance(value, int | float) or value != int(value):
        raise InputError(f"{what} is not a whole number of minutes: {value}.", what)
    if abs(value) > 10**7:
        raise InputError(f"{what} is too long: {value} min.", what)
    return int(value)


def _resource(found: Mapping) -> Resource:
    name = _name(found, "resource")
    capacity = found.get("capacity", 1)
    if isinstance(capacity, bool) or not isinstance(capacity, int) or capacity > 10**6:
        raise InputError(f"The capacity of {name} is not a whole number: {capacity}.", name)
    return Resource(name, capacity)


def _task(found: Mapping, start: datetime) -> Task:
    name = _name(found, "task")
    after = found.get("after") or []
    if isinstance(after, str):
        after = [after]
    if not isinstance(after, list) or not all(isinstance(a, str) for a in after):
        raise InputError(f"“after” of {name} is not a list of ids.", name)
    gap = found.get("gap_max_minutes")
    if gap is not None and _whole(gap, f"gap_max_minutes of {name}") < 0:
        raise InputError(f"gap_max_minutes of {name} is below zero.", name)
    attended, holds = found.get("attended", False), found.get("holds", False)
    for said, word in ((attended, "attended"), (holds, "holds")):
        if not isinstance(said, bool):
            raise InputError(f"“{word}” of {name} is neither true nor false.", name)
    due = found.get("due")
    return Task(
        name,
        str(found.get("resource", "")),
        _whole(found.get("minutes"), f"minutes of {name}"),
        attended=attended,
        after=tuple(dict.fromkeys(after)),
        gap_max=None if gap is None else _whole(gap, name),
        temperature=_kelvin(found.get("temperature"), name),
        not_before=max(_minute(found.get("not_before"), start, f"not_before of {name}") or 0, 0),
        due=_minute(due, start, f"due of {name}"),
        amount=_whole(found.get("amount", 1), f"amount of {name}"),
        holds=holds,
    )


def _kelvin(value: Any, name: str) -> float | None:
    if value is None:
        return None
    text = f"{value} °C" if isinstance(value, int | float) else str(value)
    try:
        return parse(text, "temperature", "°C").si
    except InputError as error:
        raise InputError(f"temperature of {name}: {error.sentence}", name) from None


def _moment(value: Any, what: str) -> datetime:
    try:
        return datetime.fromisoformat(str(value))
    except ValueError:
        raise InputError(f"“{what}” is not a date and time: {value}.", what) from None


def _minute(value: Any, start: datetime, what: str) -> int | None:
    """Minutes from the start, of a number of them or a date; a part of a minute counts as one."""
    if value is None:
        return None
    if isinstance(value, int | float) and not isinstance(value, bool):
        return _whole(value, what)
    moment = _moment(value, what)
    if (moment.tzinfo is None) != (start.tzinfo is None):
        raise InputError(f"{what} has a time zone and the start has none, or the other way.", what)
    seconds = (moment - start).total_seconds()
    return int(-(-seconds // 60)) if not what.startswith("due") else int(seconds // 60)


def _spells(hours: Any, start: datetime, tasks: Sequence[Task]) -> tuple[Spell, ...]:
    days = 30 + 3 * sum(t.minutes for t in tasks) // 1440
    days += max((t.not_before for t in tasks), default=0) // 1440
    if hours is None:
        return ((0, days * 1440),)
    pairs = isinstance(hours, list) and all(isinstance(h, list) and len(h) == 2 for h in hours)
    if not pairs:
        raise InputError("“hours” is not a list of [from, to].", "hours")
    daily = [(_of_day(a), _of_day(b)) for a, b in hours]
    if all(a is not None and b is not None for a, b in daily):
        first = start.hour * 60 + start.minute
        whole = [(a, b) for a, b in daily if a is not None and b is not None]
        if any(a == b for a, b in whole):
            raise InputError("“hours” has a spell that ends when it starts.", "hours")
        return spells_of_days(whole, first, min(days, 400))
    single = [(_minute(a, start, "hours"), _minute(b, start, "due hours")) for a, b in hours]
    found = tuple((a, b) for a, b in single if a is not None and b is not None)
    if any(b <= a for a, b in found):
        raise InputError("“hours” has a spell that ends before it begins.", "hours")
    return _joined(found)


def _joined(spells: Sequence[Spell]) -> tuple[Spell, ...]:
    joined: list[Spell] = []
    for a, b in sorted(spells):
        if joined and a <= joined[-1][1]:
            joined[-1] = (joined[-1][0], max(b, joined[-1][1]))
        else:
            joined.append((a, b))
    return tuple(joined)


def _of_day(value: Any) -> int | None:
    """Minutes of the day of “08:30” or 8.5; ``None`` for a date."""
    if isinstance(value, int | float) and not isinstance(value, bool) and 0 <= value <= 24:
        return round(value * 60)
    text = str(value)
    hour, colon, minute = text.partition(":")
    if colon and hour.isdigit() and minute[:2].isdigit() and len(text) <= 8 and int(hour) <= 24:
        return int(hour) * 60 + int(minute[:2])
    return None
