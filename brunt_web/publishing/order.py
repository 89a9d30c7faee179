"""The order the specimens were tested in, drawn: one lane a condition, one mark a test."""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass

from django.utils import timezone

from brunt_web.campaigns.models import Turn

WIDE, LANE, LEFT, MOST = 560.0, 15.0, 8.0, 24


@dataclass(frozen=True)
class Tick:
    """One test: where it stands, and what it is."""

    x: float
    y: float
    kind: str
    title: str


@dataclass(frozen=True)
class Order:
    """The lanes with their names and the tests in them, the days as uprights, and what it says in words."""

    lanes: list[tuple[float, str]]
    ticks: list[Tick]
    days: list[tuple[float, str]]
    words: str

    @property
    def height(self) -> float:
        """All lanes together."""
        return LANE * len(self.lanes)


def order_of(turns: Sequence[Turn], names: dict[int, str], seed: int) -> Order | None:
    """The tests that were done, in order of time; nothing without any."""
    done = sorted((t for t in turns if t.tested_at), key=lambda t: (t.tested_at, t.run_order))
    if not done:
        return None
    rows = list(dict.fromkeys(t.condition_id for t in sorted(turns, key=lambda t: t.condition.position)))[:MOST]  # fmt: skip
    step = (WIDE - 2 * LEFT) / max(len(done) - 1, 1)
    ticks, days, seen = [], [], ""
    for i, t in enumerate(done):
        x = round(LEFT + i * step, 1)
        day = f"{timezone.localtime(t.tested_at):%-d %b %Y}"
        if day != seen:
            days.append((x, day))
            seen = day
        if t.condition_id in rows:
            kind = "out" if t.excluded or t.state == "void" else t.state
            ticks.append(Tick(x, LANE * (rows.index(t.condition_id) + 0.5), kind, f"{t.code}, {i + 1} of {len(done)}"))  # fmt: skip
    lanes = [(LANE * i, names.get(pk, "")) for i, pk in enumerate(rows)]
    return Order(lanes, ticks, days, _words(done, len(days), seed))


def _words(done: Sequence[Turn], days: int, seed: int) -> str:
    planned = [t.run_order for t in done]
    moved = len(planned) - longest_rising(planned)
    times = [t.tested_at for t in done if t.tested_at]
    first, last = (timezone.localtime(f(times)) for f in (min, max))
    when = f"on {first:%-d %B %Y}" if first.date() == last.date() else f"on {days} days from {first:%-d %B %Y} to {last:%-d %B %Y}"  # fmt: skip
    if len(done) < 2:
        return f"Tested {when}."
    if len(set(times)) == 1:
        return f"All were recorded at the same time, {when}: the test order is unknown."
    kept = "in that order" if not moved else f"in that order but for {moved}"
    return f"The order was shuffled over all conditions (seed {seed}) and tested {kept}, {when}."


def longest_rising(numbers: Sequence[int]) -> int:
    """How many stand in order at most: the longest rising subsequence (Fredman 1975, patience sorting).

    >>> longest_rising([1, 5, 2, 3])
    3
    """
    ends: list[int] = []
    for n in numbers:
        at = bisect_left(ends, n)
        ends[at : at + 1] = [n]
    return len(ends)
