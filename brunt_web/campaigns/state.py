"""The state a specimen is in, from what happened to it and not from what was planned."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from brunt_core.quantities.rendering import time_words
from brunt_web.campaigns.models import HistoryEvent, Specimen
from brunt_web.campaigns.recorded import StateAtTest

_TELLING = ("treated", "conditioned", "taken_out", "out_of_run")


@dataclass(frozen=True)
class State:
    """What was done to it, the state it was brought to, and how long it has been out of that.

    ``treated`` the treatments in order; ``conditioned`` the last state, empty for as it came from
    the plate; ``out`` seconds since it was taken out, ``None`` while it is in it.
    """

    treated: tuple[str, ...] = ()
    conditioned: str = ""
    out: float | None = None

    @property
    def words(self) -> str:
        """In one line."""
        parts = [*self.treated, self.conditioned]
        if self.conditioned and self.out is not None:
            parts.append(f"{time_words(self.out, 2)} out of it")
        return " · ".join(p for p in parts if p) or "as made"

    def at_test(self, doubt: str) -> StateAtTest:
        """What a test keeps of it; ``doubt`` why its shape makes its strength doubtful."""
        return StateAtTest(self.words, self.conditioned, self.out, doubt)


def state_from(events: Iterable[HistoryEvent], at: datetime) -> State:
    """The state at a moment, from the events of a history in order of time; those undone left aside."""
    treated: list[str] = []
    conditioned, left = "", None
    for e in events:
        if e.undone_at or e.at > at or e.kind not in _TELLING:
            continue
        what = str(e.detail.get("what", "")) or e.what
        if e.kind == "treated":
            treated.append(what)
        elif e.kind == "conditioned":
            conditioned, left = what, None
        elif e.kind == "taken_out" and conditioned:
            left = e.at
    out = (at - left).total_seconds() if left else None
    return State(tuple(dict.fromkeys(treated)), conditioned, out)


def state_of(specimen: Specimen, at: datetime) -> State:
    """The state of one specimen at a moment. One query."""
    rows = HistoryEvent.objects.filter(specimen=specimen, kind__in=_TELLING, undone_at=None)
    return state_from(rows.order_by("at", "id"), at)
