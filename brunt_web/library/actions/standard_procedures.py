"""The procedures a workshop starts with."""

from brunt_web.library.models import Procedure, Rig
from brunt_web.people.models import Workshop

_STANDARD = (
    (
        "Tension, flat",
        "tension",
        "flat",
        "Follows the arithmetic of ISO 527; bar 1BA, printed flat, one speed.",
    ),
    (
        "Layer adhesion, upright",
        "layer-adhesion",
        "upright",
        "Departs from ISO 527: the 1BA bar is built standing, so the pull is across its layers.",
    ),
)


def ensure_standard_procedures(workshop: Workshop, rig: Rig | None = None) -> list[Procedure]:
    """Flat tension and upright layer adhesion, made once."""
    return [
        Procedure.objects.get_or_create(
            workshop=workshop,
            name=name,
            defaults={
                "method_key": key,
                "orientation": orientation,
                "specimen_type": "tension-1ba",
                "rig": rig,
                "speed": 5e-3 / 60,
                "conditioning": "23 °C, as printed",
                "standard": standard,
            },
        )[0]
        for name, key, orientation, standard in _STANDARD
    ]
