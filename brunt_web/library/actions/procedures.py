"""Add a rig or a procedure of the workshop's own."""

import re
from collections.abc import Mapping
from typing import Any

from brunt_core.computation import read
from brunt_core.errors import InputError
from brunt_core.methods.registry import method as core_method
from brunt_core.quantities import parse
from brunt_core.specimens.types import ORIENTATIONS, specimen_type
from brunt_web.library.models import Procedure, Rig, SpecimenVariant
from brunt_web.people.models import Workshop

_MOST_TIMES = 40
RIG_DIMENSIONS = {"force": "N", "torque": "N·m", "length": "mm", "energy": "J"}


def add_rig(workshop: Workshop, texts: Mapping[str, str]) -> Rig:
    """A device: what it measures, its capacity, its step and its limit of error.

    Raises :class:`InputError` with the field.
    """
    name = _name(texts.get("rig_name", ""), "rig_name")
    dimension = texts.get("dimension", "force")
    if dimension not in RIG_DIMENSIONS:
        raise InputError("Choose what the rig measures.", "dimension")
    if Rig.objects.filter(workshop=workshop, name=name).exists():
        raise InputError(f"There is a rig called {name} already.", "rig_name")
    relative = _optional(texts, "relative_error", "ratio", "%")
    return Rig.objects.create(
        workshop=workshop,
        name=name,
        dimension=dimension,
        capacity=_optional(texts, "capacity", dimension, RIG_DIMENSIONS[dimension]),
        resolution=_optional(texts, "resolution", dimension, RIG_DIMENSIONS[dimension]) or 0.0,
        relative_error=0.01 if relative is None else relative,
    )


def add_procedure(workshop: Workshop, texts: Mapping[str, str]) -> Procedure:
    """A method with its parameters fixed.

    ``texts``: name, method, orientation, specimen_type (a published key or ``own-N``), rig, speed,
    preload, reading_times ("1 s; 30 s; 1 min"), conditioning, standard, ranked_by (a property of
    the method; its first when empty), and ``p-KEY`` for each fixed input. Raises :class:`InputError` with the field.
    """
    name = _name(texts.get("name", ""), "name")
    if Procedure.objects.filter(workshop=workshop, name=name).exists():
        raise InputError(f"There is a procedure called {name} already.", "name")
    method = core_method(texts.get("method", ""))
    if texts.get("orientation", "flat") not in ORIENTATIONS:
        raise InputError("Choose how the specimen is printed.", "orientation")
    key, variant = _type(workshop, texts.get("specimen_type", ""))
    return Procedure.objects.create(
        workshop=workshop,
        name=name,
        method_key=method.key,
        orientation=texts.get("orientation", "flat"),
        specimen_type=key,
        variant=variant,
        rig=_rig(workshop, texts.get("rig", "")),
        speed=_optional(texts, "speed", "speed", "mm/min"),
        preload=_optional(texts, "preload", "force", "N"),
        reading_times=read_times(texts.get("reading_times", "")),
        conditioning=texts.get("conditioning", "").strip()[:120],
        standard=texts.get("standard", "").strip()[:400],
        parameters=_parameters(method, texts),
        ranked_by=_ranked_by(method, texts.get("ranked_by", "")),
    )


def _ranked_by(method: Any, key: str) -> str:
    """The property it is ranked by; empty for the method's first."""
    if key and key not in {r.property for r in method.results}:
        raise InputError(f"{method.name} does not yield that property.", "ranked_by")
    return "" if key == method.results[0].property else key


def read_times(text: str) -> list[float]:
    """Reading times in s, rising, from text: ``1 s; 30 s; 1 min``.

    >>> read_times("1 s; 1 min; 1 h")
    [1.0, 60.0, 3600.0]
    """
    pieces = [p for p in re.split(r"[;,\n]", text) if p.strip()]
    if len(pieces) > _MOST_TIMES:
        raise InputError(f"Set at most {_MOST_TIMES} reading times.", "reading_times")
    try:
        times = [parse(p, "time", "s").si for p in pieces]
    except InputError as error:
        raise error.at("reading_times") from None
    if any(t < 0 for t in times) or sorted(set(times)) != times:
        raise InputError("Write the reading times rising, each once.", "reading_times")
    return times


def _parameters(method: Any, texts: Mapping[str, str]) -> dict[str, str]:
    found = {}
    for spec in method.fixed:
        text = texts.get(f"p-{spec.key}", "").strip()
        if not text:
            if spec.required:
                raise InputError(f"The {spec.label.lower()} is missing.", f"p-{spec.key}")
            continue
        try:
            reading = read(spec, text, {})
        except InputError as error:
            raise error.at(f"p-{spec.key}") from None
        assumed = reading.plain and reading.typed.parts[-1].assumed
        found[spec.key] = f"{text} {spec.unit}".strip() if assumed else reading.word or text
    return found


def _name(text: str, field: str) -> str:
    if not text.strip():
        raise InputError("Give it a name.", field)
    if len(text.strip()) > 80:
        raise InputError("Keep the name under 80 characters.", field)
    return text.strip()


def _optional(texts: Mapping[str, str], field: str, dimension: str, unit: str) -> float | None:
    text = texts.get(field, "").strip()
    if not text:
        return None
    try:
        value = parse(text, dimension, unit).si
    except InputError as error:
        raise error.at(field) from None
    if value <= 0:
        raise InputError("It must be more than zero.", field)
    return value


def _type(workshop: Workshop, key: str) -> tuple[str, SpecimenVariant | None]:
    if key.startswith("own-") and key[4:].isdigit():
        variant = SpecimenVariant.objects.filter(workshop=workshop, pk=int(key[4:])).first()
        if variant:
            return key, variant
    try:
        return specimen_type(key).key, None
    except InputError as error:
        raise InputError("Choose a specimen type.", "specimen_type") from error


def _rig(workshop: Workshop, key: str) -> Rig | None:
    if not key:
        return None
    found = Rig.objects.filter(workshop=workshop, pk=int(key) if key.isdigit() else 0).first()
    if found is None:
        raise InputError("There is no such rig in this workshop.", "rig")
    return found
