"""Pictures as they come and as they are kept: read by content, drawn again, in Django's storage."""

import io
from typing import IO, Any
from uuid import uuid4

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.http import FileResponse, Http404
from PIL import Image

from brunt_core.errors import InputError
from brunt_web.interface.bounded import read_bounded
from brunt_web.interface.decoding import decoded

MOST_BYTES, AT_ONCE = 40_000_000, 16_000_000
_ENDINGS = {"JPEG": "jpg", "PNG": "png"}


def clean_picture(file: Any, longest: int) -> Image.Image:
    """A picture turned upright, at most ``longest`` pixels a side, with nothing of its metadata left.

    It is read by its content, not its name. Raises :class:`InputError` for no file, for what is no JPEG,
    PNG or WebP, too large (40 MB, 60 million pixels), or broken.
    """
    if file is None:
        raise InputError("Choose a picture first.", "photo")
    if (file.size or 0) > MOST_BYTES:
        raise InputError("The picture is larger than 40 MB; send a smaller one.", "photo")
    file.seek(0)
    size, content = read_bounded(decoded, file.read(), longest)
    return Image.frombytes("RGB", size, content)


def picture_bytes(picture: Image.Image, kind: str = "JPEG") -> bytes:
    """A picture as a file's content."""
    out = io.BytesIO()
    picture.save(out, kind, quality=88)
    return out.getvalue()


def keep_picture(picture: Image.Image, folder: str, kind: str = "JPEG") -> str:
    """Put it into the storage under a new name; returns the name within its folder."""
    name = f"{uuid4().hex}.{_ENDINGS[kind]}"
    default_storage.save(f"{folder}/{name}", ContentFile(picture_bytes(picture, kind)))
    return name


def kept_file(folder: str, name: str) -> IO[bytes] | None:
    """A kept file opened for reading; ``None`` where it is not in the storage."""
    place = f"{folder}/{name}"
    return default_storage.open(place, "rb") if name and default_storage.exists(place) else None


def shown_file(folder: str, name: str, absent: str, kind: str = "image/jpeg") -> FileResponse:
    """A kept file as an answer. Raises :class:`Http404` with the sentence where it is not there."""
    file = kept_file(folder, name)
    if file is None:
        raise Http404(absent)
    return FileResponse(file, content_type=kind)
