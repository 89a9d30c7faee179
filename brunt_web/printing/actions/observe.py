"""Grades, photos and measurements of prints."""

import io
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from django.core.files.base import ContentFile
from django.db import transaction

from brunt_core.computation import standard_instrument
from brunt_core.errors import InputError
from brunt_core.printing.checks import ASPECTS, Deviation, deviations, light
from brunt_core.quantities import parse_series
from brunt_web.campaigns.models import Specimen
from brunt_web.printing.models import Batch, Grade, Print

MOST_PHOTO_BYTES = 12_000_000


@dataclass(frozen=True)
class Observation:
    """One graded observation as typed."""

    aspect: str
    score: int
    measured: str = ""
    note: str = ""


def clean_photo(raw: bytes) -> bytes:
    """A photo drawn anew as JPEG, so that nothing of its metadata (place, device) is left.

    Raises :class:`InputError` for what is no picture, or too large.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError

    if len(raw) > MOST_PHOTO_BYTES:
        raise InputError("The photo has more than 12 MB; make it smaller.", "photo")
    try:
        picture = Image.open(io.BytesIO(raw))
        if (
            picture.format not in ("JPEG", "PNG", "WEBP")
            or picture.width * picture.height > 60_000_000
        ):
            raise InputError("A photo is a JPEG, PNG or WebP of up to 60 megapixels.", "photo")
        picture = ImageOps.exif_transpose(picture).convert("RGB")
    except (UnidentifiedImageError, OSError, Image.DecompressionBombError):
        raise InputError("This file is not a picture.", "photo") from None
    picture.thumbnail((2000, 2000))
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=85)
    return out.getvalue()


@transaction.atomic
def grade(
    batch: Batch,
    by,
    seen: Observation,
    specimen: Specimen | None = None,
    photo: bytes | None = None,
) -> Grade:
    """Store one graded observation of a batch or a specimen of it."""
    if seen.aspect not in ASPECTS:
        raise InputError("Choose what is graded.", "aspect")
    if not 1 <= seen.score <= 5:
        raise InputError("A grade lies between 1 and 5.", "score")
    measured = None
    if seen.measured.strip():
        try:
            measured = parse_series(seen.measured, "length", "mm")[0].si
        except InputError as error:
            raise error.at("measured") from None
    row = Grade(
        batch=batch,
        specimen=specimen,
        aspect=seen.aspect,
        score=seen.score,
        measured=measured,
        measured_text=seen.measured.strip()[:60],
        note=seen.note.strip()[:300],
        by=by,
    )
    if photo:
        row.photo.save(f"{batch.pk}-{seen.aspect}.jpg", ContentFile(clean_photo(photo)), save=False)
    row.save()
    return row


@dataclass(frozen=True)
class Measured:
    """What a row of measurements came to."""

    deviations: list[Deviation]
    flags: list[str]


@transaction.atomic
def measure_print(
    specimen: Specimen, by, at: datetime, texts: Mapping[str, str], store
) -> Measured:
    """Store dimensions and mass of one specimen; ``store`` is the bench's action for dimensions.

    Raises :class:`InputError` naming the field.
    """
    sizes = {k: v for k, v in texts.items() if k != "mass"}
    marks = {m.key: m.value for m in store(specimen, by, at, sizes)}
    mass = _store_mass(specimen, texts.get("mass", ""))
    return judge(specimen, marks, mass)


def _store_mass(specimen: Specimen, text: str) -> float | None:
    one = getattr(specimen, "print", None)
    if not text.strip():
        return one.mass if one else None
    try:
        value = parse_series(text, "mass", "g")[0].si
    except InputError as error:
        raise error.at("mass") from None
    if value <= standard_instrument("mass").absolute:
        raise InputError("The mass must be more than the scale's own error.", "mass")
    if one:
        Print.objects.filter(pk=one.pk).update(mass=value, mass_text=text.strip()[:60])
    return value


def judge(specimen: Specimen, marks: Mapping[str, float], mass: float | None) -> Measured:
    """Measured against nominal, and mass against volume and density."""
    geometry = specimen.procedure.geometry
    away = deviations({k: v * 1000 for k, v in marks.items()}, geometry.nominal)
    flags = [
        f"{d.key.replace('_', ' ')} {d.share * 100:+.1f} % from nominal" for d in away if d.too_far
    ]
    material = specimen.condition.material
    if mass is not None and material and material.density:
        swell = 1.0
        for d in away:
            swell *= d.measured / d.nominal
        solid = _solid(specimen)
        flags += (
            [f]
            if (f := light(mass, geometry.volume * 1e-9 * swell * solid, material.density))
            else []
        )
    return Measured(away, flags)


def _solid(specimen: Specimen) -> float:
    from brunt_core.planning.estimates import solidity

    recipe = specimen.condition.recipe or specimen.campaign.recipe
    values = recipe.values if recipe else {}
    walls = values.get("walls")
    width = specimen.procedure.geometry.sizes.get("narrow", specimen.procedure.geometry.wide) / 1000
    return solidity(
        None if walls is None else int(walls), values.get("line_width"), width, values.get("infill")
    )
