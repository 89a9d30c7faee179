"""A specimen's history as it is drawn: one column a moment, one line in time whose form is the state."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from brunt_core.properties import Property
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import figures, time_words
from brunt_core.statistics.summaries import Summary
from brunt_web.campaigns.models import HistoryEvent, Specimen, Turn
from brunt_web.interface.scale import scale_for
from brunt_web.results.reading import Group, Sample
from brunt_web.testing.marks import marks_at
from brunt_web.testing.models import Measurement

WORDS = {
    "planned": "planned",
    "on_plate": "on a plate",
    "off_plate": "off the plate",
    "printed": "printed",
    "made": "made",
    "unmade": "not made",
    "print_failed": "print failed",
    "came_out": "came out",
    "print_corrected": "print corrected",
    "measured": "measured",
    "weighed": "weighed",
    "treated": "treated",
    "conditioned": "conditioned",
    "step_taken_back": "step undone",
    "taken_out": "taken out",
    "clock": "clock started",
    "clock_back": "clock undone",
    "tested": "tested",
    "taken_back": "undone",
    "excluded": "excluded",
    "counts": "included again",
    "curve": "curve",
    "photo": "photo",
    "swapped": "swapped",
    "moved": "test moved",
    "role": "another role",
    "role_back": "previous role",
    "note": "note",
}
_REVERSIBLE = ("swapped", "moved", "role")
_SYMBOLS = {
    "width": "b",
    "thickness": "h",
    "diameter": "d",
    "outer_diameter": "D",
    "inner_diameter": "d",
    "mass": "m",
}


@dataclass
class Size:
    """One size or mass at a moment."""

    symbol: str
    label: str
    text: str
    changed: bool


@dataclass
class Moment:
    """One column: what happened, when, who, and the form of the line from here on."""

    label: str
    what: str
    at: datetime | None
    by: str
    form: str
    state: str
    place: str = ""
    lasts: str = ""
    sizes: list[Size] = field(default_factory=list)
    undone: bool = False
    event: int | None = None
    reversible: bool = False
    outstanding: bool = False
    away: list[str] = field(default_factory=list)
    link: str = ""


@dataclass
class Mass:
    """The masses over time, as drawn."""

    points: list[tuple[float, float, str]]
    line: str
    ticks: list[tuple[float, str]]


def moments_of(
    specimen: Specimen, turns: Sequence[Turn], events: Sequence[HistoryEvent], now: datetime
) -> list[Moment]:
    """The columns of a history in order of time, what is outstanding last."""
    marks = marks_at([specimen])[specimen.pk]
    by_event: dict[int, list[Measurement]] = {}
    for mark in marks:
        by_event.setdefault(mark.moment_id, []).append(mark)
    known: dict[str, float] = {}
    by_turn = {t.pk: t for t in turns}
    found: list[Moment] = []
    form, state, place = "planned", "planned", ""
    for event in events:
        if not event.undone_at:
            form, state, place = _after(event, by_turn, form, state, place)
        column = _moment(event, form, state, place)
        column.sizes = _sizes(by_event.get(event.pk, []), known)
        column.away = _away(specimen, event)
        found.append(column)
    _durations(found, now, bool(specimen.spent))
    return found + _still_to_come(specimen, turns, now)


def _moment(event: HistoryEvent, form: str, state: str, place: str) -> Moment:
    return Moment(
        label=WORDS.get(event.kind, event.kind),
        what=event.what,
        at=event.at,
        by=event.by.get_username() if event.by else "",
        form="undone" if event.undone_at else form,
        state=state,
        place=place,
        undone=bool(event.undone_at),
        event=event.pk,
        reversible=event.kind in _REVERSIBLE and not event.undone_at,
    )


def _after(
    event: HistoryEvent, turns: dict[int, Turn], form: str, state: str, place: str
) -> tuple[str, str, str]:
    """The form of the line, the state drawn and the break place after an event."""
    kind = event.kind
    if kind in ("printed", "made"):
        return "made", "printed", ""
    if kind == "unmade":
        return "planned", "planned", ""
    if kind == "print_failed":
        return "failed", "failed", ""
    if kind in ("treated", "conditioned"):
        return "treated", "treated", ""
    if kind == "swapped":
        return ("swapped", state, place) if form != "planned" else (form, state, place)
    if kind == "tested":
        turn = turns.get(event.detail.get("turn", 0))
        if turn and turn.spends:
            return "broken", "broken", turn.place
        if turn and turn.state == "void":
            return form, state, place
        return "tested", "held", ""
    if form == "swapped":
        return (
            {"treated": "treated", "broken": "broken", "held": "tested"}.get(state, "made"),
            state,
            place,
        )
    return form, state, place


def _sizes(rows: Sequence[Measurement], known: dict[str, float]) -> list[Size]:
    found = []
    for row in rows:
        dimension, unit = ("mass", "g") if row.key == "mass" else ("length", "mm")
        text = figures(in_unit(row.value, dimension, unit), 4)
        was = known.get(row.key)
        changed = was is not None and abs(row.value - was) > 1e-9
        found.append(
            Size(
                _SYMBOLS.get(row.key, row.key[:1]),
                row.key.replace("_", " "),
                f"{text} {unit}",
                changed,
            )
        )
        known[row.key] = row.value
    return found


def _away(specimen: Specimen, event: HistoryEvent) -> list[str]:
    """Where the history steps off its plan at this event."""
    if event.undone_at:
        return []
    if event.kind in ("printed", "made"):
        return [d.says for d in specimen.deviations if d.turn is None]
    if event.kind == "tested":
        turn = event.detail.get("turn")
        return [d.says for d in specimen.deviations if d.turn is not None and d.turn == turn]
    return []


def _durations(found: Sequence[Moment], now: datetime, spent: bool) -> None:
    for one, following in zip(found, [*found[1:], None], strict=True):
        end = following.at if following else None if spent else now
        if one.at and end and (end - one.at).total_seconds() >= 60:
            one.lasts = time_words((end - one.at).total_seconds(), 2)


def _still_to_come(specimen: Specimen, turns: Sequence[Turn], now: datetime) -> list[Moment]:
    """What is still to come: what is outstanding, and the tests that wait."""
    if specimen.made == "failed":
        return []
    state = "printed" if specimen.made == "made" else "planned"
    found = [
        Moment(
            "outstanding",
            o.says,
            None,
            "",
            "outstanding",
            "planned",
            outstanding=True,
        )
        for o in specimen.outstanding_steps
    ]
    if specimen.ready_at and specimen.ready_at > now:
        found.append(
            Moment(
                "old enough",
                "its age at test",
                specimen.ready_at,
                "",
                "outstanding",
                state,
                outstanding=True,
            )
        )
    for turn in turns:
        if turn.state in ("waiting", "running"):
            word = "clock runs" if turn.state == "running" else "to come"
            found.append(
                Moment(
                    word,
                    turn.procedure.name,
                    None,
                    "",
                    "outstanding",
                    state,
                    outstanding=True,
                    link=turn.address,
                )
            )
    return found


def mass_curve(specimen: Specimen) -> Mass | None:
    """Its mass over time; ``None`` with fewer than two weighings."""
    rows = [m for m in marks_at([specimen])[specimen.pk] if m.key == "mass"]
    if len(rows) < 2:
        return None
    grams = [in_unit(m.value, "mass", "g") for m in rows]
    first = rows[0].moment.at
    days = [(m.moment.at - first).total_seconds() / 86400 for m in rows]
    across = scale_for([0.0, max(days) or 1.0], 620, 50)
    up = scale_for(grams, 120, 18, 3)
    points = [
        (across.x(d), round(120 - up.x(g), 1), f"{figures(g, 5)} g on {m.moment.at:%d %b %H:%M}")
        for d, g, m in zip(days, grams, rows, strict=True)
    ]
    line = "M" + " L".join(f"{x},{y}" for x, y, _ in points)
    return Mass(points, line, [(round(120 - y, 1), label) for y, label in up.ticks])


@dataclass
class Among:
    """A test among its siblings: the strip, and the group's figure with and without it."""

    turn: Turn
    prop: Property
    dots: list[tuple[float, str, bool]]
    ticks: Any
    bars: list[tuple[str, float, float, float]]
    with_it: str
    without_it: str
    n: int


def among_siblings(turn: Turn, group: Group) -> Among | None:
    """Where this test stands among its siblings; ``None`` where it has none or no figure of its own."""
    prop = turn.procedure.ranked_property
    rows = [s.in_unit(prop) for s in (*group.counted, *group.excluded)]
    own = next((s for s in rows if s.turn == turn.pk), None)
    if own is None or len(rows) < 2:
        return None
    others = Group(group.method, [s for s in rows if s.turn != turn.pk and not s.excluded])
    every = Group(group.method, [*others.counted, own])
    scale = scale_for(_reach(rows, [every.summary, others.summary]), 560, 20)
    bars = [
        bar
        for name, summary in (("with it", every.summary), ("without", others.summary))
        if (bar := _bar(name, summary, scale))
    ]
    return Among(
        turn=turn,
        prop=prop,
        dots=[(scale.x(s.observation.anchor), s.code, s.turn == turn.pk) for s in rows],
        ticks=scale.ticks,
        bars=bars,
        with_it=_figure(every.summary),
        without_it=_figure(others.summary),
        n=len(every.counted),
    )


def _reach(rows: Sequence[Sample], summaries: Sequence[Summary | None]) -> list[float]:
    """What the strip must hold: every value, and intervals as far as they are not absurd."""
    values = [s.observation.anchor for s in rows]
    span = (max(values) - min(values)) or abs(values[0]) or 1.0
    ends = [e for s in summaries if s for e in (s.low, s.high) if e is not None]
    return values + [min(max(e, min(values) - span), max(values) + span) for e in ends]


def _bar(name: str, summary: Summary | None, scale: Any) -> tuple[str, float, float, float] | None:
    if summary is None or summary.low is None or summary.high is None:
        return None
    left, right = scale.x(summary.low), scale.x(summary.high)
    return name, left, max(right - left, 0.5), scale.x(summary.mean)


def _figure(summary: Summary | None) -> str:
    """Mean and half-width, or the reason why there is none."""
    if summary is None or summary.mean != summary.mean:
        return "–"
    mean = f"{summary.sign} {figures(summary.mean)}".strip()
    if summary.low is None or summary.high is None:
        return f"{mean} (n = {summary.n})"
    return f"{mean}, {figures(summary.low)} to {figures(summary.high)} (n = {summary.n})"
