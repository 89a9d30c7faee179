"""Uploads out of whatever storage they lie in into a folder, and back: for backups."""

from collections.abc import Iterator
from pathlib import Path
from shutil import copyfileobj

from django.core.files import File
from django.core.files.storage import Storage, default_storage
from django.core.management.base import BaseCommand, CommandError, CommandParser


class Command(BaseCommand):
    """``uploads out FOLDER`` copies every one there; ``uploads in FOLDER`` puts these in their place."""

    help = "Copy the uploads out of the storage into a folder, or replace them by those of one."

    def add_arguments(self, parser: CommandParser) -> None:
        """Which way, and the folder."""
        parser.add_argument("way", choices=("out", "in"))
        parser.add_argument("folder", type=Path)

    def handle(self, *args: object, way: str, folder: Path, **options: object) -> None:
        """Copy them."""
        try:
            names = list(_names(default_storage, ""))
        except NotImplementedError:
            raise CommandError("this storage cannot say what lies in it; keep its files by its own means") from None  # fmt: skip
        if way == "out":
            for name in names:
                to = folder / name
                to.parent.mkdir(parents=True, exist_ok=True)
                with default_storage.open(name) as kept, to.open("wb") as file:
                    copyfileobj(kept, file)
            return
        wanted = {p.relative_to(folder).as_posix(): p for p in folder.rglob("*") if p.is_file()}
        for name in names:
            default_storage.delete(name)
        for name, path in wanted.items():
            with path.open("rb") as file:
                default_storage.save(name, File(file))


def _names(storage: Storage, within: str) -> Iterator[str]:
    """The names of all files, those in folders too."""
    try:
        folders, files = storage.listdir(within)
    except FileNotFoundError:
        return
    start = f"{within}/" if within else ""
    yield from (f"{start}{name}" for name in files)
    for folder in folders:
        yield from _names(storage, f"{start}{folder}")
