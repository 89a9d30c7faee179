"""What the address of a view asks for, made valid."""

from collections.abc import Mapping
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign
from brunt_web.comparison.further import FAMILIES
from brunt_web.comparison.normalising import asked_for
from brunt_web.comparison.queries import RATIO
from brunt_web.interface.typed import whole
from brunt_web.library.models import Procedure

ORDERS = ("worst", "without")


@dataclass
class Switches:
    """What the address asks for, made valid."""

    view: str
    show: str
    reference: int | None
    opened: int | None = None
    property: str = ""
    order: str = "mean"
    chosen: int | None = None
    pairs: bool = False
    alike: float = 0.0
    control: bool = False
    by: str = ""
    family: str = ""


_ACROSS = {("layer-adhesion", "tension")}


def upright_and_flat(procedures: list[Procedure]) -> tuple[Procedure, Procedure] | None:
    """The pair whose ratio is the directional ratio: one method upright and flat, or the pulled two."""
    for top in (p for p in procedures if p.orientation == "upright"):
        for bottom in (p for p in procedures if p.orientation == "flat"):
            pair = (top.method_key, bottom.method_key)
            if pair[0] == pair[1] or pair in _ACROSS:
                return top, bottom
    return None


def switches_from(
    query: Mapping[str, str], campaign: Campaign, procedures: list[Procedure], conditions: set[int]
) -> Switches:
    """Read the address; what it asks for and is not there falls back to the first choice.

    Raises :class:`InputError` for a campaign without procedures.
    """
    if not procedures:
        raise InputError("This campaign has no procedure to compare by.")
    views = [str(p.pk) for p in procedures] + ([RATIO] if upright_and_flat(procedures) else [])
    view = query.get("view", "")
    show = query.get("show", "")
    reference = whole(query.get("reference"))
    opened = whole(query.get("working"))
    chosen = next(
        (p for p in procedures if str(p.pk) == (view if view in views else views[0])), None
    )
    yielded = {r.property for r in chosen.method.results} if chosen else set()
    return Switches(
        view if view in views else views[0],
        show if show in ("unit", "best", "reference") else "unit",
        reference if reference in conditions else campaign.reference_id,
        opened=opened,
        property=query.get("property", "") if query.get("property") in yielded else "",
        order=query["order"] if query.get("order") in ORDERS and chosen else "mean",
        chosen=lit if (lit := whole(query.get("chosen"))) in conditions else None,
        pairs=query.get("pairs") == "1",
        alike=_per_cent(query.get("alike", "")),
        control=query.get("control") == "1",
        by=asked_for(query),
        family=query.get("family", "") if query.get("family") in FAMILIES else "",
    )


def _per_cent(text: str) -> float:
    """A limit of equivalence as a share; nothing where it is none."""
    number = whole(text)
    return number / 100 if number is not None and 0 < number < 100 else 0.0
