"""The views of Compare beside the ladder."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.campaigns.queries import campaign_of, conditions_made, procedures_of, progress
from brunt_web.comparison import profile as profiles
from brunt_web.comparison.stations import address_of, numbers_in, tabs_of
from brunt_web.comparison.strips import Strip, common_words, spoken, strips_of
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


PAGES: dict[str, Callable[[SeatedRequest, Campaign], HttpResponse]] = {"profile": _profile}
