"""A procedure drawn: its rig, its reading times, and the standard's own value beside each departure."""

from collections.abc import Mapping, Sequence
from math import cos, sqrt
from typing import Any

from brunt_core.computation import read_input
from brunt_core.errors import InputError
from brunt_core.methods.base import Method
from brunt_core.published import departures
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import render, time_words
from brunt_core.specimens.types import TYPES, SpecimenType
from brunt_web.library.models import Procedure, SpecimenVariant
from brunt_web.library.rig_drawing import drawn_rig, time_line
from brunt_web.people.models import Workshop

_GRAVITY = 9.80665


# What a method is usually done on, for a drawing before anything is chosen.
_USUAL = {
    "tension_bar": "tension-1ba",
    "press": "cube-10",
    "rod": "torsion-round",
    "shear_pin": "shear-pin",
    "insert": "insert-block",
    "clamp": "insert-block",
}


def geometry_named(workshop: Workshop, key: str, method: Method) -> SpecimenType:
    """A specimen type by its key, the method's usual one where there is none."""
    if key.startswith("own-") and key[4:].isdigit():
        own = SpecimenVariant.objects.filter(workshop=workshop, pk=int(key[4:])).first()
        if own:
            return own.geometry
    return TYPES.get(key) or TYPES[_USUAL.get(method.drawing, "bend-80")]


def drawing_of(procedure: Procedure) -> dict[str, Any]:
    """What is drawn of a stored procedure."""
    return drawing(
        procedure.method,
        procedure.geometry,
        orientation=procedure.orientation,
        speed=procedure.speed,
        parameters=procedure.parameters,
        times=procedure.reading_times,
        conditioning=procedure.conditioning,
    )


def drawing(
    method: Method,
    geometry: SpecimenType,
    *,
    orientation: str,
    speed: float | None,
    parameters: Mapping[str, str],
    times: Sequence[float],
    conditioning: str,
) -> dict[str, Any]:
    """The rig, the line of reading times, and the rows beside the nearest standard."""
    facts = _facts(method, geometry, speed, parameters)
    words = {k: v for k, v in parameters.items() if v}
    words |= {
        "specimen": geometry.name,
        "speed": f"{in_unit(speed, 'speed', 'mm/min'):.3g} mm/min" if speed else "",
        "conditioning": conditioning,
        "times": ", ".join(time_words(t) for t in times),
        "strike": f"{facts['strike']:.3g} m/s" if "strike" in facts else "",
        "load_stress": render(facts["load_stress"], "stress", "MPa")
        if "load_stress" in facts
        else "",
    }
    beside = departures(method.key, geometry.key, orientation, facts, words)
    return {
        "rig": drawn_rig(method.drawing, geometry, facts),
        "times": time_line(times),
        "standard": beside[0] if beside else None,
        "rows": beside[1] if beside else [],
    }


def _facts(
    method: Method, geometry: SpecimenType, speed: float | None, parameters: Mapping[str, str]
) -> dict[str, float]:
    """What is fixed, in SI; what cannot be read is excluded."""
    facts: dict[str, float] = {"thickness": geometry.box[2] / 1e3}
    if speed:
        facts["speed"] = speed
    for spec in method.fixed:
        text = parameters.get(spec.key) or spec.default
        if not spec.plain or not text:
            continue
        try:
            facts[spec.key] = read_input(spec, text, {}).si
        except InputError:
            continue
    if "hammer_arm" in facts and "start_angle" in facts:
        facts["strike"] = sqrt(2 * _GRAVITY * facts["hammer_arm"] * (1 - cos(facts["start_angle"])))
    if method.key == "heat-sag" and facts.get("load") and facts.get("span"):
        width, thick = geometry.box[0] / 1e3, facts["thickness"]
        facts["load_stress"] = 3 * facts["load"] * facts["span"] / (2 * width * thick**2)
    return facts
