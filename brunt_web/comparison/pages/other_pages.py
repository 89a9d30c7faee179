"""The pages of findings, trade-off and kinds of break."""

from django.db.models import prefetch_related_objects
from django.http import HttpResponse
from django.shortcuts import render

from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.campaigns.queries import procedures_of
from brunt_web.comparison.every import every_specimen
from brunt_web.comparison.findings_view import Said, said_of, scatter_of
from brunt_web.comparison.grid_view import grid_of
from brunt_web.comparison.kinds_view import kinds_of
from brunt_web.comparison.normalising import asked_for
from brunt_web.comparison.pages.frame import (
    around,
    chosen_strip,
    shown_conditions,
    varied,
)
from brunt_web.comparison.stations import address_of
from brunt_web.comparison.strips import Strip, common_words, strips_of
from brunt_web.comparison.sweep_view import sweep_of
from brunt_web.comparison.sweeping import swept_levels
from brunt_web.comparison.tradeoff_view import scored, tradeoff_of
from brunt_web.people.requests import SeatedRequest


def findings(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    strips, strip, conditions, links = chosen_strip(request, campaign, "findings")
    ranked = [s for s in strips if s.prop.key == s.procedure.ranked_property.key]
    parts = [
        (
            title,
            [(s, address_of(campaign, s.view, query, **{**s.query, "working": ""})) for s in said],
        )
        for title, said in findings_on(campaign, ranked, strip, conditions)
    ]
    return render(
        request,
        "comparison/findings.html",
        {
            "parts": parts,
            "strip": strip,
            "links": links,
            "scatter": scatter_of(strip) if strip else None,
            "common": common_words(conditions),
            **around(request, campaign, "findings", ranked),
        },
    )


def findings_on(
    campaign: Campaign, ranked: list[Strip], strip: Strip | None, conditions: list[Condition]
) -> list[tuple[str, list[Said]]]:
    """All findings under their headings; what factors do is said of one strip."""
    prefetch_related_objects(conditions, "levels")
    swept = swept_levels(campaign)
    sweep = sweep_of(strip, swept, conditions) if strip and swept else None
    factors = varied(campaign)
    grid = None
    if strip and len(factors) > 1:
        grid = grid_of(campaign, strip, conditions, factors, None, None, with_sum=False)
    return said_of(ranked, sweep, grid)


def tradeoff(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    conditions = shown_conditions(request, campaign)
    strips, _ = strips_of(campaign, procedures_of(campaign), conditions, by=asked_for(request.GET))
    keys = {str(s.procedure.pk): s for s in strips}
    across = keys.get(query.get("across", ""), strips[0] if strips else None)
    rest = [s for s in strips if s is not across]
    up = keys.get(query.get("up", ""), rest[0] if rest else None)
    return render(
        request,
        "comparison/tradeoff.html",
        {
            "trade": tradeoff_of(across, up, conditions),
            "axes": [
                (
                    word,
                    [(s.procedure.pk, s.title, s is chosen) for s in strips],
                    name,
                )
                for word, name, chosen in (("across", "across", across), ("up", "up", up))
            ],
            "carried": [
                (k, v) for k, v in query.items() if not k.startswith("w") or k == "working"
            ],
            "scored": scored(strips, conditions, query.dict()) if strips else None,
            "every": every_specimen(strips),
            **around(request, campaign, "trade-off", strips),
        },
    )


def kinds(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    conditions = shown_conditions(request, campaign)
    strips, _ = strips_of(campaign, procedures_of(campaign), conditions, by=asked_for(request.GET))
    return render(
        request,
        "comparison/kinds.html",
        {
            "kinds": kinds_of(strips, conditions),
            "every": every_specimen(strips),
            **around(request, campaign, "kinds", strips),
        },
    )
