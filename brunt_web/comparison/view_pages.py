"""The views of Compare beside the ladder."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from django.db.models import prefetch_related_objects
from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from brunt_web.campaigns.models import Campaign, Condition, Factor
from brunt_web.campaigns.queries import campaign_of, conditions_made, procedures_of, progress
from brunt_web.comparison import profile as profiles
from brunt_web.comparison.findings_view import said_of, scatter_of
from brunt_web.comparison.grid_view import grid_of
from brunt_web.comparison.stations import address_of, numbers_in, tabs_of
from brunt_web.comparison.strips import Strip, common_words, spoken, strips_of
from brunt_web.comparison.sweep_view import sweep_of
from brunt_web.comparison.sweeping import swept_levels
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.typed import whole
from brunt_web.people.requests import SeatedRequest

_LANES = (13.5, 7.5, 19.5)


@dataclass
class Told:
    """One specimen in one property, for the table."""

    condition: str
    title: str
    code: str
    value: str
    unit: str
    note: str = ""


@require_GET
def view(request: SeatedRequest, pk: int, name: str) -> HttpResponse:
    """One of the views, by its name in the address."""
    shown = PAGES.get(name)
    if shown is None:
        raise Http404("There is no such view.")
    campaign = campaign_of(request.workshop, pk)
    return shown(request, campaign)


def _around(request: SeatedRequest, campaign: Campaign, here: str) -> dict:
    return {
        "tabs": tabs_of(campaign, here, request.GET),
        **campaign_surroundings(campaign, "compare", progress(campaign)),
    }


def every_specimen(strips: Sequence[Strip], conditions: Sequence[Condition]) -> list[Told]:
    """Each specimen of each property in words and numbers, what is left out with its reason."""
    found = []
    for s in strips:
        for c in conditions:
            group = s.groups.get(c.pk) or s.aside[c.pk]
            name = s.names.get(c.pk, str(c))
            for code, o in zip(group.codes, group.values, strict=True):
                found.append(Told(name, s.title, code, spoken(o), s.prop.unit))
            for code, o, why in [*group.left_out, *group.unlike]:
                found.append(Told(name, s.title, code, spoken(o), s.prop.unit, f"left out: {why}"))
    return found


def _profile(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    conditions = conditions_made(campaign)
    strips, _ = strips_of(campaign, procedures_of(campaign), conditions)
    sort = max((whole(query.get("sort")) or 1) - 1, 0)
    apart = query.get("apart", "") if query.get("apart") in profiles.APART else "fibre"
    lit, only = numbers_in(query, "lit"), query.get("only") == "1"
    found = profiles.profile_of(
        strips, conditions, whole(query.get("chosen")), sort, apart, lit, only_alike=only
    )
    for i, h in enumerate(found.heads):
        h.url = address_of(campaign, "profile", query, sort=i + 1)
    rows = [r for b in found.bands for r in b.rows]
    here = next((i for i, r in enumerate(rows) if r.chosen), 0)
    keys = {here - 1: "ArrowUp", here + 1: "ArrowDown"}
    for i, r in enumerate(rows):
        r.url = address_of(campaign, "profile", query, chosen=r.condition.pk)
        r.key = keys.get(i, "")
        for h, c in zip(found.heads, r.cells, strict=True):
            c.plumb, c.title = h.plumb, h.strip.title
            c.frame = _frame(c)
            c.marks = [replace(m, y=_LANES[min(m.lane, 2)]) for m in c.marks]
    chosen = found.chosen.pk if found.chosen else None
    toggled = lit ^ ({chosen} if chosen else set())
    lit_words = ",".join(map(str, sorted(toggled)))
    return render(
        request,
        "comparison/profile.html",
        {
            "profile": found,
            "wide": int(profiles.width_of(len(strips))),
            "sort": min(sort, max(len(strips) - 1, 0)) + 1,
            "common": common_words(conditions),
            "aparts": [
                (word, address_of(campaign, "profile", query, apart=key), key == apart)
                for key, word in profiles.APART.items()
            ],
            "only": (address_of(campaign, "profile", query, only="" if only else 1), only),
            "light": address_of(campaign, "profile", query, lit=lit_words),
            "every": every_specimen(strips, conditions),
            **_around(request, campaign, "profile"),
        },
    )


def _frame(cell: profiles.Cell) -> tuple[float, float]:
    """The frame round what leads: its marks and its interval."""
    ends = [m.x for m in cell.marks if m.kind != "out"]
    if cell.bar:
        ends += [cell.bar[0], cell.bar[0] + cell.bar[1]]
    if not ends:
        return 0.0, 0.0
    return round(min(ends) - 6, 1), round(max(ends) - min(ends) + 12, 1)


def _chosen_strip(
    request: SeatedRequest, campaign: Campaign, here: str
) -> tuple[list[Strip], Strip | None, list[Condition], list[tuple[str, str, bool]]]:
    """All strips, the one the address names, the conditions, and the links to the others."""
    query = request.GET
    conditions = conditions_made(campaign)
    procedures = procedures_of(campaign)
    view, key = query.get("view", ""), query.get("property", "")
    also = {int(view): key} if view.isdecimal() and key else {}
    strips, measured = strips_of(campaign, procedures, conditions, also)
    own = [s for s in strips if str(s.procedure.pk) == view]
    strip = next((s for s in own if s.prop.key == key), None) or next(iter(own or strips), None)
    links = []
    for s in strips:
        if s.prop.key != s.procedure.ranked_property.key:
            continue
        for prop in dict.fromkeys([s.prop.key, *sorted(measured.get(s.procedure.pk, ()))]):
            ranked = prop == s.prop.key
            if not ranked and s.procedure.pk != (strip.procedure.pk if strip else None):
                continue
            title = str(s.procedure) if ranked else s.procedure.property_called(prop).name.lower()
            url = address_of(
                campaign, here, query, view=s.procedure.pk, property="" if ranked else prop
            )
            on = bool(strip) and strip is not None and strip.key == f"{s.procedure.pk}.{prop}"
            links.append((title, url, on))
    return strips, strip, conditions, links


def _sweep(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    _, strip, conditions, links = _chosen_strip(request, campaign, "sweep")
    swept = swept_levels(campaign)
    return render(
        request,
        "comparison/sweep.html",
        {
            "strip": strip,
            "sweep": sweep_of(strip, swept, conditions) if strip else None,
            "links": links,
            "every": every_specimen([strip], conditions) if strip else [],
            **_around(request, campaign, "sweep"),
        },
    )


def _grid(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    _, strip, conditions, links = _chosen_strip(request, campaign, "grid")
    prefetch_related_objects(conditions, "levels")
    factors = _varied(campaign)
    summed = query.get("sum") != "0"
    first, second = whole(query.get("along")), whole(query.get("across"))
    found = grid_of(campaign, strip, conditions, factors, first, second, summed) if strip else None
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
                "grid",
                query,
                along=across.pk if across else "",
                across=along.pk if along else "",
            ),
            "sum": (address_of(campaign, "grid", query, sum="0" if summed else ""), summed),
            "alongs": [
                (f.name, address_of(campaign, "grid", query, along=f.pk), f == along)
                for f in factors
            ],
            "every": every_specimen([strip], conditions) if strip else [],
            **_around(request, campaign, "grid"),
        },
    )


def _findings(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    strips, strip, conditions, links = _chosen_strip(request, campaign, "findings")
    prefetch_related_objects(conditions, "levels")
    swept = swept_levels(campaign)
    sweep = sweep_of(strip, swept, conditions) if strip and swept else None
    factors = _varied(campaign)
    grid = None
    if strip and len(factors) > 1:
        grid = grid_of(campaign, strip, conditions, factors, None, None, with_sum=False)
    ranked = [s for s in strips if s.prop.key == s.procedure.ranked_property.key]
    parts = [
        (
            title,
            [(s, address_of(campaign, s.view, query, **{**s.query, "working": ""})) for s in said],
        )
        for title, said in said_of(ranked, sweep, grid)
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
            **_around(request, campaign, "findings"),
        },
    )


def _varied(campaign: Campaign) -> list[Factor]:
    """The factors with two levels or more."""
    return [
        f
        for f in campaign.factors.prefetch_related("levels")
        if len({lv.label for lv in f.levels.all()}) > 1
    ]


PAGES: dict[str, Callable[[SeatedRequest, Campaign], HttpResponse]] = {
    "profile": _profile,
    "sweep": _sweep,
    "grid": _grid,
    "findings": _findings,
}
