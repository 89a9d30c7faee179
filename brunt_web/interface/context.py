"""What every template may need."""

import json
from typing import Any

from django.conf import settings
from django.http import HttpRequest
from django.urls import reverse

from brunt_web.interface.beam import Station, draw_beam
from brunt_web.interface.ways import current


def surroundings(request: HttpRequest) -> dict[str, Any]:
    """Demo flag and whether somebody is signed in."""
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


def station_counts(campaign: Any, counts: dict[str, int]) -> str:
    """What the beam says under each station, as JSON by the station's key: a page that goes on without being
    loaded anew keeps it up to date.
    """
    beam = campaign_surroundings(campaign, "test", counts)["beam"]
    return json.dumps({s.key: s.count for s in beam.stations})


def campaign_surroundings(campaign: Any, station: str, counts: dict[str, int]) -> dict[str, Any]:
    """The campaign and its beam."""
    waiting = counts["waiting"]
    made = f"{counts['printed']} of {counts['specimens']} made"
    treated = f"{counts['owing']} owing" if counts["owing"] else f"{counts['treated']} treated"
    stations = (
        Station(
            "ask", "Ask", f"{counts['specimens']} specimens", reverse("ask", args=[campaign.pk])
        ),
        Station("print", "Print", made, reverse("print", args=[campaign.pk])),
        Station("treat", "Treat", treated, reverse("treat", args=[campaign.pk])),
        Station(
            "test",
            "Test",
            f"{waiting} waiting" if waiting else "all tested",
            reverse("bench", args=[campaign.pk]),
        ),
        Station(
            "compare",
            "Compare",
            f"{counts['tested'] - counts['void']} results",
            reverse("compare", args=[campaign.pk]),
        ),
        Station("decide", "Decide", "what it is made of", reverse("duties", args=[campaign.pk])),
    )
    return {"campaign": campaign, "counts": counts, "beam": draw_beam(stations, station)}
