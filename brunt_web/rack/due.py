"""When campaigns were last touched, and what is due in each: for the cards of a page, in few queries."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db.models import Max

from brunt_core.quantities.rendering import time_words
from brunt_web.campaigns.models import HistoryEvent
from brunt_web.rack.small import Small
from brunt_web.testing.models import Clock
from brunt_web.testing.timed_queries import timed_of
from brunt_web.treatments.models import RUNNING, RunStep


@dataclass(frozen=True)
class DueItem:
    """What is due: seconds left, below zero when it is late, ``None`` where it has no hour; in words."""

    left: float | None
    words: str

    @property
    def late(self) -> bool:
        """Whether its hour has passed."""
        return self.left is not None and self.left < 0


def touched(campaigns: Iterable[int]) -> dict[int, datetime]:
    """When anything last happened to a specimen of each campaign."""
    rows = (
        HistoryEvent.objects.filter(specimen__campaign__in=list(campaigns))
        .values_list("specimen__campaign")
        .annotate(last=Max("noted_at"))
        .order_by()
    )
    return dict(rows)


def due_of(racks: Mapping[int, Small], now: datetime) -> dict[int, DueItem]:
    """The most urgent of each campaign: a reading, the end of a treatment's step, else the next work."""
    found: dict[int, list[DueItem]] = {c: [] for c in racks}
    for campaign, due in (*_readings(racks, now), *_steps(racks, now)):
        found[campaign].append(due)
    for campaign, own in racks.items():
        if own.work:
            found[campaign].append(DueItem(None, own.work))
    return {c: min(d, key=_urgency) for c, d in found.items() if d}


def _urgency(due: DueItem) -> float:
    return float("inf") if due.left is None else due.left


def _readings(racks: Mapping[int, Small], now: datetime) -> list[tuple[int, DueItem]]:
    clocks = (
        Clock.objects.filter(turn__campaign__in=list(racks), turn__state="running")
        .select_related("turn__procedure", "turn__specimen")
        .prefetch_related("turn__timed_readings")
    )
    found = []
    for clock in clocks:
        clock.turn.clock = clock
        timed = timed_of(clock.turn, now)
        if timed and timed.current:
            left = timed.current.due - (now - clock.started_at).total_seconds()
            found.append((clock.turn.campaign_id, DueItem(left, _said(f"reading of {clock.turn.specimen.code}", left))))  # fmt: skip
    return found


def _steps(racks: Mapping[int, Small], now: datetime) -> list[tuple[int, DueItem]]:
    steps = (
        RunStep.objects.filter(
            run__state=RUNNING,
            started_at__isnull=False,
            ended_at__isnull=True,
            run__inside__out_at__isnull=True,
            run__inside__specimen__campaign__in=list(racks),
        )
        .values_list("run__inside__specimen__campaign", "label", "started_at", "seconds")
        .distinct()
    )
    found = []
    for campaign, label, started, seconds in steps:
        if started is None:
            continue
        left = (started + timedelta(seconds=seconds) - now).total_seconds()
        found.append((campaign, DueItem(left, _said(f"{label.lower()} ends", left))))
    return found


def _said(what: str, left: float) -> str:
    if left < -60:
        return f"{what}: late by {time_words(float(round(-left)), 2)}"
    return f"{what}: due now" if left < 60 else f"{what}: in {time_words(float(round(left)), 2)}"
