"""What a specimen was made as and tested as, what it still needs, and where it departs from its plan: typed records."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields
from typing import Any, Self

from brunt_core.planning.deviations import Deviation
from brunt_core.planning.levels import step_key
from brunt_web.campaigns.requirements import RequiredTick


@dataclass(frozen=True)
class OutstandingStep:
    """One thing a specimen needs before its test: ``kind`` is making, treatment or state."""

    kind: str
    what: str = ""
    says: str = ""

    @property
    def key(self) -> str:
        """What is to be done, without the order of its words."""
        return step_key(self.what)

    @classmethod
    def read(cls, stored: Mapping[str, Any]) -> Self:
        """The step as it is stored. Raises :class:`TypeError` for a key that is none."""
        return cls(**stored)

    @property
    def stored(self) -> dict[str, Any]:
        """The step to be stored."""
        return asdict(self)


@dataclass(frozen=True)
class RecordedDeviation:
    """One thing that was not done as planned, in the sentence ``says``.

    ``turn`` is the key of the turn whose test it came of; ``None`` where it came of the making.
    """

    says: str
    key: str = ""
    name: str = ""
    planned: str = ""
    actual: str = ""
    turn: int | None = None

    @classmethod
    def of(cls, deviation: Deviation, turn: int | None) -> Self:
        """A deviation as it is kept with a specimen."""
        said = deviation.planned, deviation.actual
        return cls(deviation.sentence, deviation.key, deviation.name, *said, turn)

    @classmethod
    def read(cls, stored: Mapping[str, Any]) -> Self:
        """The deviation as it is stored. Raises :class:`TypeError` for a key that is none."""
        return cls(**stored)

    @property
    def stored(self) -> dict[str, Any]:
        """The deviation to be stored."""
        return asdict(self)


@dataclass(frozen=True)
class MadeAs:
    """What a specimen was made as. Names and words are empty where they are not known.

    ``settings`` of the print by key, each with its value in SI and as it is shown; ``lot_planned`` the
    lot its condition required; ``note`` for one that was not printed here.
    """

    plate: str = ""
    batch: int | None = None
    printer: str = ""
    lot: str = ""
    lot_planned: str = ""
    colour: str = ""
    recipe: str = ""
    dryness: str = ""
    orientation: str = ""
    settings: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    note: str = ""

    @property
    def known(self) -> bool:
        """Whether anything of its making is known."""
        return bool(self.stored)

    @classmethod
    def read(cls, stored: Mapping[str, Any]) -> Self:
        """The record as it is stored. Raises :class:`TypeError` for a key that is none."""
        return cls(**stored)

    @property
    def stored(self) -> dict[str, Any]:
        """The record to be stored: what is not known stands nowhere."""
        return {k: v for k, v in asdict(self).items() if v not in (None, "", {})}


@dataclass(frozen=True)
class StateAtTest:
    """The state a specimen was tested in: in ``words``, and what it was ``conditioned`` to.

    ``out`` is how long it had left that, in s; ``doubt`` why its shape makes its strength doubtful.
    """

    words: str = ""
    conditioned: str = ""
    out: float | None = None
    doubt: str = ""


@dataclass(frozen=True)
class TestedAs:
    """How a test was really done.

    ``speed`` in m/s; ``rig`` and ``operator`` by name; ``overdue`` the day the rig's calibration had been
    due, where that was past; the steps still outstanding; ticks that nobody confirmed.
    """

    speed: float | None = None
    rig: str = ""
    overdue: str = ""
    operator: str = ""
    outstanding_steps: tuple[OutstandingStep, ...] = ()
    state: StateAtTest = StateAtTest()
    unticked: tuple[RequiredTick, ...] = ()

    @classmethod
    def read(cls, stored: Mapping[str, Any]) -> Self:
        """The record as it is stored. Raises :class:`TypeError` for a key that is none."""
        parts = dict(stored)
        parts["outstanding_steps"] = tuple(OutstandingStep(**s) for s in stored.get("outstanding_steps") or ())  # fmt: skip
        parts["state"] = StateAtTest(**stored.get("state") or {})
        parts["unticked"] = tuple(RequiredTick(**t) for t in stored.get("unticked") or ())
        return cls(**parts)

    @property
    def stored(self) -> dict[str, Any]:
        """The record to be stored; nothing where there was no test."""
        return {} if self == type(self)() else asdict(self)


MADE_KEYS = tuple(f.name for f in fields(MadeAs))
TESTED_KEYS = tuple(f.name for f in fields(TestedAs))
STEP_KEYS = tuple(f.name for f in fields(OutstandingStep))
DEVIATION_KEYS = tuple(f.name for f in fields(RecordedDeviation))
