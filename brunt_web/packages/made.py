"""Packages that were made behind: files in the storage, of one workshop, for a day."""

from datetime import timedelta
from typing import IO
from uuid import uuid4

from django.core.files.base import File
from django.core.files.storage import default_storage
from django.utils import timezone

from brunt_web.interface.pictures import kept_file
from brunt_web.people.models import Workshop

_FOLDER, _KEPT = "made", timedelta(days=1)


def keep_made(workshop: Workshop, content: IO[bytes]) -> str:
    """Put it into the storage; the name by which this workshop finds it. Older ones are thrown away."""
    throw_away()
    name = uuid4().hex
    default_storage.save(f"{_FOLDER}/{workshop.pk}-{name}.zip", File(content))
    return name


def made_file(workshop: Workshop, name: str) -> IO[bytes] | None:
    """The file, where it was made for this workshop and is not older than a day."""
    throw_away()
    return kept_file(_FOLDER, f"{workshop.pk}-{name}.zip")


def throw_away() -> None:
    """Delete what is older than a day."""
    if not default_storage.exists(_FOLDER):
        return
    for name in default_storage.listdir(_FOLDER)[1]:
        place = f"{_FOLDER}/{name}"
        if default_storage.get_modified_time(place) < timezone.now() - _KEPT:
            default_storage.delete(place)
