"""What every view of Compare has: conditions, strips, remarks, the table of every specimen."""

from collections.abc import Sequence

from brunt_web.asking.guard import campaign_confounders
from brunt_web.campaigns.models import Campaign, Condition, Factor
from brunt_web.campaigns.queries import conditions_made, procedures_of, progress
from brunt_web.comparison.normalising import asked_for, choices_of
from brunt_web.comparison.plausibility import scale_errors
from brunt_web.comparison.queries import remarks_of, shifted
from brunt_web.comparison.strips import Strip, strips_of
from brunt_web.comparison.tabs import address_of, kept_of, numbers_in, tabs_of
from brunt_web.interface.context import campaign_surroundings
from brunt_web.people.requests import SeatedRequest


def around(
    request: SeatedRequest, campaign: Campaign, here: str, strips: Sequence[Strip] = ()
) -> dict:
    """What every view has: tabs, what is kept, what speaks against the comparison, the stage bar."""
    return {
        "tabs": tabs_of(campaign, here, request.GET),
        "kept": kept_of(campaign, here, request.GET),
        "bys": choices_of(campaign, here, request.GET),
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
    said = scale_errors(campaign, {s.procedure.pk: s.procedure for s in strips}.values())
    for found in campaign_confounders(campaign):
        reason = accepted.get(found.key, "")
        said.append(f"{found.sentence} {f'Accepted: {reason}' if reason else ''}".strip())
    for s in strips:
        groups = [*s.groups.values(), *s.aside.values()]
        told = remarks_of(groups, s.procedure.method)
        told += shifted(campaign.workshop, s.procedure, groups)
        said += [f"{s.title}: {words}" if len(strips) > 1 else words for words in told]
    return list(dict.fromkeys(said))


def chosen_strip(
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
    strips, measured = strips_of(campaign, procedures, conditions, also, asked_for(query))
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


def varied(campaign: Campaign) -> list[Factor]:
    """The factors with two levels or more."""
    return [
        f
        for f in campaign.factors.prefetch_related("levels")
        if len({lv.label for lv in f.levels.all()}) > 1
    ]
