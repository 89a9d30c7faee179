"""Is a printed specimen what it should be?"""

from collections.abc import Mapping
from dataclasses import dataclass

# Families that take up water fast, with hours in a room after which to dry again: common practice, no source.
MOISTURE_LIMIT_H = {
    "pa6": 24.0,
    "pa12": 72.0,
    "pa-cf": 24.0,
    "pvb": 48.0,
    "tpu": 48.0,
    "pc": 72.0,
    "petg": 336.0,
    "petg-cf": 336.0,
}

# How families that take up water are usually dried: °C and hours. Common practice, no source; the
# maker's sheet comes first, and what softens below is dried cooler for longer.
USUAL_DRYING: dict[str, tuple[float, float]] = {
    "pa6": (80.0, 12.0),
    "pa12": (70.0, 12.0),
    "pa-cf": (80.0, 12.0),
    "pvb": (50.0, 8.0),
    "tpu": (50.0, 8.0),
    "pc": (85.0, 8.0),
    "petg": (65.0, 6.0),
    "petg-cf": (65.0, 6.0),
}


@dataclass(frozen=True)
class NominalDeviation:
    """A measured size beside its nominal: fraction away, and whether that is too far."""

    key: str
    measured: float
    nominal: float
    too_far: bool

    @property
    def share(self) -> float:
        """(measured − nominal)/nominal."""
        return self.measured / self.nominal - 1


def deviations(
    measured: Mapping[str, float], nominal: Mapping[str, float], tolerance: float = 0.05
) -> list[NominalDeviation]:
    """How far sizes are from nominal. Units of both alike; ``tolerance`` as a fraction.

    >>> [round(d.share, 3) for d in deviations({"width": 5.1}, {"width": 5.0})]
    [0.02]
    """
    return [
        NominalDeviation(k, v, nominal[k], abs(v / nominal[k] - 1) > tolerance)
        for k, v in measured.items()
        if nominal.get(k)
    ]


def light(mass: float, volume: float, density: float, least: float = 0.93) -> str:
    """A sentence when a solid specimen is too light (voids) or too heavy for its volume, else nothing.

    Parameters: ``mass`` kg, ``volume`` m³ as measured or nominal, ``density`` kg/m³; ``least`` share.
    Common practice, no source.

    >>> light(0.9e-3, 0.8e-6, 1240.0)
    'It weighs 91 % of what its volume should: voids or under-extrusion.'
    """
    share = mass / (volume * density)
    if share < least:
        return f"It weighs {share * 100:.0f} % of what its volume should: voids or under-extrusion."
    if share > 2 - least:
        return f"It weighs {share * 100:.0f} % of what its volume should: over-extrusion, a wrong density or slip of the feed."
    return ""


def damp(family: str, hours_open: float | None) -> str:
    """A sentence when a lot of a moisture-sensitive family has been out too long, else nothing.

    >>> damp("pa12", 90.0)
    'PA12 has been out for 90 h; dry it again before printing (72 h is the usual limit).'
    """
    limit = MOISTURE_LIMIT_H.get(family)
    if limit is None:
        return ""
    if hours_open is None:
        return f"{family.upper()} takes up water and no drying is logged: dry it first."
    if hours_open > limit:
        return f"{family.upper()} has been out for {hours_open:.0f} h; dry it again before printing ({limit:.0f} h is the usual limit)."
    return ""


def dryness(family: str, hours_open: float | None, dried: bool) -> str:
    """``dried`` when a lot was dried and is still within its family's hours, ``as it is`` otherwise.

    A family that takes up little water stays dried for a week.

    >>> dryness("pa12", 20.0, True), dryness("pa12", 90.0, True), dryness("pla", None, False)
    ('dried', 'as it is', 'as it is')
    """
    if not dried or hours_open is None:
        return "as it is"
    return "dried" if hours_open <= MOISTURE_LIMIT_H.get(family, 168.0) else "as it is"


DEFECTS = {
    "stringing": "stringing",
    "gaps": "gaps",
    "warping": "warping",
    "elephants_foot": "elephant's foot",
    "layer_split": "layer split",
    "clog": "clog",
    "support_scars": "support scars",
    "lifted_corners": "lifted corners",
}

# Grades from 1 (poor) to 5 (flawless) with what each end looks like: common practice, no source.
ASPECTS = {
    "stringing": ("Stringing", "strings and blobs everywhere", "none to be seen"),
    "overhang": ("Overhang", "curls and drops at 45°", "clean to 70°"),
    "bridge": ("Bridge sag", "hangs in loops", "flat"),
    "warp": ("Warp", "lifts off the bed", "lies flat"),
    "surface": ("Surface", "rough, gaps between beads", "even and closed"),
    "detail": ("Detail", "small features lost", "sharp"),
    "supports": ("Support removal", "fused, needs tools", "falls off"),
    "odour": ("Odour", "must be extracted", "none"),
    "ease": ("Ease", "failed again and again", "printed at the first try"),
}
