"""Each specimen of each property in words and numbers: the table beside every view."""

from collections.abc import Sequence
from dataclasses import dataclass

from brunt_web.comparison.strips import Strip, signed_reading


@dataclass
class SpecimenRow:
    """One specimen in one property, for the table."""

    condition: str
    title: str
    code: str
    value: str
    unit: str
    note: str = ""


def every_specimen(strips: Sequence[Strip]) -> list[SpecimenRow]:
    """Each specimen of each property in words and numbers, what is excluded with its reason."""
    found = []
    for s in strips:
        groups = (*s.groups.values(), *s.aside.values())
        for group in sorted(groups, key=lambda g: g.condition.position):
            name = s.names.get(group.condition.pk, str(group.condition))
            for code, o in zip(group.codes, group.values, strict=True):
                found.append(SpecimenRow(name, s.title, code, signed_reading(o), s.prop.unit))
            for code, o, why in [*group.excluded, *group.unlike]:
                found.append(
                    SpecimenRow(
                        name, s.title, code, signed_reading(o), s.prop.unit, f"excluded: {why}"
                    )
                )
    return found
