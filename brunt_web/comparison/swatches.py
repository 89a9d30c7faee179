"""Materials as swatches: a patch of how each is laid, and what is known of it."""

from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import datetime

from django.db.models import Count, Max

from brunt_core.methods.registry import method
from brunt_core.printing.attempts import Ease
from brunt_core.printing.checks import damp
from brunt_web.campaigns.models import Condition, Turn
from brunt_web.library.models import Lot, Material, Procedure
from brunt_web.library.queries import hours_open, lots_of, materials_of
from brunt_web.people.models import Workshop
from brunt_web.printing.ease import ease_of

_TESTED = ("read", "held", "broken")
# What colours are called on spools, and how a patch shows them: none is the only carrier of a meaning.
_COLOURS = {
    "black": "#2B2F33",
    "white": "#F4F4F1",
    "grey": "#9AA3A9",
    "gray": "#9AA3A9",
    "slate": "#6E7E8A",
    "natural": "#E6DFCC",
    "clear": "#E3EAEC",
    "silver": "#BCC3C8",
    "red": "#A94438",
    "orange": "#C77B3C",
    "yellow": "#D2B44A",
    "green": "#5E8B62",
    "blue": "#4A6A9C",
    "violet": "#77629B",
    "purple": "#77629B",
    "brown": "#80624A",
    "pink": "#C58C98",
    "beige": "#DCCDB0",
    "amber": "#C99A4B",
}
_NO_COLOUR = "#CDD4D9"


@dataclass
class Swatch:
    """One material with what is known of it."""

    material: Material
    colour: str = _NO_COLOUR
    lots: list[tuple[Lot, str]] = field(default_factory=list)
    methods: list[tuple[str, int]] = field(default_factory=list)
    tested: int = 0
    last: datetime | None = None
    ease: Ease | None = None

    @property
    def left(self) -> float | None:
        """What all its lots still hold, kg; ``None`` where none says."""
        known = [lot.remaining for lot, _ in self.lots if lot.remaining is not None]
        return sum(known) if known else None

    @property
    def damp(self) -> bool:
        """Whether any of its lots must be dried first."""
        return any(warning for _, warning in self.lots)

    @property
    def lacks(self) -> list[str]:
        """What is not known and would be missed."""
        said = [] if self.material.density else ["density"]
        if self.material.price is None:
            said.append("price")
        return said


def _tested(workshop: Workshop) -> Iterator[tuple[int | None, str, int, datetime | None]]:
    """How often each condition's material was tested by each method, and when last.

    Counted by condition and procedure, which the index of turns holds, and only then named: a workshop
    of ten years has a million turns and some thousand conditions.
    """
    keys = dict(Procedure.objects.filter(workshop=workshop).values_list("pk", "method_key"))
    materials = dict(
        Condition.objects.filter(campaign__workshop=workshop).values_list("pk", "material")
    )
    rows = (
        Turn.objects.filter(condition__in=list(materials), state__in=_TESTED)
        .values_list("condition", "procedure")
        .annotate(n=Count("*"), last=Max("tested_at"))
        .order_by()
    )
    for condition, procedure, n, last in rows:
        yield materials[condition], keys[procedure], n, last


def swatches(workshop: Workshop, now: datetime) -> list[Swatch]:
    """Every material of the workshop, in seven queries however many were tested."""
    found = {m.pk: Swatch(m) for m in materials_of(workshop)}
    for lot in lots_of(workshop):
        if lot.material_id in found:
            one = found[lot.material_id]
            warning = damp(lot.material.family, hours_open(lot, now))
            one.lots.append((lot, warning))
            one.colour = _shade(lot.colour) or one.colour
    known: dict[int, Counter[str]] = defaultdict(Counter)
    for material, key, n, last in _tested(workshop):
        if material in found:
            known[material][method(key).name] += n
            one = found[material]
            one.last = max((x for x in (one.last, last) if x), default=None)
    for pk, ease in ease_of(workshop).items():
        if pk in found:
            found[pk].ease = ease
    for pk, methods in known.items():
        found[pk].methods = sorted(methods.items(), key=lambda m: (-m[1], m[0]))
        found[pk].tested = methods.total()
    return list(found.values())


def _shade(words: str) -> str:
    said = words.lower()
    return next((shade for name, shade in _COLOURS.items() if name in said), "")
