"""A picture decoded: by its content, turned upright, made small. Works without the site, in a bounded process."""

import io
from typing import Any

from PIL import Image, ImageOps, UnidentifiedImageError

from brunt_core.errors import InputError

MOST_PIXELS = 60_000_000
_KINDS = ("JPEG", "PNG", "WEBP")
_HEIC = (b"ftypheic", b"ftypheix", b"ftypmif1", b"ftyphevc")


def decoded(content: bytes, longest: int) -> tuple[tuple[int, int], bytes]:
    """Size and RGB bytes of a picture, at most ``longest`` pixels a side.

    Raises :class:`InputError` for what is no JPEG, PNG or WebP, has too many pixels, or is broken.
    """
    try:
        with Image.open(io.BytesIO(content), formats=_KINDS) as held:
            if held.width * held.height > MOST_PIXELS:
                raise InputError("The picture has more than 60 million pixels.", "photo")
            # A JPEG can be decoded at a half, a quarter or an eighth: a tenth of the memory and time.
            held.draft("RGB", (longest, longest))
            small: Any = held
            if max(held.size) > 2 * longest:
                small = held.reduce(max(held.size) // longest)
            upright = ImageOps.exif_transpose(small).convert("RGB")
    except InputError:
        raise
    except Image.DecompressionBombError:
        raise InputError("The picture has more than 60 million pixels.", "photo") from None
    except UnidentifiedImageError:
        raise InputError(_what_it_is(content), "photo") from None
    except (OSError, SyntaxError, ValueError):
        said = "The picture is damaged or its end is missing; send it again, or save it again."
        raise InputError(said, "photo") from None
    upright.thumbnail((longest, longest))
    return upright.size, upright.tobytes()


def _what_it_is(content: bytes) -> str:
    """Why a file is none of the pictures that are read, by its first bytes."""
    if content[4:12] in _HEIC:
        return (
            "This is a HEIC picture, which is not read; save it as JPEG, or set the camera to JPEG."
        )
    return "This file is not a JPEG, PNG or WebP picture."
