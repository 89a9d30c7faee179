"""On which rigs the groups of a comparison were tested, and how well those are known."""

from collections.abc import Mapping, Sequence

from brunt_core.properties import Property
from brunt_core.quantities.rendering import number
from brunt_core.statistics.rigs import Rigs, rig_shares
from brunt_web.library.models import Procedure, Rig
from brunt_web.results.reading import Group


def rig_shares_of_groups(procedure: Procedure, prop: Property, groups: Mapping[str, Group]) -> Rigs:
    """Every group's share on each rig. No query where all were tested on the procedure's own."""
    named = {
        name: [s.rig or procedure.rig_id for s in group.counted] for name, group in groups.items()
    }
    others = {rig for own in named.values() for rig in own if rig} - {procedure.rig_id}
    rigs = [*Rig.objects.filter(pk__in=others)] if others else []
    if procedure.rig:
        rigs.append(procedure.rig)
    return Rigs(rig_shares(named), {r.pk: known_to(r, procedure, prop) for r in rigs})


def rigs_named(
    on: Mapping[str, Sequence[int | None]], procedure: Procedure, prop: Property
) -> Rigs:
    """The same from the rig of every specimen of each group, wherever it was tested. One query."""
    found = Rig.objects.in_bulk({rig for own in on.values() for rig in own if rig})
    return Rigs(rig_shares(on), {pk: known_to(r, procedure, prop) for pk, r in found.items()})


def known_to(rig: Rig | None, procedure: Procedure, prop: Property) -> float:
    """The standard uncertainty of a rig's calibration, where the property rests on what it reads."""
    if rig is None or rig.dimension != procedure.method.reading_for(prop.key).dimension:
        return 0.0
    return float(rig.relative_error or 0.0) / 3**0.5


def unlike_rigs(found: Rigs) -> list[str]:
    """That groups were tested on unlike rigs, and what that adds to their differences."""
    shares = {name: own for name, own in found.shares.items() if own}
    if len({frozenset(own.items()) for own in shares.values()}) < 2:
        return []
    most = max(found.of_difference(a, b) for a in shares for b in shares)
    if not most:
        return []
    used = {rig for own in shares.values() for rig in own if rig is not None}
    names = dict(Rig.objects.filter(pk__in=used).values_list("pk", "name"))
    groups: dict[str, list[str]] = {}
    for name, own in shares.items():
        rigs = " and ".join(sorted(names.get(rig, "no rig recorded") for rig in own))
        groups.setdefault(rigs, []).append(name)
    said = "; ".join(
        f"{', '.join(own[:4])}{f' and {len(own) - 4} more' if len(own) > 4 else ''} on {rigs}"
        for rigs, own in groups.items()
    )
    return [
        f"Not all on the same rig ({said}): what their calibrations do not share, up to {number(100 * most, '.2g')} % of "
        "what is read, is in the differences."
    ]


def unlike_in_quotients(found: Rigs) -> list[str]:
    """That flat and upright were read on unlike rigs, and what that leaves in a quotient."""
    most = max(map(found.of_mean, found.shares), default=0.0)
    if not most:
        return []
    return [
        "Flat and upright were not all read on the same rig: what their calibrations do not share, up to "
        f"{number(100 * most, '.2g')} % of a quotient, is in its interval."
    ]
