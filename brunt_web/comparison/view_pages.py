"""The views of Compare beside the ladder."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from django.db.models import prefetch_related_objects
from django.http import Http404, HttpResponse, QueryDict
from django.shortcuts import render
from django.views.decorators.http import require_GET

from brunt_web.asking.guard import campaign_confounders
from brunt_web.campaigns.models import Campaign, Condition, Factor
from brunt_web.campaigns.queries import campaign_of, conditions_made, procedures_of, progress
from brunt_web.comparison import profile as profiles
from brunt_web.comparison.findings_view import said_of, scatter_of
from brunt_web.comparison.grid_view import grid_of
from brunt_web.comparison.kinds_view import kinds_of
from brunt_web.comparison.league import league_of
from brunt_web.comparison.pairs_view import PairsView, by_direction, by_factor
from brunt_web.comparison.queries import remarks_of
from brunt_web.comparison.series_view import SeriesView, over_time, over_travel
from brunt_web.comparison.stations import VIEWS, address_of, kept_of, numbers_in, tabs_of
from brunt_web.comparison.strips import Strip, common_words, spoken, strips_of
from brunt_web.comparison.sweep_view import sweep_of
from brunt_web.comparison.sweeping import swept_levels
from brunt_web.comparison.tradeoff_view import PER, scored, tradeoff_of
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.typed import whole
from brunt_web.library.models import Procedure
from brunt_web.people.requests import SeatedRequest
from brunt_web.testing.models import Curve, TimedReading

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


def _around(
    request: SeatedRequest, campaign: Campaign, here: str, strips: Sequence[Strip] = ()
) -> dict:
    """What every view has: tabs, what is kept, what speaks against the comparison, the beam."""
    return {
        "tabs": tabs_of(campaign, here, request.GET),
        "kept": kept_of(campaign, here, request.GET),
        "remarks": remarks_on(campaign, strips),
        **campaign_surroundings(campaign, "compare", progress(campaign)),
    }


def shown_conditions(
    request: SeatedRequest, campaign: Campaign, known: list[Condition] | None = None
) -> list[Condition]:
    """The conditions shown: all, or those picked where the reader keeps to them."""
    conditions = conditions_made(campaign) if known is None else known
    if request.GET.get("keep") != "lit":
        return conditions
    picked = numbers_in(request.GET, "lit")
    return [c for c in conditions if c.pk in picked] or conditions


def remarks_on(campaign: Campaign, strips: Sequence[Strip]) -> list[str]:
    """What was not as planned, runs still, or differs besides the factors: said in every view."""
    if not strips:
        return []
    accepted = {a.key: a.reason for a in campaign.accepted.all()}
    said = []
    for found in campaign_confounders(campaign):
        reason = accepted.get(found.key, "")
        said.append(f"{found.sentence} {f'Accepted: {reason}' if reason else ''}".strip())
    for s in strips:
        groups = [*s.groups.values(), *s.aside.values()]
        told = remarks_of(groups, s.procedure.method)
        said += [f"{s.title}: {words}" if len(strips) > 1 else words for words in told]
    return list(dict.fromkeys(said))


def every_specimen(strips: Sequence[Strip]) -> list[Told]:
    """Each specimen of each property in words and numbers, what is left out with its reason."""
    found = []
    for s in strips:
        groups = (*s.groups.values(), *s.aside.values())
        for group in sorted(groups, key=lambda g: g.condition.position):
            name = s.names.get(group.condition.pk, str(group.condition))
            for code, o in zip(group.codes, group.values, strict=True):
                found.append(Told(name, s.title, code, spoken(o), s.prop.unit))
            for code, o, why in [*group.left_out, *group.unlike]:
                found.append(Told(name, s.title, code, spoken(o), s.prop.unit, f"left out: {why}"))
    return found


def _profile(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    conditions = shown_conditions(request, campaign)
    procedures = procedures_of(campaign)
    also = _also(query)
    strips, measured = strips_of(campaign, procedures, conditions, also)
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
            "more": _more(campaign, query, procedures, measured, also),
            "aparts": [
                (word, address_of(campaign, "profile", query, apart=key), key == apart)
                for key, word in profiles.APART.items()
            ],
            "only": (address_of(campaign, "profile", query, only="" if only else 1), only),
            "light": address_of(campaign, "profile", query, lit=lit_words),
            "every": every_specimen(strips),
            **_around(request, campaign, "profile", strips),
        },
    )


def _also(query: QueryDict) -> dict[int, list[str]]:
    """Properties asked for besides, as ``12.flexural_modulus`` in the address."""
    found: dict[int, list[str]] = {}
    for text in query.get("also", "").split(",")[:12]:
        pk, _, key = text.partition(".")
        if pk.isdecimal() and len(pk) < 10 and key:
            found.setdefault(int(pk), []).append(key)
    return found


def _more(
    campaign: Campaign,
    query: QueryDict,
    procedures: Sequence[Procedure],
    measured: dict[int, set[str]],
    also: dict[int, list[str]],
) -> list[tuple[str, str]]:
    """Links that add a measured property as a column, or take one off again."""
    now = [f"{pk}.{key}" for pk, keys in also.items() for key in keys]
    links = []
    for p in procedures:
        for key in sorted(measured.get(p.pk, ())):
            if key == p.ranked_property.key:
                continue
            own = f"{p.pk}.{key}"
            rest = [n for n in now if n != own] if own in now else [*now, own]
            word = f"{'−' if own in now else '+'} {p.property_called(key).name.lower()}, {p}"
            links.append((word, address_of(campaign, "profile", query, also=",".join(rest))))
    return links


def _frame(cell: profiles.Cell) -> tuple[float, float]:
    """The frame round what leads: its marks and its interval."""
    ends = [m.x for m in cell.marks if m.kind != "out"]
    if cell.bar:
        ends += [cell.bar[0], cell.bar[0] + cell.bar[1]]
    if not ends:
        return 0.0, 0.0
    return round(min(ends) - 6, 1), round(max(ends) - min(ends) + 12, 1)


def _chosen_strip(
    request: SeatedRequest, campaign: Campaign, here: str, having: set[int] | None = None
) -> tuple[list[Strip], Strip | None, list[Condition], list[tuple[str, str, bool]]]:
    """All strips, the one the address names, the conditions, and the links to the others.

    ``having`` are the procedures that have what the view draws: the first of them unless another is named.
    """
    query = request.GET
    conditions = shown_conditions(request, campaign)
    procedures = procedures_of(campaign)
    view, key = query.get("view", ""), query.get("property", "")
    also = {int(view): [key]} if view.isdecimal() and len(view) < 10 and key else {}
    strips, measured = strips_of(campaign, procedures, conditions, also)
    own = [s for s in strips if str(s.procedure.pk) == view]
    usual = [s for s in strips if having and s.procedure.pk in having] or strips
    strip = next((s for s in own if s.prop.key == key), None) or next(iter(own or usual), None)
    links = []
    for s in strips:
        if s.prop.key != s.procedure.ranked_property.key:
            continue
        more = () if having is not None else sorted(measured.get(s.procedure.pk, ()))
        for prop in dict.fromkeys([s.prop.key, *more]):
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
            "every": every_specimen([strip]) if strip else [],
            **_around(request, campaign, "sweep", [strip] if strip else ()),
        },
    )


def _grid(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    _, strip, conditions, links = _chosen_strip(request, campaign, "grid")
    prefetch_related_objects(conditions, "levels")
    factors = _varied(campaign)
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
            "every": every_specimen([strip]) if strip else [],
            **_around(request, campaign, "grid", [strip] if strip else ()),
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
            **_around(request, campaign, "findings", ranked),
        },
    )


def _varied(campaign: Campaign) -> list[Factor]:
    """The factors with two levels or more."""
    return [
        f
        for f in campaign.factors.prefetch_related("levels")
        if len({lv.label for lv in f.levels.all()}) > 1
    ]


def _pairs(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    _, strip, conditions, links = _chosen_strip(request, campaign, "pairs")
    prefetch_related_objects(conditions, "levels")
    factors = _varied(campaign)
    wanted = whole(query.get("factor"))
    shown = by_factor(strip, conditions, factors, wanted) if strip else None
    picks = [
        (f.name, address_of(campaign, "pairs", query, factor=f.pk), f.pk == wanted) for f in factors
    ]
    return _dumbbells(
        request,
        campaign,
        "pairs",
        shown=shown,
        links=links,
        picks=picks,
        strips=[strip] if strip else [],
    )


def _directions(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    conditions = shown_conditions(request, campaign)
    strips, _ = strips_of(campaign, procedures_of(campaign), conditions)
    shown = by_direction(strips, conditions)
    return _dumbbells(
        request, campaign, "directions", shown=shown, links=[], picks=[], strips=strips
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
            "name": VIEWS[name],
            "shown": shown,
            "links": links,
            "picks": picks if len(picks) > 1 else [],
            "every": every_specimen(strips),
            **_around(request, campaign, name, strips),
        },
    )


def _tradeoff(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    conditions = shown_conditions(request, campaign)
    strips, _ = strips_of(campaign, procedures_of(campaign), conditions)
    keys = {str(s.procedure.pk): s for s in strips}
    across = keys.get(query.get("across", ""), strips[0] if strips else None)
    rest = [s for s in strips if s is not across]
    up = keys.get(query.get("up", ""), rest[0] if rest else None)
    per = query.get("per", "") if query.get("per") in PER else ""
    return render(
        request,
        "comparison/tradeoff.html",
        {
            "trade": tradeoff_of(across, up, conditions, per),
            "axes": [
                (
                    word,
                    [(s.procedure.pk, s.title, s is chosen) for s in strips],
                    name,
                )
                for word, name, chosen in (("across", "across", across), ("up", "up", up))
            ],
            "pers": [
                (word, address_of(campaign, "trade-off", query, per=key), key == per)
                for key, word in PER.items()
            ],
            "per": per,
            "scored": scored(strips, conditions, query.dict()) if strips else None,
            "every": every_specimen(strips),
            **_around(request, campaign, "trade-off", strips),
        },
    )


def _time(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    having = set(
        TimedReading.objects.filter(turn__campaign=campaign).values_list(
            "turn__procedure_id", flat=True
        )
    )
    _, strip, conditions, links = _chosen_strip(request, campaign, "time", having)
    shown = over_time(strip, conditions) if strip else None
    return _lines(request, campaign, "time", shown, strip, links)


def _curves(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    having = set(
        Curve.objects.filter(turn__campaign=campaign).values_list("turn__procedure_id", flat=True)
    )
    _, strip, conditions, links = _chosen_strip(request, campaign, "curves", having)
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
            "name": VIEWS[name],
            "shown": shown,
            "strip": strip,
            "links": links,
            "every": every_specimen([strip]) if strip else [],
            **_around(request, campaign, name, [strip] if strip else ()),
        },
    )


def _kinds(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    conditions = shown_conditions(request, campaign)
    strips, _ = strips_of(campaign, procedures_of(campaign), conditions)
    return render(
        request,
        "comparison/kinds.html",
        {
            "kinds": kinds_of(strips, conditions),
            "every": every_specimen(strips),
            **_around(request, campaign, "kinds", strips),
        },
    )


@require_GET
def league(request: SeatedRequest) -> HttpResponse:
    """All campaigns of the workshop that may stand in one ranking."""
    found = league_of(request.workshop, request.GET.get("series", ""))
    return render(request, "comparison/league.html", {"league": found})


PAGES: dict[str, Callable[[SeatedRequest, Campaign], HttpResponse]] = {
    "profile": _profile,
    "sweep": _sweep,
    "grid": _grid,
    "findings": _findings,
    "pairs": _pairs,
    "directions": _directions,
    "trade-off": _tradeoff,
    "time": _time,
    "curves": _curves,
    "kinds": _kinds,
}
