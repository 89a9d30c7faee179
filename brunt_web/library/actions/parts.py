"""A custom part: imported, laid on another face, marked, copied."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from hashlib import sha256
from string import ascii_uppercase
from typing import Any

import numpy as np
from django.db import transaction
from django.utils.text import slugify

from brunt_core.errors import InputError
from brunt_core.methods.registry import methods
from brunt_core.parts.laying import RestFace, lying, rest_faces, usual_poses
from brunt_core.parts.reading import read_solid
from brunt_core.parts.sections import cut, stress_per_load
from brunt_core.parts.solids import lighter
from brunt_core.parts.views import VIEWS, draw, outline, point_on
from brunt_core.specimens.types import ORIENTATIONS
from brunt_web.interface.bounded import read_bounded
from brunt_web.library.models import PartMesh, SpecimenVariant
from brunt_web.library.parts import packed_mesh, unpacked_mesh
from brunt_web.library.queries import stands_in_a_plan
from brunt_web.people.models import Workshop

MOST_PLACES = 12
_SIZES = ("width", "overall", "thickness")


@transaction.atomic
def add_part(
    workshop: Workshop, name: str, data: bytes, file_name: str, unit: str = ""
) -> SpecimenVariant:
    """Import a part from a mesh file, laid on its largest face.

    Raises :class:`InputError` with the field for a name that is taken and a file that is no solid.
    """
    _free(workshop, name)
    solid = read_bounded(read_solid, data, file_name.rpartition(".")[2].lower(), unit)
    faces = rest_faces(solid.mesh)
    laid, whole = lying(solid.mesh, faces[0].normal)
    made = SpecimenVariant(workshop=workshop, name=name, shape="part")
    mesh = PartMesh(
        source=data, source_name=file_name[:160], unit=solid.unit, remarks=list(solid.remarks)
    )
    _lay(made, mesh, laid, _turned(faces, whole), {})
    made.save()
    mesh.variant = made
    mesh.save()
    return made


@transaction.atomic
def lay_part(variant: SpecimenVariant, orientation: str, face: int) -> SpecimenVariant:
    """Choose the face it rests on when it is printed flat, on edge or upright.

    Raises :class:`InputError` for a face it does not have, and for a part that stands in a plan.
    """
    if orientation not in ORIENTATIONS:
        raise InputError(f"“{orientation}” is not flat, edge or upright.", "orientation")
    variant, mesh = _held(variant)
    _not_planned(variant)
    assert variant.part is not None
    faces = [_face(f) for f in mesh.faces]
    if not 0 <= face < len(faces):
        raise InputError("The part has no such face.", "face")
    rests = dict(variant.part["rests"]) | {orientation: face}
    body = unpacked_mesh(mesh.content)
    if orientation != "flat":
        _stand(variant, body, faces, rests)
    else:
        laid, whole = lying(body, faces[face].normal)
        marks = _carried(variant.part, whole)
        _lay(variant, mesh, laid, _turned(faces, whole), rests)
        variant.part |= marks
        _mark_section(variant, laid)
    mesh.save()
    variant.save()
    return variant


@dataclass(frozen=True)
class Marks:
    """What is marked on a part; mm. Of a point's coordinates one may be open: the surface gives it."""

    load: tuple[float | None, ...] | None = None
    direction: tuple[float, float, float] = (0.0, 0.0, -1.0)
    axis: str = ""
    at: float | None = None
    places: Sequence[tuple[str, tuple[float | None, ...]]] = ()
    fixtures: str = ""


@transaction.atomic
def mark_part(variant: SpecimenVariant, marks: Marks) -> SpecimenVariant:
    """Mark where the load acts, the section of interest, places it may fail at, and what it carries.

    Raises :class:`InputError` for points beside the part, a section without a load, and a change of
    load or section once the part stands in a plan.
    """
    variant, mesh = _held(variant)
    assert variant.part is not None
    before = _rests_on(variant.part)
    body = unpacked_mesh(mesh.content)
    facts = dict(variant.part)
    facts["load"] = (
        {"point": _point(body, marks.load, "load_x"), "direction": list(marks.direction)}
        if marks.load
        else None
    )
    facts["section"] = (
        {"axis": marks.axis, "at": marks.at} if marks.axis and marks.at is not None else None
    )
    facts["places"] = _places(body, marks.places)
    facts["fixtures"] = marks.fixtures.strip()[:200]
    variant.part = facts
    _mark_section(variant, body)
    if before != _rests_on(variant.part):
        _not_planned(variant)
    variant.save(update_fields=["part"])
    return variant


@transaction.atomic
def copy_part(variant: SpecimenVariant, name: str) -> SpecimenVariant:
    """The same part under another name, to be laid or marked otherwise."""
    _free(variant.workshop, name)
    mesh = PartMesh.objects.select_related("variant").get(variant=variant)
    copy = mesh.variant
    copy.pk, copy.name, copy._state.adding = None, name, True
    copy.save()
    mesh.pk, mesh.variant, mesh._state.adding = None, copy, True
    mesh.save()
    return copy


def _free(workshop: Workshop, name: str) -> None:
    if not name:
        raise InputError("Give the part a name.", "name")
    if SpecimenVariant.objects.filter(workshop=workshop, name=name).exists():
        raise InputError(f"There is already a type called {name}.", "name")


def _held(variant: SpecimenVariant) -> tuple[SpecimenVariant, PartMesh]:
    """The part with its row locked, so that two at once follow one another."""
    found = SpecimenVariant.objects.select_for_update().get(pk=variant.pk)
    if not found.part:
        raise InputError("This type does not come from a mesh file.")
    return found, PartMesh.objects.defer("source").get(variant=found)


def _not_planned(variant: SpecimenVariant) -> None:
    if stands_in_a_plan(variant):
        raise InputError(
            f"{variant.name} is used in a plan, so its orientation and load are fixed. Copy it and change the copy.",
            "name",
        )


def _lay(
    variant: SpecimenVariant,
    mesh: PartMesh,
    laid: Any,
    faces: list[RestFace],
    rests: Mapping[str, int],
) -> None:
    """Fill in all that follows from how the part lies flat."""
    sides = [float(s) for s in laid.extents]
    variant.sizes = {k: round(s, 4) for k, s in zip(_SIZES, sides, strict=True)}
    variant.sizes["volume"] = round(float(laid.volume), 4)
    content = packed_mesh(laid)
    variant.part = {
        "digest": sha256(content).hexdigest()[:24],
        "outline": [list(p) for p in outline(lighter(laid))],
    }
    mesh.content = content
    seen = lighter(laid)
    mesh.views = {k: _drawn(seen, k) for k in VIEWS}
    mesh.faces = [_with_drawing(seen, f) for f in faces]
    _stand(variant, laid, faces, rests or usual_poses(faces))


def _stand(
    variant: SpecimenVariant, laid: Any, faces: list[RestFace], rests: Mapping[str, int]
) -> None:
    """How it is turned for each orientation, and its box so. Flat is as it lies."""
    turns, boxes = {"flat": np.eye(3).tolist()}, {"flat": [float(s) for s in laid.extents]}
    for orientation in ("edge", "upright"):
        stood, whole = lying(laid, faces[rests[orientation]].normal)
        turns[orientation] = whole[:3, :3].round(9).tolist()
        boxes[orientation] = [round(float(s), 4) for s in stood.extents]
    assert variant.part is not None
    own = sha256(str((variant.part["outline"], dict(rests), turns)).encode()).hexdigest()[:12]
    digest = variant.part["digest"][:24] + own
    variant.part |= {"turns": turns, "boxes": boxes, "rests": dict(rests), "digest": digest}


def _drawn(laid: Any, key: str) -> dict[str, Any]:
    view = draw(laid, key)
    return {"outlines": view.outlines, "edges": view.edges, "box": view.box}


def _with_drawing(laid: Any, face: RestFace) -> dict[str, Any]:
    """A face it can rest on, with the part drawn as it then stands, seen from the side."""
    stood, _ = lying(laid, face.normal)
    view = draw(stood, "side")
    return {
        "normal": list(face.normal),
        "contact": round(face.contact, 3),
        "height": round(face.height, 3),
        "overhang": round(face.overhang, 3),
        "outlines": view.outlines,
        "box": view.box,
    }


def _face(kept: Mapping[str, Any]) -> RestFace:
    x, y, z = kept["normal"]
    return RestFace((x, y, z), kept["contact"], kept["height"], kept["overhang"])


def _turned(faces: Sequence[RestFace], whole: Any) -> list[RestFace]:
    """The faces after the part was turned."""
    found = []
    for f in faces:
        x, y, z = (float(round(c, 6)) for c in whole[:3, :3] @ np.asarray(f.normal))
        found.append(RestFace((x, y, z), f.contact, f.height, f.overhang))
    return found


def _rests_on(facts: Mapping[str, Any]) -> tuple[object, ...]:
    """What a stress at the section rests on."""
    load, section = facts.get("load") or {}, facts.get("section") or {}
    numbers = [*load.get("point", ()), *load.get("direction", ()), section.get("at")]
    return (section.get("axis"), *(None if n is None else round(float(n), 3) for n in numbers))


def _carried(facts: Mapping[str, Any], whole: Any) -> dict[str, Any]:
    """Load and places as they stand after the part was turned; a section is along other axes then."""

    def moved(point: Sequence[float]) -> list[float]:
        return [float(round(c, 3)) for c in (whole @ np.array((*point, 1.0)))[:3]]

    found: dict[str, Any] = {"fixtures": facts.get("fixtures", ""), "section": None, "load": None}
    if load := facts.get("load"):
        direction = [float(round(c, 6)) for c in whole[:3, :3] @ np.asarray(load["direction"])]
        found["load"] = {"point": moved(load["point"]), "direction": direction}
    found["places"] = [p | {"point": moved(p["point"])} for p in facts.get("places", [])]
    return found


def _mark_section(variant: SpecimenVariant, body: Any) -> None:
    """The section's figures, and what a newton at the load's point raises there."""
    facts = variant.part
    assert facts is not None
    for place in facts.get("places", []):
        share = place["point"][1] / variant.sizes["overall"]
        place["at"] = round(min(max(share, 0.02), 0.98), 4)
    facts.pop("stress_per_load", None)
    section, load = facts.get("section"), facts.get("load")
    if not section:
        return
    found = cut(body, section["axis"], section["at"])
    facts["section"] = {
        "axis": found.axis,
        "at": found.at,
        "area": round(found.area, 4),
        "i_uu": round(found.i_uu, 3),
        "i_vv": round(found.i_vv, 3),
        "i_uv": round(found.i_uv, 3),
        "centroid": list(found.centroid),
        "outlines": found.outlines,
    }
    if load:
        raised = stress_per_load(found, load["point"], load["direction"])
        facts["section"] |= {
            "pull": raised.pull,
            "push": raised.push,
            "shear": raised.shear,
            "arm": raised.arm,
            "twist": raised.twist,
        }
        # One newton on a square millimetre is a megapascal: 1/mm² in 1/m².
        facts["stress_per_load"] = raised.largest * 1e6 or None


def _point(body: Any, asked: tuple[float | None, ...], field: str) -> list[float]:
    """A point of which one coordinate may be open: the surface as seen along it gives it."""
    open_ones = [i for i, c in enumerate(asked) if c is None]
    if not open_ones:
        low, high = body.bounds
        if any(not a - 0.5 <= float(c) <= b + 0.5 for a, b, c in zip(low, high, asked, strict=True)):  # type: ignore[arg-type]  # fmt: skip
            raise InputError("This point is outside the part.", field)
        return [float(c) for c in asked if c is not None]
    if len(open_ones) > 1:
        raise InputError("Give two of the three coordinates at least.", field)
    x, y, z = asked
    seen = {2: ("above", y, x), 0: ("side", y, z), 1: ("end", x, z)}[open_ones[0]]
    key, right, up = seen
    assert right is not None and up is not None
    found = point_on(body, key, right, up)
    if found is None:
        raise InputError("This point is outside the part.", field)
    return list(found)


def _places(
    body: Any, asked: Sequence[tuple[str, tuple[float | None, ...]]]
) -> list[dict[str, Any]]:
    if len(asked) > MOST_PLACES:
        raise InputError(f"Name at most {MOST_PLACES} places.", "places")
    taken = {o.letter for m in methods().values() for o in m.outcomes} | set("SUTZ")
    keys: set[str] = {"elsewhere"}
    found = []
    for i, (label, point) in enumerate(asked, 1):
        key = slugify(label)[:24].replace("-", "_") or f"place_{i}"
        if key in keys:
            raise InputError(f"“{label}” is named twice.", "places")
        keys.add(key)
        letter = _letter(label, taken)
        taken.add(letter)
        at = _point(body, point, "places")
        found.append({"key": key, "label": label, "letter": letter, "point": at, "at": 0.5})
    return found


def _letter(label: str, taken: set[str]) -> str:
    """A key for the bench: a letter of the name that is free, else any."""
    own = [c for c in label.upper() if c in ascii_uppercase]
    free = [c for c in (*own, *ascii_uppercase) if c not in taken]
    return free[0] if free else ""
