"""The page of the profile."""

from collections.abc import Sequence
from dataclasses import replace

from django.http import HttpResponse, QueryDict
from django.shortcuts import render

from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.queries import procedures_of
from brunt_web.comparison import profile as profiles
from brunt_web.comparison.normalising import asked_for
from brunt_web.comparison.pages.frame import (
    around,
    shown_conditions,
)
from brunt_web.comparison.specimen_table import every_specimen
from brunt_web.comparison.strips import common_words, strips_of
from brunt_web.comparison.tabs import address_of, numbers_in
from brunt_web.interface.typed import whole
from brunt_web.library.models import Procedure
from brunt_web.people.requests import SeatedRequest

_LANES = (13.5, 7.5, 19.5)


def profile(request: SeatedRequest, campaign: Campaign) -> HttpResponse:
    query = request.GET
    conditions = shown_conditions(request, campaign)
    procedures = procedures_of(campaign)
    also = _also(query)
    strips, measured = strips_of(campaign, procedures, conditions, also, asked_for(query))
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
            **around(request, campaign, "profile", strips),
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


def _frame(cell: profiles.ProfileCell) -> tuple[float, float]:
    """The frame round what leads: its marks and its interval."""
    ends = [m.x for m in cell.marks if m.kind != "out"]
    if cell.bar:
        ends += [cell.bar[0], cell.bar[0] + cell.bar[1]]
    if not ends:
        return 0.0, 0.0
    return round(min(ends) - 6, 1), round(max(ends) - min(ends) + 12, 1)
