"""What every template may need."""

from django.conf import settings

from brunt_web.interface.beam import Station, draw_beam


def surroundings(request):
    """Demo flag and whether somebody is signed in."""
    signed_in = hasattr(request, "user") and request.user.is_authenticated
    return {"demo": settings.DEMO, "signed_in": signed_in, "debug": settings.DEBUG}


def campaign_surroundings(campaign, station: str, counts: dict[str, int]) -> dict:
    """The campaign and its beam. Stations without a screen yet have no address."""
    base = f"/campaigns/{campaign.pk}"
    waiting = counts["waiting"]
    stations = (
        Station("ask", "Ask", f"{counts['specimens']} specimens", f"{base}/ask/"),
        Station(
            "print", "Print", f"{counts['printed']} of {counts['specimens']}", f"{base}/print/"
        ),
        Station("treat", "Treat"),
        Station(
            "test", "Test", f"{waiting} waiting" if waiting else "all tested", f"{base}/bench/"
        ),
        Station(
            "compare", "Compare", f"{counts['tested'] - counts['void']} results", f"{base}/compare/"
        ),
        Station("decide", "Decide"),
    )
    return {"campaign": campaign, "counts": counts, "beam": draw_beam(stations, station)}
