"""The pages of factors: one factor, two factors, paired comparison, anisotropy."""

from dataclasses import replace

from django.db.models import prefetch_related_objects
from django.http import HttpResponse
from django.shortcuts import render

from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.queries import procedures_of
from brunt_web.comparison.grid_view import grid_of
from brunt_web.comparison.normalising import asked_for
from brunt_web.comparison.numeric_factor import numeric_factor
from brunt_web.comparison.one_factor_view import one_factor_of
from brunt_web.comparison.pages.frame import (
    around,
    chosen_strip,
    shown_conditions,
    varied,
)
from brunt_web.comparison.pairs_view import PairsView, by_direction, by_factor
from brunt_web.comparison.specimen_table import every_specimen
from brunt_web.comparison.strips import Strip, strips_of
from brunt_web.comparison.tabs import VIEWS, address_of
from brunt_web.interface.typed import whole
from brunt_web.people.requests import SeatedRequest


def one_factor_view(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    _, strip, conditions, links = chosen_strip(request, campaign, "one-factor")
    factor = numeric_factor(campaign)
    return render(
        request,
        "comparison/one_factor.html",
        {
            "strip": strip,
            "one_factor": one_factor_of(strip, factor, conditions) if strip else None,
            "links": links,
            "every": every_specimen([strip]) if strip else [],
            **around(request, campaign, "one-factor", [strip] if strip else ()),
        },
    )


def grid(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    _, strip, conditions, links = chosen_strip(request, campaign, "two-factors")
    prefetch_related_objects(conditions, "levels")
    factors = varied(campaign)
    summed = query.get("sum") != "0"
    first, second = whole(query.get("along")), whole(query.get("across"))
    found = (
        grid_of(
            campaign,
            strip,
            conditions,
            factors=factors,
            first=first,
            second=second,
            with_sum=summed,
        )
        if strip
        else None
    )
    along = next((f for f in factors if f.pk == first), factors[0] if factors else None)
    others = [f for f in factors if f != along]
    across = next((f for f in others if f.pk == second), others[0] if others else None)
    return render(
        request,
        "comparison/grid.html",
        {
            "strip": strip,
            "grid": found,
            "links": links,
            "swap": address_of(
                campaign,
                "two-factors",
                query,
                along=across.pk if across else "",
                across=along.pk if along else "",
            ),
            "sum": (address_of(campaign, "two-factors", query, sum="0" if summed else ""), summed),
            "alongs": [
                (f.name, address_of(campaign, "two-factors", query, along=f.pk), f == along)
                for f in factors
            ],
            "every": every_specimen([strip]) if strip else [],
            **around(request, campaign, "two-factors", [strip] if strip else ()),
        },
    )


def pairs(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    _, strip, conditions, links = chosen_strip(request, campaign, "paired")
    prefetch_related_objects(conditions, "levels")
    factors = varied(campaign)
    wanted = whole(query.get("factor"))
    shown = by_factor(strip, conditions, factors, wanted) if strip else None
    picks = [
        (f.name, address_of(campaign, "paired", query, factor=f.pk), f.pk == wanted)
        for f in factors
    ]
    return _dumbbells(
        request,
        campaign,
        "paired",
        shown=shown,
        links=links,
        picks=picks,
        strips=[strip] if strip else [],
    )


def directions(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    conditions = shown_conditions(request, campaign)
    strips, _ = strips_of(campaign, procedures_of(campaign), conditions, by=asked_for(request.GET))
    shown = by_direction(strips, conditions)
    return _dumbbells(
        request, campaign, "anisotropy", shown=shown, links=[], picks=[], strips=strips
    )


def _dumbbells(
    request: SeatedRequest,
    campaign: Campaign,
    name: str,
    shown: PairsView | None,
    links: list,
    picks: list,
    strips: list[Strip],
) -> HttpResponse:
    for row in shown.rows if shown else ():
        row.below = [replace(m, y=36 + 6.5 * min(m.lane, 1)) for m in row.below]
        row.above = [replace(m, y=16 - 6.5 * min(m.lane, 1)) for m in row.above]
    return render(
        request,
        "comparison/pairs.html",
        {
            "name": VIEWS[name].name,
            "shown": shown,
            "links": links,
            "picks": picks if len(picks) > 1 else [],
            "every": every_specimen(strips),
            **around(request, campaign, name, strips),
        },
    )
