"""Pictures of particles: kept, given a scale, searched, strays taken off."""

from collections.abc import Sequence
from datetime import datetime
from math import hypot
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from django.core.files.uploadedfile import UploadedFile
from PIL import Image

from brunt_core.errors import InputError
from brunt_core.feedstock.areas import areas_in
from brunt_core.feedstock.particles import Particle, find_particles, of_areas, spread_of
from brunt_web.feedstock.models import Picture, Qualification
from brunt_web.interface.bounded import read_bounded
from brunt_web.interface.pictures import clean_picture, keep_picture, kept_file

Ruler = tuple[tuple[float, float], tuple[float, float]]
LONGEST, MOST_FOUND, MOST_TABLE, FOLDER = 2000, 3000, 15_000_000, "particles"


def add_picture(
    qualification: Qualification, by: User, at: datetime, upload: UploadedFile | None
) -> Picture:
    """Keep a photo, drawn again so that nothing of its metadata is left, at most 2000 pixels long.

    Raises :class:`InputError` for no file, one too large, or no picture.
    """
    picture = clean_picture(upload, LONGEST)
    name = keep_picture(picture, FOLDER, "PNG")
    return Picture.objects.create(
        qualification=qualification,
        file=name,
        width=picture.width,
        height=picture.height,
        taken_at=at,
        by=by,
    )


def set_scale(picture: Picture, scale: float, ruler: Ruler | None = None) -> Picture:
    """Give the picture its scale in m a pixel and search it; what lies along the ruler is a stray.

    Raises :class:`InputError` for a scale that no photo of flakes has, or a picture with nothing on it.
    """
    if not 1e-6 <= scale <= 2e-3:
        raise InputError("A pixel of 0.001 to 2 mm is expected; is the length right?", "scale")
    file = kept_file(FOLDER, picture.file)
    if file is None:
        raise InputError("The picture file is no longer in the storage.", "photo")
    with file, Image.open(file) as opened:
        grey = np.asarray(opened.convert("L"), dtype=float)
    found = find_particles(grey, scale)
    if len(found) > MOST_FOUND:
        raise InputError(
            f"{len(found)} specks: that is the grain of the paper, not flakes.", "photo"
        )
    beside = ruler and [i for i, p in enumerate(found) if _along(p, ruler, picture.height)]
    picture.scale, picture.strays = scale, beside or []
    picture.found = [_plain(p) for p in found]
    picture.save(update_fields=["scale", "strays", "found"])
    return picture


def _along(p: Particle, ruler: Ruler, height: int) -> bool:
    """Whether the middle of a find lies near the line through the ruler's two points."""
    (x1, y1), (x2, y2) = ruler
    x, y = p.middle
    away = abs((x2 - x1) * (y1 - y) - (x1 - x) * (y2 - y1)) / hypot(x2 - x1, y2 - y1)
    return away < max(25.0, 0.04 * height)


def _plain(p: Particle) -> dict[str, Any]:
    thin = p.outline[:: max(len(p.outline) // 60, 1)]
    return {
        "area": p.area,
        "length": p.length,
        "width": p.width,
        "fullness": p.fullness,
        "cut": p.cut,
        "outline": [[round(x, 1), round(y, 1)] for x, y in thin],
    }


def toggle_stray(picture: Picture, index: int) -> None:
    """A find is no particle, or is one after all. Raises :class:`InputError` for one that is not there."""
    if not 0 <= index < len(picture.found):
        raise InputError("There is no such particle in the picture.", "index")
    strays = set(picture.strays)
    picture.strays = sorted(strays ^ {index})
    picture.save(update_fields=["strays"])


def particles_on(picture: Picture) -> list[tuple[int, Particle]]:
    """What was found, less the strays."""
    return [
        (
            i,
            Particle(
                area=f["area"],
                length=f["length"],
                width=f["width"],
                fullness=f["fullness"],
                outline=tuple((x, y) for x, y in f["outline"]),
                cut=f["cut"],
            ),
        )
        for i, f in enumerate(picture.found)
        if i not in picture.strays
    ]


def shares_in(upload: UploadedFile, over: float, under: float) -> dict[str, str]:
    """The two shares of a table of areas, each flake taken as round.

    Raises :class:`InputError` for what is no table of areas.
    """
    if (upload.size or 0) > MOST_TABLE:
        raise InputError("The table is larger than 15 MB.", "photo")
    text = upload.read().decode("utf-8-sig", "replace")
    return particle_shares(of_areas(read_bounded(areas_in, text)), over, under)


def particle_shares(particles: Sequence[Particle], over: float, under: float) -> dict[str, str]:
    """The two shares as the step takes them."""
    spread = spread_of(particles, over, under)
    return {
        "over": f"{100 * (spread.share_over or 0.0):.1f} %",
        "under": f"{100 * (spread.share_under or 0.0):.1f} %",
    }
