"""The factor of a campaign that has numbers for levels: by condition the number, and what else it is."""

import re
from collections import Counter
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.quantities.numbers import read_number
from brunt_web.campaigns.models import Campaign, Level

_LEVEL = re.compile(r"^\s*([-+−]?[\d.,]+)\s*(.*)$")


@dataclass(frozen=True)
class NumericFactor:
    """A factor with numbers for levels: by condition the number, and what else it is."""

    name: str
    unit: str
    numbers: dict[str, float]
    texts: dict[float, str]
    others: dict[str, str]


def numeric_factor(campaign: Campaign) -> NumericFactor | None:
    """The factor whose levels are all numbers in one unit; the one with most levels where several are."""
    rows = Level.objects.filter(factor__campaign=campaign, conditions__isnull=False).values_list(
        "factor__position", "factor__name", "factor__kind", "label",
        "conditions__label", "conditions__detail",
    )  # fmt: skip
    by_condition: dict[str, dict[int, str]] = {}
    levels: dict[int, set[str]] = {}
    names, barred = {}, set()
    for place, name, kind, text, label, detail in rows:
        by_condition.setdefault(f"{label}, {detail}" if detail else label, {})[place] = text
        levels.setdefault(place, set()).add(text)
        names[place] = name
        if kind in ("material", "lot"):
            barred.add(place)
    fit = {
        place: found
        for place, texts in levels.items()
        if place not in barred and len(texts) > 1 and (found := _numbers(texts))
    }
    if not fit:
        return None
    chosen = max(fit, key=lambda place: (len(levels[place]), -place))
    unit, numbers = fit[chosen]
    return NumericFactor(
        names[chosen],
        unit,
        {c: numbers[own[chosen]] for c, own in by_condition.items() if chosen in own},
        {value: text for text, value in numbers.items()},
        {c: ", ".join(t for p, t in sorted(own.items()) if p != chosen)
         for c, own in by_condition.items()},
    )  # fmt: skip


def _numbers(texts: set[str]) -> tuple[str, dict[str, float]] | None:
    """The one unit of these levels and the number of each; ``None`` if one is no number."""
    read = {text: _number(text) for text in texts}
    if any(value is None for value, _ in read.values()):
        return None
    (unit, _), *more = Counter(unit for _, unit in read.values()).most_common()
    return None if more else (unit, {t: v for t, (v, _) in read.items() if v is not None})


def _number(text: str) -> tuple[float | None, str]:
    """The number and the unit of a level, if it starts with a number."""
    found = _LEVEL.match(text)
    try:
        return (read_number(found.group(1)), found.group(2)) if found else (None, "")
    except InputError:
        return None, ""
