"""The comparability guard on a campaign as it stands: planned, changed, printed."""

from collections.abc import Sequence

from brunt_core.planning.confounders import Confounder, find_confounders
from brunt_core.printing.recipes import FIELDS
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.library.models import Recipe


def campaign_facts(campaign: Campaign, known: Sequence[Condition]) -> dict[str, dict[str, str]]:
    """By condition: recipe settings, lot, colour and printer, as planned and as really printed."""
    conditions = {c.pk: c for c in known}
    facts = {pk: _planned_facts(c, campaign.recipe) for pk, c in conditions.items()}
    rows = (
        campaign.specimens.filter(print__isnull=False, print__failed=False)
        .values_list(
            "condition_id",
            "print__batch__printer__name",
            "print__batch__lot__name",
            "print__batch__lot__colour",
            "print__batch__recipe_id",
        )
        .distinct()
    )
    printed: dict[tuple[int, str], set[str]] = {}
    for condition, printer, lot, colour, _recipe in rows:
        for key, value in (("printer", printer), ("lot", lot), ("colour", colour)):
            if value:
                printed.setdefault((condition, key), set()).add(value)
    for (condition, key), values in printed.items():
        facts[condition][key] = " and ".join(sorted(values))
    recipes = {r.pk: r for r in Recipe.objects.filter(pk__in={row[4] for row in rows if row[4]})}
    for condition, *_, recipe in rows:
        if recipe:
            facts[condition] |= _labelled(recipes[recipe])
    return {str(conditions[pk]): row for pk, row in facts.items()}


def _planned_facts(condition, base: Recipe | None) -> dict[str, str]:
    recipe = condition.recipe or base
    facts = _labelled(recipe) if recipe else {}
    if condition.lot:
        facts |= {"colour": condition.lot.colour}
    return facts


def _labelled(recipe: Recipe) -> dict[str, str]:
    return {
        FIELDS[recipe.kind][k].label.lower(): v
        for k, v in recipe.shown.items()
        if k in FIELDS[recipe.kind]
    }


def conditions_made(campaign: Campaign) -> list[Condition]:
    """The campaign's conditions with what they are made with."""
    return list(campaign.conditions.select_related("recipe", "lot", "material"))


def campaign_confounders(
    campaign: Campaign, known: Sequence[Condition] | None = None
) -> list[Confounder]:
    """What differs between the campaign's conditions and is not a factor, as things stand now."""
    factors = list(campaign.factors.values_list("name", "kind", "setting"))
    names = [n for n, _, _ in factors] + [k for _, k, _ in factors]
    names += [FIELDS["filament"][s].label for _, _, s in factors if s in FIELDS["filament"]]
    names += [FIELDS["resin"][s].label for _, _, s in factors if s in FIELDS["resin"]]
    return find_confounders(
        campaign_facts(campaign, conditions_made(campaign) if known is None else known),
        names,
        explained={"lot": "material"},
    )
