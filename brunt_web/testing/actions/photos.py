"""Photos of a specimen: checked by content, re-encoded, metadata left behind."""

from datetime import datetime
from pathlib import Path
from uuid import uuid4

from django.conf import settings
from django.contrib.auth.models import User
from django.core.files.uploadedfile import UploadedFile
from PIL import Image, ImageOps, UnidentifiedImageError

from brunt_core.errors import InputError
from brunt_web.campaigns import life
from brunt_web.campaigns.models import Specimen
from brunt_web.testing.models import Photo

MOST_BYTES = 15_000_000
MOST_PIXELS = 60_000_000
LONGEST_SIDE = 2400
_KINDS = ("JPEG", "PNG", "WEBP")


def add_photo(
    specimen: Specimen, by: User, at: datetime, upload: UploadedFile, caption: str = ""
) -> Photo:
    """Keep a picture beside the number.

    It is read by its content, turned upright, made no longer than 2400 px, and written anew as
    JPEG, so that place, device and time in its metadata are gone. Raises :class:`InputError` for
    what is no JPEG, PNG or WebP, too large, or broken.
    """
    if upload is None:
        raise InputError("Choose a picture first.", "photo")
    if (upload.size or 0) > MOST_BYTES:
        raise InputError("The picture is larger than 15 MB; send a smaller one.", "photo")
    if len(caption) > 200:
        raise InputError("Keep the caption under 200 characters.", "caption")
    picture = _opened(upload)
    name = f"{uuid4().hex}.jpg"
    folder = Path(settings.MEDIA_ROOT) / "photos"
    folder.mkdir(parents=True, exist_ok=True)
    picture.save(folder / name, "JPEG", quality=88)
    life.note(
        [specimen], "photo", by, at, f"photo: {caption.strip() or 'no caption'}", {"file": name}
    )
    return Photo.objects.create(
        specimen=specimen,
        file=name,
        width=picture.width,
        height=picture.height,
        caption=caption.strip(),
        by=by,
        at=at,
    )


def _opened(upload: UploadedFile) -> Image.Image:
    try:
        with Image.open(upload, formats=_KINDS) as held:
            if held.width * held.height > MOST_PIXELS:
                raise InputError("The picture has more than 60 million pixels.", "photo")
            upright = ImageOps.exif_transpose(held).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, Image.DecompressionBombError):
        raise InputError("This file is not a JPEG, PNG or WebP picture.", "photo") from None
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    bare = Image.new("RGB", upright.size)
    bare.paste(upright)
    return bare


def remove_photo(specimen: Specimen, pk: int) -> None:
    """Take a picture off the specimen; its file stays, so that it can be put back."""
    Photo.objects.filter(specimen=specimen, pk=pk).delete()
