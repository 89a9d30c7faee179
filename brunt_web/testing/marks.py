"""Sizes and masses of a specimen, at the moments of its history they were taken."""

from collections.abc import Iterable, Sequence
from datetime import datetime

from django.contrib.auth.models import User
from django.db.models import QuerySet

from brunt_core.computation.reading import ParsedReading as CoreReading
from brunt_core.methods.base import MASS, Input
from brunt_core.quantities import Typed, parse_typed
from brunt_core.treatments.change import SHAPE_SIZES
from brunt_core.treatments.looks import LOOK_SIZES
from brunt_web.campaigns import history
from brunt_web.campaigns.models import HistoryEvent, Specimen, Turn
from brunt_web.testing.models import Measurement

AS_MADE, BEFORE_TEST, WEIGHED = "as made", "before test", "weighed"
LOOKED = "looked at"


def marks_at(specimens: Iterable[Specimen]) -> dict[int, list[Measurement]]:
    """Every size and mass of these specimens, oldest first, by specimen. One query."""
    found: dict[int, list[Measurement]] = {s.pk: [] for s in specimens}
    for row in _in_time().filter(moment__specimen__in=list(found)):
        found[row.moment.specimen_id].append(row)
    return found


def latest(rows: Iterable[Measurement]) -> dict[str, Measurement]:
    """The last value of each size among rows in order of time."""
    return {row.key: row for row in rows}


def marks_of(specimen: Specimen) -> dict[str, Measurement]:
    """The sizes and masses of one specimen as they were taken last."""
    return latest(_in_time().filter(moment__specimen=specimen))


def _in_time() -> QuerySet[Measurement]:
    rows = Measurement.objects.filter(moment__undone_at__isnull=True).select_related("moment")
    return rows.order_by("moment__at", "moment_id", "id")


def marks_for(turn: Turn) -> dict[str, Measurement]:
    """The same for a turn in hand, read once while it is in hand."""
    known: dict[str, Measurement] | None = vars(turn).get("known_marks")
    if known is None:
        known = vars(turn)["known_marks"] = marks_of(turn.specimen)
    return known


def store_marks(
    specimen: Specimen,
    by: User,
    at: datetime,
    readings: Sequence[CoreReading],
    name: str = AS_MADE,
    turn: Turn | None = None,
) -> None:
    """Sizes and masses as just taken, as a moment of the specimen's history.

    What has not changed since it was last taken is not written again, unless the moment has another
    name; taken again under the same name, it is corrected in its moment and history keeps what stood.
    Weighings ("weighed") and inspections ("looked at …") are each their own: that nothing has changed
    is what they show.
    Within one sitting of ten minutes by one person they make one moment. The caller holds the lock
    of the specimen (:func:`history.lock`).
    """
    known = marks_for(turn) if turn else marks_of(specimen)
    new, each = [], name == WEIGHED or name.startswith(LOOKED)
    corrected: dict[int, HistoryEvent] = {}
    for reading in readings:
        mark = known.get(reading.input.key)
        if mark and each and abs(at - mark.moment.at) > history.SITTING:
            mark = None
        if mark and mark.text == reading.typed.text:
            continue
        if mark and mark.moment.detail.get("moment") == name and _same(mark, turn):
            _fill(mark, reading, by, at).save()
            corrected[mark.moment_id] = mark.moment
        else:
            new.append(reading)
    for event in corrected.values():
        history.update_event_text(event, _event_text(event, name, specimen, turn))
    made = _new_moment(specimen, by, at, new, name, turn) if new else []
    if turn:
        _know(turn, made)


def _event_text(event: HistoryEvent, name: str, specimen: Specimen, turn: Turn | None) -> str:
    """The text of a measurement stage, from the sizes it holds."""
    procedure = turn.procedure if turn else specimen.procedure
    known = {i.key: i for i in (*SHAPE_SIZES, *LOOK_SIZES, *procedure.method.inputs, MASS)}
    sizes = [
        f"{known[m.key].label.lower()} {_with_unit(m.text, known[m.key])}"
        for m in Measurement.objects.filter(moment=event).order_by("id")
        if m.key in known
    ]
    return f"{name}: {', '.join(sizes)}"


def _know(turn: Turn, made: Sequence[Measurement]) -> None:
    """A turn in hand knows what was just taken; what was taken before something else is read again."""
    known = marks_for(turn)
    newest = max((m.moment.at for m in known.values()), default=None)
    if all(newest is None or m.moment.at >= newest for m in made):
        known |= latest(made)
    else:
        del vars(turn)["known_marks"]


def _same(mark: Measurement, turn: Turn | None) -> bool:
    """Whether a mark belongs to this very test, or to none."""
    return mark.moment.detail.get("turn") == (turn.pk if turn else None)


def _fill(mark: Measurement, reading: CoreReading, by: User, at: datetime) -> Measurement:
    mark.text, mark.value = reading.typed.text, reading.si
    mark.uncertainty, mark.by, mark.at = reading.uncertainty, by, at
    return mark


def _new_moment(
    specimen: Specimen,
    by: User,
    at: datetime,
    readings: Sequence[CoreReading],
    name: str,
    turn: Turn | None,
) -> list[Measurement]:
    words = ", ".join(f"{r.input.label.lower()} {_written(r)}" for r in readings)
    kind = "weighed" if all(r.input.dimension == "mass" for r in readings) else "measured"
    detail = {"moment": name, **({"turn": turn.pk} if turn else {})}
    # A turn's own sizes go on only where it has some; whoever measures without one may go on anyway.
    begun = turn is None or any(m.moment.detail == detail for m in marks_for(turn).values())
    moment = history.sitting(specimen, by, at, detail) if begun else None
    if moment:
        history.say_more(moment, words, kind)
    else:
        moment = history.note([specimen], kind, by, at, f"{name}: {words}", detail)[0]
    rows = [_fill(Measurement(moment=moment, key=r.input.key), r, by, at) for r in readings]
    return Measurement.objects.bulk_create(rows)


def _written(reading: CoreReading) -> str:
    """The text with the unit it was taken in."""
    return _as_typed(reading.typed, reading.input)


def _with_unit(text: str, spec: Input) -> str:
    """A stored text with the unit it was taken in."""
    return _as_typed(parse_typed(text, spec.dimension, spec.unit), spec)


def _as_typed(typed: Typed, spec: Input) -> str:
    last = typed.parts[-1] if typed.parts else None
    return f"{typed.text} {spec.unit}" if last and last.assumed else typed.text
