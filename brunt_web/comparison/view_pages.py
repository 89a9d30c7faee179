"""The views of Compare beside the ladder, by their names."""

from collections.abc import Callable

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.queries import campaign_of
from brunt_web.comparison.league import league_of
from brunt_web.comparison.pages.factor_pages import directions, grid, pairs, sweep
from brunt_web.comparison.pages.other_pages import findings, kinds, tradeoff
from brunt_web.comparison.pages.profile_page import profile
from brunt_web.comparison.pages.series_pages import curves, time
from brunt_web.people.requests import SeatedRequest


@require_GET
def view(request: SeatedRequest, pk: int, name: str) -> HttpResponse:
    """One of the views, by its name in the address."""
    shown = PAGES.get(name)
    if shown is None:
        raise Http404("There is no such view.")
    campaign = campaign_of(request.workshop, pk)
    return shown(request, campaign)


@require_GET
def league(request: SeatedRequest) -> HttpResponse:
    """All campaigns of the workshop that may stand in one ranking."""
    found = league_of(request.workshop, request.GET.get("series", ""))
    return render(request, "comparison/league.html", {"league": found})


PAGES: dict[str, Callable[[SeatedRequest, Campaign], HttpResponse]] = {
    "profile": profile,
    "sweep": sweep,
    "grid": grid,
    "findings": findings,
    "pairs": pairs,
    "directions": directions,
    "trade-off": tradeoff,
    "time": time,
    "curves": curves,
    "kinds": kinds,
}
