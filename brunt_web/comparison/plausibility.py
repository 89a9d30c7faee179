"""Whole materials whose results lie far from what their family reaches, told where results are used."""

from collections import defaultdict

from brunt_core.observations import Observation
from brunt_core.plausibility.bands import FAMILIES, band
from brunt_core.plausibility.scale_errors import scale_error
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.campaigns.queries import procedures_of
from brunt_web.library.models import Procedure
from brunt_web.testing.filling import infill_of
from brunt_web.testing.models import Result


def scale_errors(campaign: Campaign) -> list[str]:
    """A sentence for each material and procedure of which every value lies outside the family's band."""
    procedures = {p.pk: p for p in procedures_of(campaign)}
    found: dict[tuple[int, int], list[Observation]] = defaultdict(list)
    used: dict[tuple[int, int], set[int]] = defaultdict(set)
    rows = Result.objects.filter(
        turn__campaign=campaign, turn__excluded=False, turn__condition__material__isnull=False
    ).values_list(
        "turn__procedure_id", "turn__condition__material_id", "turn__condition_id",
        "property_key", "lower", "upper",
    )  # fmt: skip
    for procedure, material, condition, key, lower, upper in rows:
        if procedure in procedures and key == procedures[procedure].ranked_property.key:
            found[procedure, material].append(Observation(lower, upper))
            used[procedure, material].add(condition)
    said = (_said(campaign, procedures[k[0]], own, used[k]) for k, own in found.items())
    return [sentence for sentence in said if sentence]


def _said(
    campaign: Campaign, procedure: Procedure, values: list[Observation], conditions: set[int]
) -> str:
    """The sentence of one material under one procedure, if there is one to say."""
    own = list(campaign.conditions.select_related("material").filter(pk__in=conditions))
    material = own[0].material
    assert material is not None
    key = procedure.ranked_property.key
    far = scale_error(values, band(material.family, key))
    if not far or not scale_error(values, band(material.family, key, _filled(own, procedure))):
        return ""
    count = f"all {len(values)} values are" if len(values) > 1 else "the one value is"
    family = FAMILIES[material.family].name
    return (
        f"{material}, {procedure.name}: {count} {far} what {family} gives; unit or decimal point?"
    )


def _filled(conditions: list[Condition], procedure: Procedure) -> float:
    """The smallest share of infill among conditions."""
    return min(infill_of(c, procedure) for c in conditions)
