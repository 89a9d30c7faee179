"""The files of backups: which of the dated ones stay, uploads stored once by their hash, a second place, room on the disk."""

import hashlib
import json
import os
import shutil
import tarfile
from collections.abc import Mapping
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from brunt_command import postgres
from brunt_command.problem import Problem

MANIFEST = "manifest.json"
NAME = "brunt-%Y%m%d-%H%M%S.tar"
# How many are kept: the last of each of so many days, weeks and months.
DAYS, WEEKS, MONTHS = 7, 5, 12


def store_of(dated: Path) -> Path:
    """Where the uploads of the dated backups lie, each once, by the hash of what it holds."""
    return dated.parent / "files"


def second_place() -> Path | None:
    """A further folder for the dated backups, on another disk or machine (``BRUNT_BACKUP_TO``)."""
    said = os.environ.get("BRUNT_BACKUP_TO", "").strip()
    return Path(said).expanduser().resolve() if said else None


def copy_to(second: Path, dated: Path, now: datetime) -> str:
    """Copy a dated backup and what it refers to; what went wrong, empty when nothing did."""
    try:
        second.mkdir(parents=True, exist_ok=True)
        for name in manifest_of(dated)["files"].values():
            into_store(stored(store_of(dated), name), second / "files", name)
        part = second / f".{dated.name}.part"
        shutil.copyfile(dated, part)
        part.chmod(0o600)
        os.replace(part, second / dated.name)
        rotate(second, now)
    except OSError as error:
        return f"{error.strerror or error}."
    return ""


def stored(store: Path, name: str) -> Path:
    return store / name[:2] / name


def into_store(path: Path, store: Path, name: str) -> None:
    """Put a file into the store under its hash, where it is not there yet."""
    target = stored(store, name)
    if target.exists():
        return
    target.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    part = target.with_suffix(".part")
    shutil.copyfile(path, part)
    os.replace(part, target)


def manifest_of(file: Path) -> dict[str, Any]:
    """The manifest of a kept file; empty for one that cannot be read."""
    try:
        with tarfile.open(file) as tar:
            part = tar.extractfile(MANIFEST)
            found: dict[str, Any] = json.loads(part.read()) if part else {}
    except (tarfile.TarError, OSError, ValueError, KeyError, EOFError):
        return {}
    return found


def check_room(variables: Mapping[str, str], folder: Path) -> None:
    """Refuse to begin where the disk has no room for the database and its uploads. Raises :class:`Problem`."""
    media = Path(variables["BRUNT_MEDIA"])
    files = sum(p.stat().st_size for p in media.rglob("*") if p.is_file()) if media.is_dir() else 0
    needed = postgres.database_size(variables["DATABASE_URL"]) + files
    free = shutil.disk_usage(folder).free
    if free < needed:
        raise Problem(
            f"There is no room for a backup in {folder}: it may take {needed / 1e9:.1f} GB, and {free / 1e9:.1f} GB "
            "are free. Nothing was kept; free some space or name another folder."
        )


def rotate(folder: Path, now: datetime) -> list[Path]:
    """Delete the dated backups that no rule keeps; those that were deleted."""
    dated = []
    for path in folder.glob("brunt-*.tar"):
        try:
            dated.append((datetime.strptime(path.name, NAME).replace(tzinfo=UTC), path))
        except ValueError:
            continue
    dated.sort(reverse=True)
    kept: set[Path] = {path for _, path in dated[:1]}
    for count, key in ((DAYS, "%Y-%j"), (WEEKS, "%G-%V"), (MONTHS, "%Y-%m")):
        seen: dict[str, Path] = {}
        for at, path in dated:
            seen.setdefault(at.strftime(key), path)
        kept |= set(list(seen.values())[:count])
    gone = [path for _, path in dated if path not in kept]
    for path in gone:
        path.unlink(missing_ok=True)
    if gone:
        _prune(folder / "files", [path for _, path in dated if path in kept])
    return gone


def _prune(store: Path, dated: list[Path]) -> None:
    """Delete what no dated backup refers to any more; nothing where one of them cannot be read."""
    manifests = [manifest_of(path) for path in dated]
    if not all(manifests):
        return
    wanted = {
        name for m in manifests if isinstance(m["files"], dict) for name in m["files"].values()
    }
    for path in store.glob("*/*"):
        if path.name not in wanted:
            path.unlink(missing_ok=True)


def check_files(file: Path, manifest: Mapping[str, Any], media: Path) -> None:
    """Every upload is what was kept; files of the first form have no hashes of their own."""
    known = manifest["files"]
    if not isinstance(known, dict):
        return
    for name, told in known.items():
        part = media / name
        if not part.is_file() or file_hash(part) != told:
            raise Problem(f"{file} is damaged: its file {name} is not what was kept.")


def from_store(file: Path, manifest: Mapping[str, Any], media: Path) -> None:
    """The uploads of a dated backup, from the store beside it. Raises :class:`Problem` where one is missing."""
    for name, told in manifest["files"].items():
        kept = stored(store_of(file), told)
        if not kept.is_file():
            raise Problem(f"{file} is damaged: its file {name} is not in {store_of(file)}.")
        to = media / name
        if not to.resolve().is_relative_to(media.resolve()):
            raise Problem(f"{file} is damaged: it names a file outside its folder.")
        to.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(kept, to)


def file_hash(path: Path) -> str:
    with open(path, "rb") as content:
        return hashlib.file_digest(content, "sha256").hexdigest()
