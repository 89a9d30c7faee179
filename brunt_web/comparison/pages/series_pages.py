"""The pages of lines: time and curves."""

from django.http import HttpResponse
from django.shortcuts import render

from brunt_web.campaigns.models import Campaign
from brunt_web.comparison.pages.frame import around, chosen_strip
from brunt_web.comparison.series_view import SeriesView, over_time, over_travel
from brunt_web.comparison.specimen_table import every_specimen
from brunt_web.comparison.strips import Strip
from brunt_web.comparison.tabs import VIEWS
from brunt_web.people.requests import SeatedRequest
from brunt_web.testing.models import Curve, TimedReading


def time(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    having = set(
        TimedReading.objects.filter(turn__campaign=campaign).values_list(
            "turn__procedure_id", flat=True
        )
    )
    _, strip, conditions, links = chosen_strip(request, campaign, "time", having)
    shown = over_time(strip, conditions) if strip else None
    return _lines(request, campaign, "time", shown, strip, links)


def curves(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    having = set(
        Curve.objects.filter(turn__campaign=campaign).values_list("turn__procedure_id", flat=True)
    )
    _, strip, conditions, links = chosen_strip(request, campaign, "curves", having)
    shown = over_travel(strip, conditions) if strip else None
    return _lines(request, campaign, "curves", shown, strip, links)


def _lines(
    request: SeatedRequest,
    campaign: Campaign,
    name: str,
    shown: SeriesView | None,
    strip: Strip | None,
    links: list,
) -> HttpResponse:
    return render(
        request,
        "comparison/series.html",
        {
            "name": VIEWS[name].name,
            "shown": shown,
            "strip": strip,
            "links": links,
            "every": every_specimen([strip]) if strip else [],
            **around(request, campaign, name, [strip] if strip else ()),
        },
    )
