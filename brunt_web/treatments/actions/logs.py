"""The log of a run: typed, pasted, from a file, the door, a thermometer."""

from datetime import datetime, timedelta

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.treatments.logs import read_log
from brunt_web.interface.bounded import read_bounded
from brunt_web.treatments.models import LogReading, Run

KINDS = {
    "core": "core",
    "oven": "oven, bath or room",
    "humidity": "humidity",
    "mass": "mass of the lot",
    "door": "door opened",
}
_NAMES = {
    "core": ("core", "core temperature", "kern"),
    "oven": ("oven", "temperature", "bath", "water", "room", "ofen"),
}
MOST = 5000
MOST_WATER = 0.15


@transaction.atomic
def add_reading(
    run: Run, by: User | None, at: datetime, what: str, text: str, source: str = "typed"
) -> LogReading:
    """One reading, of a temperature or a humidity, or that the door was opened.

    Raises :class:`InputError` for what cannot be read, a moment before the run began or one that
    has a reading already.
    """
    run = Run.objects.select_for_update(of=("self",)).get(pk=run.pk)
    if what not in KINDS:
        raise InputError("Choose what was read.", "what")
    if run.started_at is None or at < run.started_at:
        raise InputError("That is before the run started.", "at")
    value = None if what == "door" else _value(what, text)
    if what == "mass" and value is not None:
        _possible_mass(run, value)
    at = at.replace(microsecond=0)
    row, fresh = LogReading.objects.get_or_create(
        run=run,
        what=what,
        at=at,
        defaults={"value": value, "text": text.strip()[:60], "source": source, "by": by},
    )
    if not fresh and row.value != value:
        raise InputError(f"The {KINDS[what]} has a reading at {at:%H:%M:%S} already.", "at")
    return row


def _possible_mass(run: Run, mass: float) -> None:
    """Refuse a mass that no drying leaves: heavier than before, or lighter by more than any water."""
    first = run.log.filter(what="mass").order_by("at").first()
    if first is None or not first.value:
        return
    change = mass / first.value - 1
    if change > 0.002:
        raise InputError(f"It is {change * 100:.1f} % heavier than before it was dried.", "text")
    if change < -MOST_WATER:
        raise InputError(
            f"It lost {-change * 100:.0f} %: more than any filament holds of water. Weigh again, with its spool.",
            "text",
        )


def _value(what: str, text: str) -> float:
    if what == "mass":
        mass = parse(text, "mass", "g").si
        if mass <= 0:
            raise InputError("A mass must be more than zero.", "text")
        return mass
    if what == "humidity":
        share = parse(text, "ratio", "%").si
        if not 0 <= share <= 1:
            raise InputError("A humidity lies between 0 and 100 %.", "text")
        return share
    try:
        found = parse(text, "temperature", "°C").si
    except InputError as error:
        raise error.at("text") from None
    if not 73.15 <= found <= 773.15:
        raise InputError(
            f"{text} is no temperature of an oven, a bath or a freezer (−200 to 500 °C).", "text"
        )
    return found


@transaction.atomic
def bring_log(run: Run, by: User, text: str) -> tuple[int, tuple[str, ...]]:
    """A whole log: a table with a time and a core, an oven, or both. Times count from the start of
    the run, unless they are dates. Returns how many readings, and remarks (gaps).

    Raises :class:`InputError` where it holds neither, or lies before the run.
    """
    if run.started_at is None:
        raise InputError("The run has not begun.", "log")
    rows: list[LogReading] = []
    remarks: list[str] = []
    problems: list[InputError] = []
    for what, names in _NAMES.items():
        try:
            log = read_bounded(read_log, text, names, "temperature", "°C", "min")
        except InputError as error:
            problems.append(error)
            continue
        start = log.began or run.started_at
        if start.tzinfo is None:
            start = start.replace(tzinfo=run.started_at.tzinfo)
        if start < run.started_at - timedelta(minutes=1):
            raise InputError("The log begins before the run.", "log")
        remarks += [f"{KINDS[what].capitalize()}: {r}" for r in log.remarks]
        rows += [
            LogReading(
                run=run,
                what=what,
                at=(start + timedelta(seconds=r.time)).replace(microsecond=0),
                value=r.value,
                source="file",
                by=by,
            )
            for r in log.rows[:MOST]
        ]
    if not rows:
        raise problems[0].at("log") if problems else InputError("Nothing to read.", "log")
    LogReading.objects.bulk_create(rows, ignore_conflicts=True)
    return len(rows), tuple(remarks)


@transaction.atomic
def forget_reading(run: Run, pk: int) -> None:
    """Take a reading off again."""
    run.log.filter(pk=pk).delete()
