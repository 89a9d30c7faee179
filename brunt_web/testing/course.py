"""What a reading over time is drawn against: when it is due, and what its siblings read."""

from collections import defaultdict
from dataclasses import dataclass, field

from brunt_web.campaigns.models import Turn
from brunt_web.testing.models import TimedReading


@dataclass(frozen=True)
class Course:
    """The planned times in s, and each sibling's readings as (time in s, value in SI)."""

    dues: list[float] = field(default_factory=list)
    beside: dict[str, list[tuple[float, float]]] = field(default_factory=dict)


def course_of(turn: Turn) -> Course | None:
    """The times and the siblings of its condition; ``None`` where nothing is read at set times."""
    procedure = turn.procedure
    if not procedure.method.timed or not procedure.reading_times:
        return None
    found = (
        TimedReading.objects.filter(
            turn__condition=turn.condition_id,
            turn__procedure=procedure,
            key=procedure.method.timed[0].key,
        )
        .exclude(turn=turn.pk)
        .exclude(turn__test__outcome="void")
        .select_related("turn__specimen")
        .order_by("elapsed")
    )
    beside: dict[str, list[tuple[float, float]]] = defaultdict(list)
    for reading in found:
        beside[reading.turn.code].append((reading.elapsed, reading.value))
    return Course([float(t) for t in procedure.reading_times], dict(beside))
