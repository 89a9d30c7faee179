"""The pages of summary, trade-off and failure modes."""

from django.db.models import prefetch_related_objects
from django.http import HttpResponse
from django.shortcuts import render

from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.campaigns.queries import procedures_of
from brunt_web.comparison.grid_view import grid_of
from brunt_web.comparison.kinds_view import kinds_of
from brunt_web.comparison.normalising import asked_for
from brunt_web.comparison.numeric_factor import numeric_factor
from brunt_web.comparison.one_factor_view import one_factor_of
from brunt_web.comparison.pages.frame import (
    around,
    chosen_strip,
    shown_conditions,
    varied,
)
from brunt_web.comparison.specimen_table import every_specimen
from brunt_web.comparison.strips import Strip, common_words, strips_of
from brunt_web.comparison.summary_view import Sentence, said_of, variation_of
from brunt_web.comparison.tabs import address_of
from brunt_web.comparison.tradeoff_view import scored, tradeoff_of
from brunt_web.people.requests import SeatedRequest


def campaign_summary_view(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    strips, strip, conditions, links = chosen_strip(request, campaign, "summary")
    ranked = [s for s in strips if s.prop.key == s.procedure.ranked_property.key]
    parts = [
        (
            title,
            [(s, address_of(campaign, s.view, query, **{**s.query, "working": ""})) for s in said],
        )
        for title, said in campaign_summary_on(campaign, ranked, strip, conditions)
    ]
    return render(
        request,
        "comparison/campaign_summary.html",
        {
            "parts": parts,
            "strip": strip,
            "links": links,
            "variation": variation_of(strip) if strip else None,
            "common": common_words(conditions),
            **around(request, campaign, "summary", ranked),
        },
    )


def campaign_summary_on(
    campaign: Campaign, ranked: list[Strip], strip: Strip | None, conditions: list[Condition]
) -> list[tuple[str, list[Sentence]]]:
    """All summary under their headings; what factors do is said of one strip."""
    prefetch_related_objects(conditions, "levels")
    factor = numeric_factor(campaign)
    one_factor = one_factor_of(strip, factor, conditions) if strip and factor else None
    factors = varied(campaign)
    grid = None
    if strip and len(factors) > 1:
        grid = grid_of(campaign, strip, conditions, factors, None, None, with_sum=False)
    return said_of(ranked, one_factor, grid)


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


def compare_kinds_view(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    conditions = shown_conditions(request, campaign)
    strips, _ = strips_of(campaign, procedures_of(campaign), conditions, by=asked_for(request.GET))
    return render(
        request,
        "comparison/kinds.html",
        {
            "kinds": kinds_of(strips, conditions),
            "every": every_specimen(strips),
            **around(request, campaign, "failure-modes", strips),
        },
    )
