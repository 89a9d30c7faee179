"""Photos of a specimen: checked by content, re-encoded, metadata left behind."""

from datetime import datetime

from django.contrib.auth.models import User
from django.core.files.uploadedfile import UploadedFile

from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.models import Specimen
from brunt_web.interface.pictures import clean_picture, keep_picture
from brunt_web.testing.models import Photo

LONGEST_SIDE, FOLDER = 2400, "photos"


def add_photo(
    specimen: Specimen, by: User, at: datetime, upload: UploadedFile | None, caption: str = ""
) -> Photo:
    """Keep a picture beside the number.

    It is read by its content, turned upright, made no longer than 2400 px, and written again as
    JPEG, so that place, device and time in its metadata are gone. Raises :class:`InputError` for
    what is no JPEG, PNG or WebP, too large, or broken.
    """
    if len(caption) > 200:
        raise InputError("Keep the caption under 200 characters.", "caption")
    picture = clean_picture(upload, LONGEST_SIDE)
    name = keep_picture(picture, FOLDER)
    history.note(
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


def remove_photo(specimen: Specimen, pk: int) -> None:
    """Take a picture off the specimen; its file stays, so that it can be put back."""
    Photo.objects.filter(specimen=specimen, pk=pk).delete()
