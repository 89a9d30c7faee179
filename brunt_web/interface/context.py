"""What every template may need."""

from typing import Any

from django.conf import settings
from django.http import HttpRequest

from brunt_web.interface.beam import Station, draw_beam


def surroundings(request: HttpRequest) -> dict[str, Any]:
    """Demo flag and whether somebody is signed in."""
    signed_in = hasattr(request, "user") and request.user.is_authenticated
    return {"demo": settings.DEMO, "signed_in": signed_in, "debug": settings.DEBUG}


def campaign_surroundings(campaign: Any, station: str, counts: dict[str, int]) -> dict[str, Any]:
    """The campaign and its beam. Stations without a screen yet have no address."""
    base = f"/campaigns/{campaign.pk}"
    waiting = counts["waiting"]
    made = f"{counts['printed']} of {counts['specimens']} made"
    treated = f"{counts['owing']} owing" if counts["owing"] else f"{counts['treated']} treated"
    stations = (
        Station("ask", "Ask", f"{counts['specimens']} specimens", f"{base}/ask/"),
        Station("print", "Print", made, f"{base}/print/"),
        Station("treat", "Treat", treated, f"{base}/treat/"),
        Station(
            "test", "Test", f"{waiting} waiting" if waiting else "all tested", f"{base}/bench/"
        ),
        Station(
            "compare", "Compare", f"{counts['tested'] - counts['void']} results", f"{base}/compare/"
        ),
        Station("decide", "Decide"),
    )
    return {"campaign": campaign, "counts": counts, "beam": draw_beam(stations, station)}
