"""Reading the clocks: what is due on a specimen, and which clocks run in a campaign."""

from dataclasses import dataclass
from datetime import datetime

from brunt_core.computation import compute
from brunt_core.computation.working import bounded_text
from brunt_core.errors import InputError
from brunt_core.methods.base import Input
from brunt_core.quantities.rendering import time_words
from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.testing.inputs import full_inputs
from brunt_web.testing.instruments import instruments_for
from brunt_web.testing.models import Clock, TimedReading

_DIGITS = 6


@dataclass
class Due:
    """One reading to take: of which input, on which load step, when, and what was taken."""

    input: Input
    load_step: str
    due: float
    taken: TimedReading | None = None
    now: bool = False
    passed: bool = False

    @property
    def label(self) -> str:
        """The time in words."""
        return "at once" if self.due == 0 else time_words(self.due)

    @property
    def apart(self) -> str:
        """How far from its time it was really taken: ``0.8 s late``, ``3 min early``."""
        if not self.taken:
            return ""
        off = self.taken.elapsed - self.due
        if abs(off) < 0.05:
            return "on time"
        return f"{time_words(abs(off), 2)} {'late' if off > 0 else 'early'}"

    @property
    def unlike(self) -> bool:
        """Whether it was taken at another time than set: by more than a tenth and a second and a half."""
        return self.taken is not None and unlike(self.taken.elapsed, self.due)


def unlike(taken: float, due: float) -> bool:
    """Whether two times are too far apart to be compared unremarked: a tenth, and 1.5 s."""
    return abs(taken - due) > max(0.1 * max(due, taken), 1.5)


@dataclass
class Timed:
    """A timed test in hand: its clock, the readings, the one to take now, the load to hang next."""

    clock: Clock | None
    dues: list[Due]
    load_steps: list[str]
    elapsed: float | None

    @property
    def current(self) -> Due | None:
        """The reading to take next on the load step in hand."""
        return next((d for d in self.dues if d.now), None)

    @property
    def next_load_step(self) -> str:
        """The load to hang next, once the load step in hand is read."""
        if self.current:
            return ""
        if not self.clock:
            return self.load_steps[0] if self.load_steps else ""
        done = {d.load_step for d in self.dues if d.taken or d.passed}
        return next((r for r in self.load_steps if r not in done), "")

    @property
    def complete(self) -> bool:
        """Whether nothing is left to read."""
        return bool(self.clock) and all(d.taken or d.passed for d in self.dues)

    @property
    def several(self) -> bool:
        """Whether more than one thing is read."""
        return len({d.input.key for d in self.dues}) > 1

    @property
    def any_taken(self) -> bool:
        """Whether one reading at least is stored."""
        return any(d.taken for d in self.dues)


def timed_of(turn: Turn, now: datetime) -> Timed | None:
    """The timed test of a specimen, or ``None`` when its procedure sets no times."""
    procedure = turn.procedure
    if not procedure.method.timed or not procedure.reading_times:
        return None
    load_steps = [r.strip() for r in procedure.parameters.get("loads", "").split(";") if r.strip()]
    taken = {(t.key, t.load_step, t.due): t for t in turn.timed_readings.all()}
    clock = getattr(turn, "clock", None)
    dues = [
        Due(spec, load_step, float(due), taken.get((spec.key, load_step, float(due))))
        for load_step in (load_steps or [""])
        for due in procedure.reading_times
        for spec in procedure.method.timed
        if not (due == 0 and spec.key == "retorques")
    ]
    given_up = {tuple(p) for p in clock.passed} if clock else set()
    for d in dues:
        d.passed = d.taken is None and (d.input.key, d.load_step, d.due) in given_up
    here = [
        d
        for d in dues
        if clock and d.load_step == clock.load_step and d.taken is None and not d.passed
    ]
    if here:
        here[0].now = True
    elapsed = (now - clock.started_at).total_seconds() if clock else None
    return Timed(clock, dues, load_steps, elapsed)


def _left_words(left: float | None) -> str:
    """``late by 2 h``, ``due in 40 min``, ``due now``, ``to finish``."""
    if left is None:
        return "to finish"
    if abs(left) < 2:
        return "due now"
    left = float(round(left))
    return f"late by {time_words(-left, 2)}" if left < 0 else f"due in {time_words(left, 2)}"


def running_clocks(campaign: Campaign, now: datetime) -> list[dict]:
    """The clocks that run: turn and seconds to its next reading, the most urgent first."""
    clocks = (
        Clock.objects.filter(turn__campaign=campaign, turn__state="running")
        .select_related("turn__procedure", "turn__specimen")
        .prefetch_related("turn__timed_readings")
    )
    found = []
    for clock in clocks:
        turn = clock.turn
        turn.clock = clock
        timed = timed_of(turn, now)
        due = timed.current.due if timed and timed.current else None
        left = None if due is None else due - (now - clock.started_at).total_seconds()
        found.append({"turn": turn, "left": left, "at": due, "words": _left_words(left)})
    return sorted(found, key=lambda f: (f["left"] is None, f["left"] or 0.0))


def series_of(turn: Turn) -> dict[str, str]:
    """The timed readings as the series the method takes, each at the time it was really taken."""
    rows: dict[str, list[str]] = {}
    for r in turn.timed_readings.all():
        at = f"{r.elapsed:.{_DIGITS}g} s"
        rows.setdefault(r.key, []).append(
            f"{r.load_step + ' @ ' if r.load_step else ''}{at}: {r.text}"
        )
    return {key: "; ".join(lines) for key, lines in rows.items()}


def so_far(campaign: Campaign) -> list[tuple[int, int, str]]:
    """What running tests have come to so far: condition, procedure, and the words for Compare."""
    turns = (
        Turn.objects.filter(campaign=campaign, state="running")
        .select_related("specimen", "condition", "procedure__rig", "rig", "campaign")
        .prefetch_related("timed_readings")
    )
    found = []
    for turn in turns:
        prop = turn.procedure.ranked_property
        try:
            inputs = full_inputs(turn, series_of(turn))
            done = compute(turn.procedure.method, inputs, "", instruments_for(turn))
        except InputError:
            continue
        result = next((r for r in done.results if r.property.key == prop.key), None)
        if result:
            value = bounded_text(result.observation, prop.dimension, prop.unit)
            last = max(r.elapsed for r in turn.timed_readings.all())
            words = (
                f"{turn.code} is running: {value} after {time_words(round(last))}, not in the mean."
            )
            found.append((turn.condition_id, turn.procedure_id, words))
    return found
