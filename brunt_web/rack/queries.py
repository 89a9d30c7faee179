"""The rack: conditions by procedures, and what to do next."""

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from django.db.models import Count, Q, QuerySet

from brunt_web.campaigns.models import Campaign, CampaignProcedure, Condition, Specimen, Turn
from brunt_web.campaigns.queries import next_up
from brunt_web.library.models import Procedure
from brunt_web.printing.queries import plates_waiting
from brunt_web.rack.small import DRAWN, Share, bar_shares
from brunt_web.results.reading import Group, grouped, of_campaign

FOLD = 600
_COUNTS = ("waiting", "running", "reading_outstanding", "outstanding", "unmade", "later")


@dataclass
class Cell:
    """One condition under one procedure: its turns and what they come to."""

    turns: list[Turn] = field(default_factory=list)
    group: Group = field(default_factory=Group)

    @property
    def waiting(self) -> int:
        """How many are ready and not tested yet."""
        return sum(1 for t in self.turns if t.waits and not t.specimen.spare)

    @property
    def running(self) -> int:
        """How many have their clock running."""
        return sum(1 for t in self.turns if t.state == "running")

    @property
    def reading_outstanding(self) -> int:
        """How many are tested and their reading is to follow."""
        return sum(1 for t in self.turns if t.reading_outstanding)

    @property
    def outstanding(self) -> int:
        """How many are made and owe something before their test."""
        return sum(
            1 for t in self.turns if _counts(t) and t.specimen.outstanding in ("treatment", "state")
        )

    @property
    def unmade(self) -> int:
        """How many are still to be made."""
        return sum(1 for t in self.turns if _counts(t) and t.specimen.outstanding == "making")

    @property
    def later(self) -> int:
        """How many come after another test of the same specimen."""
        return sum(
            1 for t in self.turns if _counts(t) and not t.open and not t.specimen.outstanding
        )

    @property
    def apart(self) -> int:
        """How many ended otherwise than those averaged, where the method keeps these apart."""
        return len(self.group.unlike)


@dataclass
class FoldedCell:
    """The same of a cell with many turns: what they are, counted, and drawn as the shares of one bar."""

    total: int = 0
    waiting: int = 0
    running: int = 0
    reading_outstanding: int = 0
    outstanding: int = 0
    unmade: int = 0
    later: int = 0
    states: Counter[str] = field(default_factory=Counter)
    turns: list[Turn] = field(default_factory=list)
    group: Group = field(default_factory=Group)

    @property
    def words(self) -> str:
        """The same in words, for who does not see the bar."""
        return ", ".join(f"{s.number} {s.state}" for s in self.bar)

    @property
    def bar(self) -> list[Share]:
        """The shares of a bar 100 wide."""
        return bar_shares(self.states, 100.0)

    @property
    def apart(self) -> int:
        """How many ended otherwise than those averaged."""
        return len(self.group.unlike)


def folded_cells(campaign: Campaign) -> dict[tuple[int, int], FoldedCell]:
    """Every cell counted, by condition and procedure. One query."""
    wait = Q(state="waiting", specimen__spare=False)
    cells: dict[tuple[int, int], FoldedCell] = defaultdict(FoldedCell)
    rows = (
        Turn.objects.filter(campaign=campaign)
        .values_list("condition", "procedure", DRAWN)
        .annotate(
            n=Count("id"),
            waiting=Count("id", filter=wait & Q(open=True, specimen__outstanding="")),
            running=Count("id", filter=Q(state="running")),
            reading_outstanding=Count("id", filter=Q(reading_outstanding=True)),
            outstanding=Count(
                "id", filter=wait & Q(specimen__outstanding__in=("treatment", "state"))
            ),
            unmade=Count("id", filter=wait & Q(specimen__outstanding="making")),
            later=Count("id", filter=wait & Q(open=False, specimen__outstanding="")),
        )
        .order_by()
    )
    for condition, procedure, state, n, *counts in rows:
        cell = cells[condition, procedure]
        cell.total += n
        cell.states[state] += n
        for name, count in zip(_COUNTS, counts, strict=True):
            setattr(cell, name, getattr(cell, name) + count)
    return dict(cells)


def _counts(turn: Turn) -> bool:
    return turn.state == "waiting" and not turn.specimen.spare


@dataclass
class RackRow:
    """One condition's cells, one for each procedure, and what of it departs from the plan."""

    condition: Condition
    cells: list[Cell | FoldedCell]
    deviations: list[str]

    @property
    def folded(self) -> bool:
        """Whether its specimens are counted, not shown."""
        return any(isinstance(c, FoldedCell) and c.total for c in self.cells)


def rack_turns(turns: QuerySet[Turn]) -> list[Turn]:
    """Turns with their specimens, condition by condition."""
    return list(
        turns.select_related("specimen", "condition")
        .defer("tested_as", "specimen__made_as", "specimen__note")
        .order_by("condition__position", "specimen__replicate", "step")
    )


def rack(
    campaign: Campaign,
    procedures: Sequence[Procedure],
    conditions: Sequence[Condition],
    opened: int | None = None,
) -> list[RackRow]:
    """The campaign as rows of conditions and columns of procedures, in a fixed number of queries.

    More than :data:`FOLD` tests are drawn as shares of bars, counted in the database; the ``opened``
    condition shows its specimens all the same. Results are read after the turns: one that another
    stores in between shows at the next look.
    """
    known = {p.pk: p for p in procedures}
    cells: dict[tuple[int, int], Cell | FoldedCell] = defaultdict(Cell)
    said: dict[int, dict[str, None]] = defaultdict(dict)
    turns = Turn.objects.filter(campaign=campaign)
    if turns.count() > FOLD:
        cells |= folded_cells(campaign)
        turns = turns.filter(condition=opened)
        departed = Specimen.objects.filter(campaign=campaign).exclude(deviations=[])
        for condition, deviations in departed.values_list("condition", "deviations"):
            said[condition] |= {d.says: None for d in deviations}
        for key in [k for k in cells if k[0] == opened]:
            del cells[key]
    for turn in rack_turns(turns):
        if turn.procedure_id in known:
            turn.procedure = known[turn.procedure_id]
        cells[turn.condition_id, turn.procedure_id].turns.append(turn)
        for deviation in turn.specimen.deviations:
            said[turn.condition_id][deviation.says] = None
    wanted = {p.ranked_property.key for p in procedures}
    for key, group in grouped(of_campaign(campaign, wanted), procedures).items():
        cells[key].group = group
    return [
        RackRow(c, [cells[c.pk, p.pk] for p in procedures], list(said[c.pk])) for c in conditions
    ]


@dataclass(frozen=True)
class Next:
    """What to do next: ``kind`` is print, plate, outstanding, wait, bench or done; what it is about."""

    kind: str
    turn: Turn | None = None
    plate: Any = None
    count: int = 0
    step: str = ""
    until: datetime | None = None


def what_next(campaign: Campaign, counts: dict[str, int]) -> Next:
    """What is ready goes to the bench; then plates, treatments, what is to be made, and waiting."""
    following = next_up(campaign)
    if following:
        return Next("bench", following)
    plate = plates_waiting(campaign).first()
    if plate:
        return Next("plate", plate=plate)
    if counts["outstanding"]:
        return _next_step(campaign)
    unmade = counts["specimens"] - counts["printed"]
    left = Specimen.objects.filter(campaign=campaign, made="planned", spare=False).count()
    if unmade and left:
        return Next("print", count=left)
    ageing = (
        Specimen.objects.filter(
            campaign=campaign, outstanding="", ready_at__isnull=False, spent=False
        )
        .filter(turns__state="waiting")
        .order_by("ready_at")
        .first()
    )
    if ageing:
        return Next("wait", until=ageing.ready_at)
    if counts["running"]:
        return Next("running", count=counts["running"])
    return Next("done" if counts["specimens"] else "nothing")


def _next_step(campaign: Campaign) -> Next:
    rows = (
        Specimen.objects.filter(
            campaign=campaign, made="made", outstanding__in=("treatment", "state")
        )
        .values_list("outstanding_steps", flat=True)
        .annotate(n=Count("id"))
    )
    first = next(iter(rows), None)
    steps = [o.what for o in first or () if o.kind != "making"]
    count = Specimen.objects.filter(
        campaign=campaign, made="made", outstanding__in=("treatment", "state"), spare=False
    ).count()
    return Next("step", count=count, step=steps[0] if steps else "")


def column_heads(columns: Sequence[CampaignProcedure]) -> list[dict[str, Any]]:
    """What stands above each column: its procedure, and what it is done after."""
    return [
        {"procedure": c.procedure, "after": c.after.procedure if c.after else None} for c in columns
    ]
