"""What is measured on a photo: picks kept with it, worked again whenever they are moved."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.mechanics.picture import (
    Measured,
    Pick,
    PictureScale,
    angle_of,
    area_of,
    askew,
    length_of,
    scale_of,
)
from brunt_core.quantities import parse_typed
from brunt_web.interface.edit_conflicts import fingerprint, refuse_overtaken
from brunt_web.testing.models import Photo, PictureReading

# How far a pick may be off, as a standard deviation in pixels of the stored picture. Common practice, no
# source: an edge on a screen is met to a pixel or two.
PICK = 1.5
KINDS = {"scale": 2, "length": 2, "angle": 2, "area": 3}
MOST_PICKS, MOST_READINGS, ASKEW = 60, 40, 0.02


@dataclass
class Worked:
    """The readings of one picture: each with its value, or the sentence why it has none; what is doubtful."""

    rows: list[dict[str, Any]]
    values: list[Measured | None]
    problems: list[str]
    doubts: list[str] = field(default_factory=list)


def work(rows: Sequence[Mapping[str, Any]]) -> Worked:
    """Values of picks. A mean of all scales that can be read counts; a fourth and fifth pick of an angle are
    its plumb line."""
    told = [_told(row) for row in rows]
    scales, problems = list[PictureScale](), [""] * len(told)
    for i, row in enumerate(told):
        if row["kind"] == "scale":
            try:
                scales.append(_scale(row))
            except InputError as problem:
                problems[i] = problem.sentence
    values: list[Measured | None] = []
    for i, row in enumerate(told):
        value = None
        if row["kind"] != "scale":
            try:
                value = _value(row, _mean(scales))
            except InputError as problem:
                problems[i] = problem.sentence
        values.append(value)
    doubts = []
    apart = askew(scales)
    if apart > ASKEW:
        doubts.append(
            f"The scales differ by {apart * 100:.1f} %: the camera did not look square on, or they do not lie in "
            "one plane. Lengths and areas are off by as much."
        )
    return Worked(told, values, problems, doubts)


def _told(row: Mapping[str, Any]) -> dict[str, Any]:
    """A row as it was sent, made safe: its kind, name, text and picks within reason."""
    kind = str(row.get("kind", ""))
    if kind not in KINDS:
        raise InputError("Choose scale, length, angle or outline.", "kind")
    picks = row.get("picks")
    if not isinstance(picks, list) or len(picks) > MOST_PICKS:
        raise InputError(f"A reading needs 2 to {MOST_PICKS} points.", "picks")
    try:
        points = [(float(p[0]), float(p[1])) for p in picks]
    except (TypeError, ValueError, IndexError, KeyError, OverflowError):
        raise InputError("These points cannot be read.", "picks") from None
    if any(not -1e5 < x < 1e5 for p in points for x in p):
        raise InputError("A point is outside the picture.", "picks")
    return {
        "kind": kind,
        "name": " ".join(str(row.get("name", "")).split())[:60],
        "text": str(row.get("text", "")).strip()[:60],
        "picks": [[round(x, 2), round(y, 2)] for x, y in points],
    }


def _points(row: Mapping[str, Any]) -> list[Pick]:
    return [(p[0], p[1]) for p in row["picks"]]


def _scale(row: Mapping[str, Any]) -> PictureScale:
    points = _points(row)
    if len(points) < 2:
        raise InputError("A scale takes two points.", "scale")
    if not row["text"]:
        raise InputError("Type their true distance, for example 50 mm.", "scale")
    typed = parse_typed(row["text"], "length", "mm")
    return scale_of(points[0], points[1], typed.observation.anchor, PICK)


def _mean(scales: Sequence[PictureScale]) -> PictureScale | None:
    if not scales:
        return None
    size = sum(s.size for s in scales) / len(scales)
    own = max(s.relative for s in scales) / len(scales) ** 0.5
    return PictureScale(size, max(own, askew(scales) / 12**0.5))


def _value(row: Mapping[str, Any], scale: PictureScale | None) -> Measured:
    points = _points(row)
    if row["kind"] == "angle":
        if len(points) not in (2, 4):
            raise InputError(
                "An angle takes its vertex and its end; a reference line takes two more.", "angle"
            )
        plumb = (points[2], points[3]) if len(points) == 4 else None
        return angle_of(points[0], points[1], plumb, PICK)
    if scale is None:
        raise InputError("Set a scale first: two points on something of known length.", "scale")
    if row["kind"] == "length":
        return length_of(points, scale, PICK)
    return area_of(points, scale, PICK)


def photo_fingerprint(photo: Photo) -> dict[str, str]:
    """What is kept with a photo, in words that two people compare."""
    return {
        f"{i + 1}. {r.kind} {r.name}".strip(): f"{r.text} {len(r.picks)} picks {r.picks}"[:200]
        for i, r in enumerate(photo.readings.all())
    }


@transaction.atomic
def store_picture_readings(
    photo: Photo, by: User, at: datetime, rows: Sequence[Mapping[str, Any]], seen: str = ""
) -> list[PictureReading]:
    """Keep the readings of a photo as they stand now; what was there before stays in the changes.

    Raises :class:`InputError` for what is no reading, too many, or another's changes meanwhile.
    """
    if len(rows) > MOST_READINGS:
        raise InputError(f"{MOST_READINGS} readings are the most of one picture.", "picks")
    photo = Photo.objects.select_for_update().get(pk=photo.pk)
    worked = work(rows)
    stands = photo_fingerprint(photo)
    mine = {
        f"{i + 1}. {r['kind']} {r['name']}".strip(): f"{r['text']} {len(r['picks'])} picks {r['picks']}"[
            :200
        ]
        for i, r in enumerate(worked.rows)
    }
    refuse_overtaken(seen, stands, mine)
    known = {r.pk: r for r in photo.readings.all()}
    kept = []
    for sent, row, value in zip(rows, worked.rows, worked.values, strict=True):
        one = known.pop(_key(sent), None) or PictureReading(photo=photo)
        one.kind, one.name, one.picks, one.text = (
            row["kind"],
            row["name"],
            row["picks"],
            row["text"],
        )
        one.value = value.value if value else None
        one.uncertainty = value.uncertainty if value else None
        one.by, one.at = by, at
        one.save()
        kept.append(one)
    for gone in known.values():
        gone.delete()
    return kept


def _key(row: Mapping[str, Any]) -> int:
    key = row.get("key")
    return key if isinstance(key, int) and not isinstance(key, bool) else 0


def readings_fingerprint(photo: Photo) -> str:
    """The mark of what is kept, to be sent back."""
    return fingerprint(photo_fingerprint(photo))
