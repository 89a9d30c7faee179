"""What was read on the day, of the rig and not of a specimen: start angle, free swing."""

from dataclasses import dataclass
from datetime import date, datetime

from django.db.models import Q
from django.utils import timezone

from brunt_core.computation import read_input
from brunt_core.computation.working import bounded_text
from brunt_core.errors import InputError
from brunt_core.methods.base import Input
from brunt_core.quantities.rendering import render
from brunt_web.campaigns.models import Turn
from brunt_web.library.models import Procedure, Rig
from brunt_web.testing.models import DayReading


@dataclass(frozen=True)
class OfDay:
    """One thing of the day: what it is, and what was read of it last, in words."""

    spec: Input
    text: str = ""
    words: str = ""


def daily_inputs(procedure: Procedure) -> list[Input]:
    """The inputs of its method that belong to the day."""
    return [i for i in procedure.method.inputs if i.daily]


def daily_texts(turn: Turn) -> dict[str, str]:
    """What was read on the day of this test (today, while it is not tested), by input key.

    Read once while the turn is in hand; no query where the method has nothing of the day.
    """
    if not daily_inputs(turn.procedure):
        return {}
    known: dict[str, str] | None = vars(turn).get("daily")
    if known is None:
        when = turn.tested_at or timezone.now()
        known = vars(turn)["daily"] = {r.key: r.text for r in _of(turn.procedure, when)}
    return known


def of_day(turn: Turn) -> list[OfDay]:
    """Everything of the day with its mean, variation and count in words."""
    texts = daily_texts(turn)
    return [
        OfDay(i, texts.get(i.key, ""), _words(i, texts[i.key]) if i.key in texts else "")
        for i in daily_inputs(turn.procedure)
    ]


def _of(procedure: Procedure, when: datetime) -> list[DayReading]:
    """The readings of that day for its rig, or for itself where it names none, oldest first."""
    start = timezone.localtime(when).replace(hour=0, minute=0, second=0, microsecond=0)
    whose = Q(rig=procedure.rig_id) if procedure.rig_id else Q(procedure=procedure, rig=None)
    return list(DayReading.objects.filter(whose, at__gte=start, at__lte=when).order_by("at", "id"))


def _words(spec: Input, text: str) -> str:
    """``138.2°, mean of 3, ± 0.2°``."""
    reading = read_input(spec, text, {})
    count = len(reading.typed.parts)
    mean = bounded_text(reading.observation, spec.dimension, spec.unit, 4)
    spread = render(reading.uncertainty, spec.dimension, spec.unit, 2)
    return f"{mean}, mean of {count}, ± {spread}" if count > 1 else mean


@dataclass(frozen=True)
class ReadOn:
    """What was read of a rig on one day: what it is called, in words, as typed."""

    day: date
    label: str
    words: str
    text: str


def read_by_day(rig: Rig, most: int = 40) -> list[ReadOn]:
    """The day's own readings of a rig, newest first; what cannot be read any more stands as typed."""
    rows = DayReading.objects.filter(rig=rig).select_related("procedure").order_by("-at", "-id")
    found = []
    for row in rows[:most]:
        spec = next((i for i in row.procedure.method.inputs if i.key == row.key), None)
        try:
            words = _words(spec, row.text) if spec else ""
        except InputError:
            words = ""
        label = spec.label if spec else row.key.replace("_", " ")
        found.append(ReadOn(timezone.localtime(row.at).date(), label, words, text=row.text))
    return found
