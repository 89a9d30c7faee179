"""The safety factor and its reasons: what is uncertain about a load, and what a failure would do."""

from collections.abc import Mapping
from dataclasses import dataclass
from math import prod

from brunt_core.quantities.rendering import number

LEAST, MOST = 1.2, 6.0

CHOICES: Mapping[str, tuple[str, tuple[tuple[str, float, str], ...]]] = {
    "known": (
        "Load known by",
        (
            ("read", 1.0, "several readings"),
            ("few", 1.25, "one or two readings"),
            ("guessed", 1.6, "estimate"),
        ),
    ),
    "jerk": (
        "Load application",
        (("steady", 1.0, "steady"), ("jerk", 1.25, "shock load"), ("sudden", 2.0, "suddenly applied")),
    ),
    "harm": (
        "Consequence of failure",
        (
            ("nothing", 1.0, "none"),
            ("damage", 1.25, "property damage"),
            ("people", 1.6, "people nearby"),
        ),
    ),
}  # fmt: skip
BASES = {
    "bound": (1.2, "against a tolerance bound"),
    "smallest": (1.6, "against the smallest of few"),
    "single": (2.0, "against one specimen"),
}


@dataclass(frozen=True)
class SafetyFactor:
    """A safety factor: its parts as (number, reason), their product held between 1.2 and 6."""

    parts: tuple[tuple[float, str], ...]
    value: float
    held: str = ""


def suggested(chosen: Mapping[str, str], basis: str) -> SafetyFactor:
    """The factor proposed for how the load is known, how it comes, what a failure does, and what it is held against.

    Parameters: a key of :data:`CHOICES` each with one of its words (the first where it is missing or
    unknown); ``basis`` one of :data:`BASES`. The product is held between 1.2 and 6.
    A load that bursts on an elastic part at once doubles its stress (elementary mechanics); the other
    parts are common practice, no source: break loads of few specimens with unknown loads come to about 4.

    >>> suggested({"known": "guessed", "jerk": "jerk"}, "single").value
    4.0
    >>> suggested({}, "bound").value
    1.2
    """
    parts = [BASES[basis]]
    for key, (_, options) in CHOICES.items():
        word = chosen.get(key, options[0][0])
        found = next((o for o in options if o[0] == word), options[0])
        if found[1] != 1.0:
            parts.append((found[1], f"{_LEADS[key]}: {found[2]}"))
    value = prod(p for p, _ in parts)
    held = (
        f"limited to {number(MOST, 'g')}"
        if value > MOST
        else f"limited to {number(LEAST, 'g')}"
        if value < LEAST
        else ""
    )
    return SafetyFactor(tuple(parts), round(min(max(value, LEAST), MOST), 6), held)


_LEADS = {"known": "load known by", "jerk": "load application", "harm": "consequence of failure"}
