"""Campaigns as racks too small for outlines, counted in the database: a card costs the same for 20 specimens or 20 000."""

from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import NamedTuple

from django.db.models import Case, CharField, Count, Exists, F, OuterRef, Q, Value, When

from brunt_web.campaigns.models import Specimen, Turn

# A cell draws a stroke a test; of more than these, the shares of one bar. More rows than these fold into the last.
STROKES, ROWS = 12, 16
_STEP, _GAP, _ROW = 7, 12, 20
_ORDER = ("broken", "held", "read", "running", "void", "gone", "treated", "printed", "planned", "failed")  # fmt: skip
_LEFT = ("waiting", "running")
DRAWN = Case(
    When(~Q(state="waiting"), then=F("state")),
    When(specimen__made="planned", then=Value("planned")),
    When(specimen__made="failed", then=Value("failed")),
    When(specimen__treated=True, then=Value("treated")),
    default=Value("printed"),
    output_field=CharField(),
)


class Share(NamedTuple):
    """A stroke or a part of a bar: the state of its tests, where it begins, how wide, how many."""

    state: str
    left: float
    width: float
    number: int = 1


@dataclass
class Small:
    """What a campaign's card says and draws: one path a state."""

    count: int = 0
    waiting: int = 0
    left: int = 0
    unread: int = 0
    unmade: int = 0
    outstanding: int = 0
    drawn: dict[str, str] = field(default_factory=dict)
    width: float = 200
    height: float = _ROW
    folded: int = 0

    @property
    def work(self) -> str:
        """The next work at hand, in the order it is done."""
        parts = [
            (self.unread, "reading to enter", "readings to enter"),
            (self.waiting, "waits at the bench", "wait at the bench"),
            (self.outstanding, "to treat", "to treat"),
            (self.unmade, "to make", "to make"),
        ]
        return ", ".join(f"{n} {one if n == 1 else many}" for n, one, many in parts if n)


def small_racks(campaigns: Iterable[int]) -> dict[int, Small]:
    """Each campaign's card. Two queries, whatever is in them."""
    found = {pk: Small() for pk in campaigns}
    cells: dict[int, dict[tuple[int, int], Counter[str]]] = defaultdict(lambda: defaultdict(Counter))  # fmt: skip
    bare = Q(specimen__spare=False)
    # A specimen is of the campaign of its turns; told so, the database reads these specimens and no others.
    shown = Turn.objects.filter(campaign__in=list(found), specimen__campaign__in=list(found))
    rows = (
        shown.values_list("campaign", "condition__position", "condition", "procedure", DRAWN)
        .annotate(
            n=Count("id"),
            waiting=Count(
                "id", filter=bare & Q(state="waiting", open=True, specimen__outstanding="")
            ),
            left=Count("id", filter=bare & Q(state__in=_LEFT)),
            unread=Count("id", filter=Q(reading_outstanding=True)),
        )
        .order_by("campaign", "condition__position", "condition", "procedure")
    )
    for campaign, _, condition, procedure, state, n, waiting, left, unread in rows:
        one = found[campaign]
        one.waiting += waiting
        one.left += left
        one.unread += unread
        cells[campaign][condition, procedure][state] += n
    for campaign, counts in _specimens(found).items():
        found[campaign].count, found[campaign].unmade, found[campaign].outstanding = counts
    for campaign, own in cells.items():
        _draw(found[campaign], own)
    return found


def _specimens(campaigns: Iterable[int]) -> dict[int, tuple[int, int, int]]:
    """How many specimens there are, how many of them are to be made, and how many owe something else."""
    to_test = Q(Exists(Turn.objects.filter(specimen=OuterRef("pk"), state__in=_LEFT)), spare=False)
    rows = (
        Specimen.objects.filter(campaign__in=list(campaigns))
        .values_list("campaign")
        .annotate(
            n=Count("id"),
            unmade=Count("id", filter=Q(made="planned") & to_test),
            outstanding=Count(
                "id", filter=Q(made="made", outstanding__in=("treatment", "state")) & to_test
            ),
        )
        .order_by()
    )
    return {campaign: (n, unmade, outstanding) for campaign, n, unmade, outstanding in rows}


def _draw(one: Small, cells: dict[tuple[int, int], Counter[str]]) -> None:
    rows = list(dict.fromkeys(condition for condition, _ in cells))
    columns = sorted({procedure for _, procedure in cells})
    one.folded = max(len(rows) - ROWS, 0)
    places = {condition: min(i, ROWS - 1) for i, condition in enumerate(rows)}
    merged: dict[tuple[int, int], Counter[str]] = defaultdict(Counter)
    for (condition, procedure), states in cells.items():
        merged[places[condition], procedure].update(states)
    x = 1.0
    for procedure in columns:
        own = {at: s for (at, p), s in merged.items() if p == procedure}
        wide = min(max(s.total() for s in own.values()), STROKES)
        for at, states in own.items():
            for s in _cell(states, wide):
                box = f"M{x + s.left:g} {at * _ROW + 2}h{s.width:g}v15h-{s.width:g}z"
                one.drawn[s.state] = one.drawn.get(s.state, "") + box
        x += wide * _STEP + _GAP
    one.width, one.height = max(x, 200), max(min(len(rows), ROWS), 1) * _ROW


def _cell(states: Counter[str], wide: int) -> list[Share]:
    """Strokes, one a test; of many, the shares of one bar as wide as the column."""
    if states.total() <= STROKES:
        flat = [state for state, n in _in_order(states) for _ in range(n)]
        return [Share(state, i * _STEP, 4.2) for i, state in enumerate(flat)]
    return bar_shares(states, wide * _STEP - 2.8)


def bar_shares(states: Counter[str], wide: float) -> list[Share]:
    """The shares of a bar so wide, the tested first."""
    found, left, total = [], 0.0, states.total()
    for state, n in _in_order(states):
        share = wide * n / total
        found.append(Share(state, round(left, 2), round(share, 2), n))
        left += share
    return found


def _in_order(states: Counter[str]) -> list[tuple[str, int]]:
    return sorted(states.items(), key=lambda s: _ORDER.index(s[0]) if s[0] in _ORDER else 99)
