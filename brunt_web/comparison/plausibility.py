"""Whole materials whose results lie far from what their family reaches, told where results are used."""

from collections import defaultdict
from collections.abc import Iterable

from django.db.models import Q

from brunt_core.observations import Observation
from brunt_core.plausibility.bands import FAMILIES, band
from brunt_core.plausibility.scale_errors import scale_error
from brunt_web.campaigns.models import Campaign
from brunt_web.library.models import Procedure
from brunt_web.results.reading import counted_rows
from brunt_web.testing.filling import infill_of


def scale_errors(campaign: Campaign, procedures: Iterable[Procedure]) -> list[str]:
    """A sentence for each material and procedure of which every value lies outside the family's band."""
    known = {p.pk: p for p in procedures}
    found: dict[tuple[int, str, str], list[Observation]] = defaultdict(list)
    used: dict[tuple[int, str, str], set[int]] = defaultdict(set)
    rows = counted_rows(
        Q(turn__campaign=campaign, turn__condition__material__isnull=False),
        *("turn__procedure_id", "turn__condition__material__name"),
        *("turn__condition__material__family", "turn__condition_id", "property_key"),
        *("lower", "upper"),
    )
    for procedure, material, family, condition, key, lower, upper in rows:
        if procedure in known and key == known[procedure].ranked_property.key:
            found[procedure, material, family].append(Observation(lower, upper))
            used[procedure, material, family].add(condition)
    said = []
    for (procedure, material, family), values in found.items():
        one = known[procedure]
        key = one.ranked_property.key
        far = scale_error(values, band(family, key))
        if far:
            sparse = _filled(campaign, used[procedure, material, family], one)
            far = scale_error(values, band(family, key, sparse))
        if far:
            count = f"all {len(values)} values are" if len(values) > 1 else "the one value is"
            gives = f"{count} {far} what {FAMILIES[family].name} gives"
            said.append(f"{material}, {one.name}: {gives}; unit or decimal point?")
    return said


def _filled(campaign: Campaign, conditions: set[int], procedure: Procedure) -> float:
    """The smallest share of infill among conditions."""
    own = campaign.conditions.select_related("material", "campaign").filter(pk__in=conditions)
    return min(infill_of(c, procedure) for c in own)
