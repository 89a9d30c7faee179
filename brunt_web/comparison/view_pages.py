"""The views of Compare beside the ranking, by their names."""

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from brunt_web.campaigns.queries import campaign_of
from brunt_web.comparison.all_campaigns import all_campaigns_of
from brunt_web.comparison.tabs import VIEWS
from brunt_web.people.requests import SeatedRequest


@require_GET
def view(request: SeatedRequest, pk: int, name: str) -> HttpResponse:
    """One of the views, by its name in the address."""
    if name in _RENAMED:
        address = reverse("compare-view", args=[pk, _RENAMED[name]])
        return redirect(f"{address}?{request.GET.urlencode()}", permanent=True)
    if name not in _ANSWERS:
        raise Http404("There is no such view.")
    return _ANSWERS[name](request, campaign_of(request.workshop, pk))


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
# Imported with the addresses, before the server forks.
_ANSWERS = {key: shown.answer for key, shown in VIEWS.items() if shown.page}
