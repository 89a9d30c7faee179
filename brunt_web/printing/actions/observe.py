"""Grades, photos and measurements of prints."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from django.contrib.auth.models import User
from django.core.files.base import ContentFile
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils.timezone import localtime

from brunt_core.errors import InputError
from brunt_core.printing.checks import ASPECTS, NominalDeviation, deviations, light
from brunt_core.quantities import parse_series
from brunt_core.specimens.solid import solid_share
from brunt_web.campaigns import history
from brunt_web.campaigns.models import Specimen
from brunt_web.campaigns.resolved_parts import Resolved, filling_of_settings
from brunt_web.interface.edit_conflicts import refuse_overtaken
from brunt_web.interface.pictures import clean_picture, picture_bytes
from brunt_web.printing.models import Batch, Grade
from brunt_web.testing.actions.record_test import measure
from brunt_web.testing.marks import marks_of
from brunt_web.testing.models import Measurement

LONGEST_PHOTO = 2000


@dataclass(frozen=True)
class PrintObservation:
    """One graded observation as typed."""

    aspect: str
    score: int
    measured: str = ""
    note: str = ""


@transaction.atomic
def grade(
    batch: Batch,
    by: User,
    seen: PrintObservation,
    specimen: Specimen | None = None,
    photo: UploadedFile | None = None,
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
        content = picture_bytes(clean_picture(photo, LONGEST_PHOTO))
        row.photo.save(f"{batch.pk}-{seen.aspect}.jpg", ContentFile(content), save=False)
    row.save()
    return row


@dataclass(frozen=True)
class MeasuredSpecimen:
    """What a row of measurements came to."""

    deviations: list[NominalDeviation]
    flags: list[str]


@transaction.atomic
@transaction.atomic
def measure_print(
    specimen: Specimen,
    by: User,
    at: datetime,
    texts: Mapping[str, str],
    plan: Resolved,
    seen: str = "",
) -> MeasuredSpecimen:
    """Store sizes and mass of one specimen as made, and judge them.

    ``seen`` is the mark of :func:`size_words` as they were shown. Raises :class:`InputError` naming the
    field, and where somebody else has measured it meanwhile.
    """
    history.lock(specimen)
    known = marks_of(specimen)
    standing = size_words(known)
    mine = {k.replace("_", " "): t for k, t in texts.items() if t.strip()}
    refuse_overtaken(
        seen, standing, standing | mine, lambda: _last_by(known, by), "Press Enter again"
    )
    marks = measure(specimen, by, at, texts)
    return judge_sizes(specimen, {k: m.value for k, m in marks.items()}, plan)


def _last_by(known: Mapping[str, Measurement], by: User) -> str:
    """Who measured it last, another before oneself, and when."""
    theirs = [m for m in known.values() if m.by_id != by.pk]
    last = max(theirs or known.values(), key=lambda m: m.at, default=None)
    return f"{last.by.get_username()}, {localtime(last.at):%H:%M}" if last else ""


def size_words(known: Mapping[str, Measurement]) -> dict[str, str]:
    """Sizes and mass as they stand, by what each is called."""
    return {k.replace("_", " "): m.text for k, m in known.items()}


def judge_sizes(specimen: Specimen, marks: Mapping[str, float], plan: Resolved) -> MeasuredSpecimen:
    """Measured against nominal, and mass against what its own walls, layers and infill should weigh."""
    geometry = specimen.geometry
    sizes = {k: v * 1000 for k, v in marks.items() if k != "mass"}
    away = deviations(sizes, geometry.nominal)
    flags = [
        f"{d.key.replace('_', ' ')} {d.share * 100:+.1f} % from nominal" for d in away if d.too_far
    ]
    material, mass = specimen.condition.material, marks.get("mass")
    if mass is None or not material or not material.density:
        return MeasuredSpecimen(away, flags)
    swell = 1.0
    for d in away:
        swell *= d.measured / d.nominal
    share = solid_share(geometry, specimen.orientation, filling_of_settings(plan.settings))
    said = light(mass, geometry.volume * 1e-9 * swell * share, material.density)
    return MeasuredSpecimen(away, [*flags, said] if said else flags)
