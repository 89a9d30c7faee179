"""Reading the Treat station: what is owed, step by step, and what was done."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from brunt_web.campaigns.models import Campaign, LifeEvent, Specimen


@dataclass
class Owed:
    """One step with the specimens that owe it, and those that cannot have it yet."""

    kind: str
    what: str
    temperature: float | None
    duration: float | None
    specimens: list[Specimen] = field(default_factory=list)
    unmade: int = 0
    done: int = 0


def owed_steps(campaign: Campaign) -> list[Owed]:
    """Every step the campaign's conditions ask for, in order, with who still owes it."""
    found: dict[tuple[str, str], Owed] = {}
    specimens = (
        Specimen.objects.filter(campaign=campaign)
        .exclude(made="failed")
        .select_related("condition", "procedure__variant")
        .order_by("condition__position", "procedure_id", "replicate")
    )
    for specimen in specimens:
        for kind, step in _steps(specimen.condition.asks):
            row = found.setdefault(
                (kind, step["what"]),
                Owed(kind, step["what"], step["temperature"], step["duration"]),
            )
            _count(row, specimen)
    return list(found.values())


def _steps(asks: dict[str, Any]) -> list[tuple[str, dict[str, Any]]]:
    rows = [("treatment", t) for t in asks.get("treatments", ()) if t["owes"]]
    state = asks.get("state")
    return [*rows, ("state", state)] if state and state["owes"] else rows


def _count(row: Owed, specimen: Specimen) -> None:
    owes = any((o["kind"], o["what"]) == (row.kind, row.what) for o in specimen.owed)
    if not owes:
        row.done += 1
    elif specimen.made == "planned":
        row.unmade += 1
    else:
        row.specimens.append(specimen)


@dataclass
class Carried:
    """A step that was carried out on several specimens at once."""

    what: str
    at: datetime
    by: str
    codes: list[str]
    event: int


def carried_out(campaign: Campaign) -> list[Carried]:
    """What was carried out, the latest first."""
    rows = (
        LifeEvent.objects.filter(
            specimen__campaign=campaign,
            kind__in=("treated", "conditioned"),
            undone_at__isnull=True,
        )
        .select_related("specimen", "by")
        .order_by("-at", "specimen__code")
    )
    found: dict[tuple, Carried] = {}
    for event in rows:
        key = (event.what, event.at, event.by_id)
        who = event.by.get_username() if event.by else ""
        found.setdefault(key, Carried(event.what, event.at, who, [], event.pk)).codes.append(
            event.specimen.code
        )
    return list(found.values())


def in_their_state(campaign: Campaign) -> Sequence[Specimen]:
    """Specimens that were brought to a state and are not tested: they may be taken out of it."""
    return list(
        Specimen.objects.filter(
            campaign=campaign, owes="", condition__asks__state__owes=True, turns__state="waiting"
        )
        .select_related("condition")
        .distinct()
        .order_by("condition__position", "replicate")
    )
