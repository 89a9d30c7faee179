"""What every template may need."""

import json
from typing import Any

from django.conf import settings
from django.http import HttpRequest
from django.urls import reverse

from brunt_web.interface.stage_bar import Stage, draw_stage_bar
from brunt_web.interface.ways import current, write_for_reader


def surroundings(request: HttpRequest) -> dict[str, Any]:
    """Demo flag and whether somebody is signed in; from here on the answer is written for its reader."""
    write_for_reader()
    signed_in = hasattr(request, "user") and request.user.is_authenticated
    found = {
        "comma": current.get().comma,
        "demo": settings.DEMO,
        "signed_in": signed_in,
        "debug": settings.DEBUG,
    }
    if signed_in and hasattr(request, "seat"):
        found["rights"] = request.seat.rights
        found["keys_off"] = not request.seat.single_keys
    return found


def stage_counts(campaign: Any, counts: dict[str, int]) -> str:
    """What the stage bar says under each stage, as JSON by the stage's key: a page that goes on without being
    loaded again keeps it up to date.
    """
    stage_bar = campaign_surroundings(campaign, "test", counts)["stage_bar"]
    return json.dumps({s.key: s.count for s in stage_bar.stages})


def campaign_surroundings(campaign: Any, stage: str, counts: dict[str, int]) -> dict[str, Any]:
    """The campaign and its stage bar."""
    waiting = counts["waiting"]
    made = f"{counts['printed']} of {counts['specimens']} made"
    treated = (
        f"{counts['outstanding']} outstanding"
        if counts["outstanding"]
        else f"{counts['treated']} treated"
    )
    stages = (
        Stage("ask", "Ask", f"{counts['specimens']} specimens", reverse("ask", args=[campaign.pk])),
        Stage("print", "Print", made, reverse("print", args=[campaign.pk])),
        Stage("treat", "Treat", treated, reverse("treat", args=[campaign.pk])),
        Stage(
            "test",
            "Test",
            f"{waiting} waiting" if waiting else "all tested",
            reverse("bench", args=[campaign.pk]),
        ),
        Stage(
            "compare",
            "Compare",
            f"{counts['tested'] - counts['void']} results",
            reverse("compare", args=[campaign.pk]),
        ),
        Stage("decide", "Decide", "no decision yet", reverse("load-cases", args=[campaign.pk])),
    )
    return {"campaign": campaign, "counts": counts, "stage_bar": draw_stage_bar(stages, stage)}
