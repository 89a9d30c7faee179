"""The procedures a workshop starts with, and more of them when it asks."""

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
        "Departs from ISO 527: the 1BA bar is built standing, so the pull is across its layers.",
        "upright",
        5e-3 / 60,
        {"gauge_length": "25 mm"},
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
        parameters={"reach": "50 mm"},
        reading_times=(5.0,),
        rig="none",
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
)


def ensure_standard_procedures(workshop: Workshop, rig: Rig | None = None) -> list[Procedure]:
    """Flat tension and upright layer adhesion, made once."""
    return [ensure_starter(workshop, s, {"force": rig}) for s in STARTERS[:2]]


def ensure_bench_procedures(workshop: Workshop, rigs: dict[str, Rig | None]) -> list[Procedure]:
    """All starters, made once; ``rigs`` by what they measure."""
    return [ensure_starter(workshop, s, rigs) for s in STARTERS]


def ensure_starter(workshop: Workshop, starter: Starter, rigs: dict[str, Rig | None]) -> Procedure:
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
        },
    )[0]
