"""The views of Compare beside the ranking, by their names."""

from collections.abc import Callable

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.queries import campaign_of
from brunt_web.comparison.all_campaigns import all_campaigns_of
from brunt_web.comparison.pages.factor_pages import directions, grid, one_factor, pairs
from brunt_web.comparison.pages.other_pages import campaign_summary, kinds, tradeoff
from brunt_web.comparison.pages.profile_page import profile
from brunt_web.comparison.pages.series_pages import curves, time
from brunt_web.people.requests import SeatedRequest


@require_GET
def view(request: SeatedRequest, pk: int, name: str) -> HttpResponse:
    """One of the views, by its name in the address."""
    if name in _RENAMED:
        address = reverse("compare-view", args=[pk, _RENAMED[name]])
        return redirect(f"{address}?{request.GET.urlencode()}", permanent=True)
    shown = PAGES.get(name)
    if shown is None:
        raise Http404("There is no such view.")
    campaign = campaign_of(request.workshop, pk)
    return shown(request, campaign)


@require_GET
def all_campaigns(request: SeatedRequest) -> HttpResponse:
    """All campaigns of the workshop that may stand in one ranking."""
    found = all_campaigns_of(request.workshop, request.GET.get("series", ""))
    return render(request, "comparison/all_campaigns.html", {"all_campaigns": found})


# Views were called otherwise until decision 26; an address that somebody kept still leads there.
_RENAMED = {
    "sweep": "one-factor",
    "grid": "two-factors",
    "pairs": "paired",
    "directions": "anisotropy",
    "kinds": "failure-modes",
    "findings": "summary",
}
PAGES: dict[str, Callable[[SeatedRequest, Campaign], HttpResponse]] = {
    "profile": profile,
    "one-factor": one_factor,
    "two-factors": grid,
    "summary": campaign_summary,
    "paired": pairs,
    "anisotropy": directions,
    "trade-off": tradeoff,
    "time": time,
    "curves": curves,
    "failure-modes": kinds,
}
