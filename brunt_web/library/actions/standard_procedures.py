"""The procedures a workshop starts with, and more of them when it asks."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from brunt_web.library.models import Procedure, Rig
from brunt_web.people.models import Workshop

_PULL = "tension-1ba"


@dataclass(frozen=True)
class Starter:
    """A procedure ready to use: its method, specimen, and what it fixes."""

    name: str
    method: str
    specimen_type: str
    standard: str
    orientation: str = "flat"
    speed: float | None = None
    parameters: dict[str, str] = field(default_factory=dict)
    reading_times: tuple[float, ...] = ()
    preload: float | None = None
    rig: str = "force"
    ranked_by: str = ""


STARTERS = (
    Starter(
        "Tension, flat",
        "tension",
        _PULL,
        "Follows the arithmetic of ISO 527; bar 1BA, printed flat, one speed.",
        speed=5e-3 / 60,
        parameters={"gauge_length": "25 mm"},
    ),
    Starter(
        "Layer adhesion, upright",
        "layer-adhesion",
        _PULL,
        standard="Departs from ISO 527: the 1BA bar is built standing, so the pull is across its layers.",
        orientation="upright",
        speed=5e-3 / 60,
        parameters={"gauge_length": "25 mm"},
    ),
    Starter(
        "Flexure, flat",
        "flexure",
        "bend-80",
        "Follows the arithmetic of ISO 178: span 64 mm for a bar of 4 mm; 2 mm/min.",
        speed=2e-3 / 60,
        parameters={"span": "64 mm"},
        preload=4.4482216152605,
    ),
    Starter(
        "Impact, flat",
        "impact",
        "impact-80",
        "Follows the arithmetic of ISO 179-1 edgewise on an own pendulum; its speed departs.",
        parameters={
            "hammer_mass": "1.2 kg",
            "hammer_arm": "310 mm",
            "start_angle": "140°",
            "free_end_angle": "138°",
            "notch": "none",
            "bar": "supported",
            "loss_rule": "arc",
        },
        rig="none",
    ),
    Starter(
        "Torsion, flat",
        "torsion",
        "torsion-round",
        "No standard: a rod of 8 mm twisted by hand over 60 mm, about one turn a minute.",
        parameters={"length": "60 mm"},
        rig="torque",
    ),
    Starter(
        "Cantilever at 5 s",
        "cantilever",
        "bend-80",
        "No standard: a dead weight at 50 mm, read at 5 s to leave creep out.",
        parameters={"reach": "50 mm", "force": "1 kgf"},
        reading_times=(5.0,),
        rig="none",
        ranked_by="flexural_modulus",
    ),
    Starter(
        "Deflection ladder",
        "deflection-ladder",
        "bend-80",
        "Departs from ISO 178: dead weights instead of a ramp, read at 1, 30 and 60 s.",
        parameters={"span": "64 mm", "arrangement": "three-point", "loads": "5 N; 10 N; 15 N"},
        reading_times=(1.0, 30.0, 60.0),
        rig="none",
    ),
    Starter(
        "Creep, one week",
        "creep",
        "creep-80",
        "In the manner of ISO 899-2: constant load at mid-span, read by hand to seven days.",
        parameters={"load": "10 N", "span": "64 mm"},
        reading_times=(60.0, 3600.0, 86400.0, 259200.0, 604800.0),
        rig="none",
    ),
    Starter(
        "Double shear",
        "double-shear",
        "shear-pin",
        "No standard: a printed pin of 6 mm through three plates, cut at two sections.",
        speed=1.3e-3 / 60,
    ),
    Starter(
        "Compression, cube",
        "compression",
        "cube-10",
        "Follows the arithmetic of ISO 604: strength from a prism 10 by 10 by 10 mm at 1 mm/min.",
        speed=1e-3 / 60,
        parameters={"height": "10 mm", "set_strain": "25 %"},
    ),
    Starter(
        "Clamp retention, one week",
        "clamp-retention",
        "insert-block",
        "No standard: tightened once, head height and torque read to seven days.",
        parameters={"torque": "1.5 N·m"},
        reading_times=(0.0, 3600.0, 86400.0, 172800.0, 345600.0, 604800.0),
        rig="none",
    ),
    Starter(
        "Heat sag",
        "heat-sag",
        "heat-80",
        "Departs from ISO 75: the load and span of its method B, the sag seen by eye, a kitchen oven.",
        parameters={"load": "0.75 N", "span": "64 mm", "ramp": "2 °C/min"},
        rig="none",
    ),
    Starter(
        "Insert pull-out",
        "pull-out",
        "insert-block",
        "No standard: a heat-set insert pulled from its block; the load in N is the result.",
        parameters={"joint": "insert"},
    ),
    Starter(
        "Drop, up and down",
        "drop",
        "bend-80",
        "In the manner of ASTM D5628: up-and-down by one step, 20 drops or more for an interval.",
        parameters={"mass": "0.5 kg"},
        rig="none",
    ),
    Starter(
        "Swing lost on the dial",
        "impact-relative",
        "impact-80",
        "No standard: per cent of this hammer's own free swing, good to rank on this rig alone.",
        parameters={"dial_free": "100"},
        rig="none",
    ),
    Starter(
        "Change of size",
        "dimensional",
        "coupon-60",
        "In the manner of ISO 294-4, before against after instead of mould against part.",
        rig="none",
    ),
    Starter(
        "Change of mass",
        "mass",
        "coupon-60",
        "In the manner of ISO 62: mass after against mass before.",
        rig="none",
    ),
    Starter(
        "Part to break",
        "part-break",
        "part-60",
        "No standard: the part itself, loaded as it is in use; newtons, never megapascals.",
    ),
    Starter(
        "Hook to break",
        "hook",
        "part-60",
        "No standard: one fixed shape, loaded at the eye; newtons, never megapascals.",
    ),
    Starter(
        "Hardness, Shore D",
        "measure",
        "coupon-60",
        "In the manner of ISO 868, read at 15 s on a plate of 4 mm where the standard asks for 6.",
        parameters={
            "name": "Hardness",
            "unit": "Shore D",
            "better": "higher",
            "how": "durometer on a flat plate, five places, the middle one",
        },
        rig="none",
    ),
    Starter(
        "Snapped or bent, by hand",
        "judgement",
        "coupon-60",
        "No standard: bent by hand over a rod, judged in words; compared by rank.",
        parameters={
            "name": "Snapped or bent",
            "scale": "shatters; snaps clean; bends, then tears; bends without breaking",
            "how": "bent by hand over a rod of 20 mm",
        },
        rig="none",
    ),
    Starter(
        "Support hard to remove",
        "judgement",
        "part-60",
        "No standard: judged in words when the support is taken off.",
        parameters={
            "name": "Support removal",
            "scale": "tears the part; needs a tool; by hand with force; comes off by hand",
            "how": "by hand first, then with flat pliers",
        },
        rig="none",
    ),
    Starter(
        "Insert, ease of entry",
        "judgement",
        "coupon-60",
        "No standard: judged while the insert is set by hand at one temperature.",
        parameters={
            "name": "Ease of entry",
            "scale": "pushed back out; went in askew; needed force; went in level by its weight",
            "how": "iron at one temperature, released for three seconds",
        },
        rig="none",
    ),
)


def ensure_standard_procedures(workshop: Workshop, rig: Rig | None = None) -> list[Procedure]:
    """Flat tension and upright layer adhesion, made once."""
    return [ensure_starter(workshop, s, {"force": rig}) for s in STARTERS[:2]]


def standard_procedures(workshop: Workshop) -> list[Procedure]:
    """The standard procedures that a workshop has, in their order; nothing is made."""
    names = [s.name for s in STARTERS[:2]]
    found = {p.name: p for p in Procedure.objects.filter(workshop=workshop, name__in=names)}
    return [found[name] for name in names if name in found]


def ensure_starter(
    workshop: Workshop, starter: Starter, rigs: Mapping[str, Rig | None]
) -> Procedure:
    """One starter as the workshop's own procedure, made once."""
    return Procedure.objects.get_or_create(
        workshop=workshop,
        name=starter.name,
        defaults={
            "method_key": starter.method,
            "orientation": starter.orientation,
            "specimen_type": starter.specimen_type,
            "rig": rigs.get(starter.rig),
            "speed": starter.speed,
            "conditioning": "23 °C, as printed",
            "standard": starter.standard,
            "parameters": starter.parameters,
            "reading_times": list(starter.reading_times),
            "preload": starter.preload,
            "ranked_by": starter.ranked_by,
        },
    )[0]
