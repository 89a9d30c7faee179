"""When a plan would be done if it were begun now: lanes over the days."""

from datetime import datetime, timedelta
from typing import Any

from django.utils import timezone

from brunt_core.planning.dates import Work, lanes
from brunt_web.asking.planning import PlanView
from brunt_web.campaigns.drafts import PlanDraft
from brunt_web.campaigns.requirements import requirements_of

WIDTH = 360.0
_LEFT, _ROW = 46.0, 20.0
_WORDS = {"print": "print", "wait": "wait", "test": "test", "run on": "run on"}


def when(draft: PlanDraft, view: PlanView, now: datetime) -> dict[str, Any] | None:
    """The lanes drawn, the day it ends, and what is not counted; ``None`` where nothing has an hour."""
    hours = view.estimate.print_hours
    printed = any(p.demand.printed for p in view.planned)
    seconds, unknown = _waiting(draft)
    work = Work(
        print_hours=hours or 0.0,
        plates=(view.plates or len(view.planned) or 1) if hours else 0,
        waiting=seconds / 3600,
        rig_hours=view.estimate.rig_hours,
        running=max((max(p.reading_times, default=0.0) for p in draft.procedures), default=0.0)
        / 3600,
    )
    found = lanes(timezone.localtime(now), work)
    if not found:
        return None
    start, end = found[0].start, max(lane.end for lane in found)
    span = max((end - start).total_seconds(), 3600.0)

    def x(at: datetime) -> float:
        return round(_LEFT + (WIDTH - _LEFT - 8) * (at - start).total_seconds() / span, 1)

    missing = [] if hours or not printed else ["the print's hours are not known"]
    missing += [f"“{what}” names no time" for what in unknown]
    return {
        "lanes": [
            {
                "name": _WORDS[lane.name],
                "key": lane.name.replace(" ", "-"),
                "y": _ROW * i,
                "x": x(lane.start),
                "w": max(x(lane.end) - x(lane.start), 2.0),
                "end": lane.end,
            }
            for i, lane in enumerate(found)
        ],
        "days": _days(start, end, x),
        "height": _ROW * len(found) + 22,
        "low": _ROW * len(found),
        "end": end,
        "missing": missing,
    }


def _days(start: datetime, end: datetime, x: Any) -> list[tuple[float, datetime]]:
    """Midnights between, no more than eight of them."""
    first = (start + timedelta(days=1)).replace(hour=0, minute=0, second=0, microsecond=0)
    count = max((end - first).days + 1, 0)
    step = max(-(-count // 8), 1)
    return [
        (x(first + timedelta(days=k)), first + timedelta(days=k)) for k in range(0, count, step)
    ]


def _waiting(draft: PlanDraft) -> tuple[float, list[str]]:
    """The longest wait between print and test in s, and what names no time."""
    longest, unknown = 0.0, []
    for c in draft.kept if draft.factors else []:
        required = requirements_of(zip(draft.factors, c.levels, strict=True))
        own = required.seconds
        for step in (*required.treatments, *([required.state] if required.state else ())):
            if step.outstanding and step.duration is None:
                unknown.append(step.what)
            own += step.duration or 0.0
        longest = max(longest, own)
    return longest, list(dict.fromkeys(unknown))
