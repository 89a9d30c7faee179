"""How far a job is, said from inside it; outside a job none."""

from collections.abc import Callable, Iterable, Iterator
from contextvars import ContextVar
from time import monotonic
from typing import TypeVar

Say = Callable[[int, int, str], None]
current: ContextVar[Say | None] = ContextVar("job", default=None)
_EVERY = 0.4
T = TypeVar("T")


def step(done: int, total: int, unit: str = "") -> None:
    """Say how far it is; cheap enough to be called for every row."""
    if say := current.get():
        say(done, total, unit)


def stepped(things: Iterable[T], total: int, unit: str) -> Iterator[T]:
    """The things themselves, each counted as it is taken."""
    for i, thing in enumerate(things):
        step(i, total, unit)
        yield thing


def now_and_then(say: Say) -> Say:
    """At most every 0.4 s, and whenever the unit changes."""
    last, of = 0.0, ""

    def seldom(done: int, total: int, unit: str) -> None:
        nonlocal last, of
        now = monotonic()
        if unit != of or now - last > _EVERY:
            last, of = now, unit
            say(done, total, unit)

    return seldom
