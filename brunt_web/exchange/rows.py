"""The rows of a file and what is to be asked about them."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from uuid import UUID

from brunt_core.observations import Observation
from brunt_core.plausibility.unit_mixups import UnitMixup
from brunt_core.tables import Column
from brunt_web.campaigns.models import Condition, Turn
from brunt_web.library.models import Procedure

CHANGE, KEEP = "change", "keep"


@dataclass(frozen=True)
class Asked:
    """A table with what its bringer says: what columns are, what odd numbers mean, what to store."""

    text: str
    create_missing: bool = False
    good_only: bool = False
    mapping: Mapping[int, str] = field(default_factory=dict)
    answers: Mapping[str, str] = field(default_factory=dict)


@dataclass
class ImportRow:
    """One row: what it becomes, or the sentence that refuses it, or that it has no test yet."""

    line: int
    texts: dict[str, str]
    units: dict[str, str]
    key: UUID
    became: str = ""
    refused: str = ""
    waiting: bool = False
    procedure: Procedure | None = None
    condition: Condition | None = None
    new_condition: str = ""
    turn: Turn | None = None
    own_id: str = ""
    excluded: str = ""
    stated: Observation | None = None
    outcome: str = "broke"
    unit_mixup: UnitMixup | None = None
    asked: str = ""
    looks: str = ""
    answers: list[dict[str, str]] = field(default_factory=list)


@dataclass
class RowQuestion:
    """A unit mix-up that several rows share: what all of them would become."""

    key: str
    sentence: str
    change: str
    rows: list[ImportRow] = field(default_factory=list)
    answer: str = ""

    @property
    def lines(self) -> str:
        """The line numbers, the first few."""
        return lines_of(self.rows)


@dataclass(frozen=True)
class QuestionGroup:
    """Rows with one thing to be said of them."""

    sentence: str
    rows: list[ImportRow]

    @property
    def lines(self) -> str:
        """The line numbers, the first few."""
        return lines_of(self.rows)


@dataclass(frozen=True)
class UsedColumn:
    """A column of the file, the part it plays, and its first cells."""

    index: int
    column: Column
    part: str
    cells: tuple[str, ...]


@dataclass(frozen=True)
class Preview:
    """All rows with what is asked; the columns; what was left aside."""

    rows: list[ImportRow]
    columns: list[UsedColumn]
    questions: list[RowQuestion]
    parts: list[tuple[str, str]]
    aside: list[str]
    problem: str = ""

    @property
    def good(self) -> list[ImportRow]:
        """The rows that can be stored."""
        return [r for r in self.rows if not r.refused and not r.waiting and not r.asked]

    @property
    def refused(self) -> list[ImportRow]:
        """The rows that cannot."""
        return [r for r in self.rows if r.refused]

    @property
    def waiting(self) -> list[ImportRow]:
        """The rows of specimens that are not tested yet."""
        return [r for r in self.rows if r.waiting]

    @property
    def open(self) -> list[RowQuestion]:
        """The questions without an answer."""
        return [q for q in self.questions if not q.answer]

    @property
    def reasons(self) -> list[QuestionGroup]:
        """The refused rows by reason, the most frequent first."""
        return _grouped(self.refused, "refused")

    @property
    def odd(self) -> list[QuestionGroup]:
        """Rows outside what is expected that no unit explains."""
        return _grouped([r for r in self.rows if r.looks], "looks")


def lines_of(rows: list[ImportRow]) -> str:
    """Line numbers in words: ``line 4``, ``lines 4, 7, 9 and 12 more``."""
    shown = [str(r.line) for r in rows[:8]]
    more = len(rows) - len(shown)
    said = ", ".join(shown) + (f" and {more} more" if more else "")
    return f"line{'s' if len(rows) > 1 else ''} {said}"


def _grouped(rows: list[ImportRow], field_name: str) -> list[QuestionGroup]:
    groups: dict[str, list[ImportRow]] = {}
    for row in rows:
        groups.setdefault(_shape(getattr(row, field_name)), []).append(row)
    found = [QuestionGroup(getattr(members[0], field_name), members) for members in groups.values()]
    return sorted(found, key=lambda g: -len(g.rows))


def _shape(sentence: str) -> str:
    """A sentence without what differs from row to row: quoted words, IDs and numbers."""
    bare = re.sub(r"“[^”]*”", "“”", sentence)
    return re.sub(r"\b[A-Z]\w-\w{3,4}\b|[\d.,]+", "#", bare)
