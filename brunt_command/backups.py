"""``backup`` and ``restore``: one file with the database and what was uploaded, proved by restoring it."""

import argparse
import hashlib
import json
import os
import shutil
import sys
import tarfile
import tempfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path
from typing import Any

from brunt_command import environment, postgres, serving, settings
from brunt_command.problem import Problem

FORMAT = 1
_DUMP, _MANIFEST, _MEDIA = "database.dump", "manifest.json", "media"
_SCRATCH = "brunt_check"
# How many are kept: the last of each of so many days, weeks and months.
DAYS, WEEKS, MONTHS = 7, 5, 12
_NAME = "brunt-%Y%m%d-%H%M%S.tar"


def backup(arguments: list[str]) -> int:
    """Keep everything of one's own workshop in one file, and prove it by restoring it into a scratch database."""
    parser = argparse.ArgumentParser(prog="./brunt backup", description=backup.__doc__)
    parser.add_argument("file", nargs="?", help="where to; among the dated ones when not given")
    parser.add_argument("--demo", action="store_true", help="of the demo instead")
    parser.add_argument("--quiet", action="store_true", help="say nothing when it goes well")
    chosen = parser.parse_args(arguments)
    environment.ensure()
    kind = "demo" if chosen.demo else "own"
    variables = settings.environment(demo=chosen.demo)
    made = keep(kind, variables, Path(chosen.file) if chosen.file else None)
    if not chosen.quiet:
        size = made["bytes"] / 1e6
        print(
            f"Kept in {made['file']} ({size:.1f} MB, {made['rows']} rows in {len(made['tables'])} tables, "
            f"{made['files']} files), restored into a scratch database and found the same."
        )
    return 0


def restore(arguments: list[str]) -> int:
    """Put a kept file in the place of one's own workshop; what is there now is kept first."""
    parser = argparse.ArgumentParser(prog="./brunt restore", description=restore.__doc__)
    parser.add_argument("file")
    parser.add_argument("--demo", action="store_true", help="into the demo instead")
    parser.add_argument("--yes", action="store_true", help="do not ask")
    chosen = parser.parse_args(arguments)
    environment.ensure()
    kind = "demo" if chosen.demo else "own"
    with unpacked(Path(chosen.file)) as (manifest, folder):
        variables = settings.environment(demo=chosen.demo)
        when = manifest["at"][:16].replace("T", " ")
        print(f"This file was kept on {when} UTC: {sum(manifest['tables'].values())} rows.")
        if not (chosen.yes or _agreed()):
            print("Nothing was changed.")
            return 1
        if postgres.counts(variables["DATABASE_URL"]):
            print("What is there now is kept first …", flush=True)
            before = keep(kind, variables, None)
            print(f"It is in {before['file']}.")
        was = serving.running(kind)
        serving.stop_web(kind)
        put_back(variables, manifest, folder)
    serving.manage(variables, "prepare", "--no-demo", quiet=True)
    print("Restored, and brought up to this version.")
    return serving.again(kind, was) if was else 0


def _agreed() -> bool:
    if not sys.stdin or not sys.stdin.isatty():
        print("What is there now would be replaced; say --yes to do it without asking.")
        return False
    answer = input("What is there now is replaced by it. Go on? [y/N] ")
    return answer.strip().lower() in ("y", "yes")


# -- keeping ------------------------------------------------------------------------------------


def folder_of(kind: str) -> Path:
    """Where the dated backups lie."""
    found = settings.data(kind) / "backups"
    found.mkdir(parents=True, exist_ok=True, mode=0o700)
    return found


def keep(kind: str, variables: Mapping[str, str], to: Path | None) -> dict[str, Any]:
    """Dump, pack, prove, note when it was good, and rotate the dated ones; what came of it.

    Raises :class:`Problem` for a full disk, a folder that may not be written, and a file that does not
    restore to the same.
    """
    now = datetime.now(UTC)
    target = to or folder_of(kind) / now.strftime(_NAME)
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=target.parent) as scratch:
            made = _pack(variables, Path(scratch) / "kept.tar", now)
            (Path(scratch) / "kept.tar").chmod(0o600)
            os.replace(Path(scratch) / "kept.tar", target)
    except OSError as error:
        raise Problem(f"The backup could not be written to {target}: {error.strerror}.") from None
    made |= {"file": str(target), "bytes": target.stat().st_size, "at": now.isoformat()}
    if to is None:
        rotate(folder_of(kind), now)
    note = settings.data(kind) / "last-backup.json"
    note.write_text(json.dumps(made))
    return made


def _pack(variables: Mapping[str, str], target: Path, now: datetime) -> dict[str, Any]:
    url, dump = variables["DATABASE_URL"], target.with_name(_DUMP)
    tables = postgres.counts(variables["DATABASE_URL"])
    postgres.run(url, "pg_dump", ["-Fc", "-f", str(dump)], "keeping the database")
    media = Path(variables["BRUNT_MEDIA"])
    if variables.get("BRUNT_STORAGE"):
        media = target.with_name(_MEDIA)
        media.mkdir()
        serving.manage(dict(variables), "uploads", "out", str(media), quiet=True)
    files = [p for p in sorted(media.rglob("*")) if p.is_file()] if media.is_dir() else []
    manifest = {
        "brunt": FORMAT,
        "at": now.isoformat(),
        "tables": tables,
        "files": len(files),
        "sha256": hashlib.sha256(dump.read_bytes()).hexdigest(),
    }
    with tarfile.open(target, "w") as tar:
        text = json.dumps(manifest, indent=1).encode()
        info = tarfile.TarInfo(_MANIFEST)
        info.size, info.mtime = len(text), int(now.timestamp())
        tar.addfile(info, BytesIO(text))
        tar.add(dump, _DUMP)
        for path in files:
            tar.add(path, f"{_MEDIA}/{path.relative_to(media)}")
    found = _proved(variables, dump)
    if found != tables:
        wrong = next(t for t in sorted({*found, *tables}) if found.get(t) != tables.get(t))
        raise Problem(
            f"The backup does not restore to the same: {wrong} has {found.get(wrong)} rows and not "
            f"{tables.get(wrong)}. If somebody was entering results, try again."
        )
    dump.unlink()
    return {"tables": tables, "rows": sum(tables.values()), "files": len(files)}


def _proved(variables: Mapping[str, str], dump: Path) -> dict[str, int]:
    """The rows a dump restores to, in a scratch database that is thrown away."""
    url = postgres.other(variables["DATABASE_URL"], _SCRATCH)
    postgres.make_anew(url)
    try:
        arguments = ["--no-owner", "-d", _SCRATCH, str(dump)]
        postgres.run(url, "pg_restore", arguments, "trying the backup")
        return postgres.counts(url)
    finally:
        postgres.take_away(url)


def rotate(folder: Path, now: datetime) -> list[Path]:
    """Delete the dated backups that no rule keeps; those that were deleted."""
    dated = []
    for path in folder.glob("brunt-*.tar"):
        try:
            dated.append((datetime.strptime(path.name, _NAME).replace(tzinfo=UTC), path))
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
    return gone


def last_good(kind: str) -> dict[str, Any] | None:
    """What is noted of the last backup that was proved."""
    try:
        found: dict[str, Any] = json.loads((settings.data(kind) / "last-backup.json").read_text())
    except (OSError, ValueError):
        return None
    return found


# -- restoring ----------------------------------------------------------------------------------


@contextmanager
def unpacked(file: Path) -> Iterator[tuple[dict[str, Any], Path]]:
    """A kept file's manifest, and the folder with its parts; checked.

    Raises :class:`Problem` for what is no backup, one of a later form, or one that was changed.
    """
    if not file.is_file():
        raise Problem(f"There is no file {file}.")
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        try:
            with tarfile.open(file) as tar:
                tar.extractall(folder, filter="data")
            manifest = json.loads((folder / _MANIFEST).read_text())
        except (tarfile.TarError, OSError, ValueError, EOFError) as error:
            raise Problem(f"{file} is no backup of Brunt ({error}).") from None
        if manifest.get("brunt", 0) > FORMAT:
            raise Problem(f"{file} was made by a later Brunt than this one: upgrade first.")
        dump = folder / _DUMP
        if (
            not dump.is_file()
            or hashlib.sha256(dump.read_bytes()).hexdigest() != manifest["sha256"]
        ):
            raise Problem(f"{file} is damaged: its database is not what was kept.")
        yield manifest, folder


def put_back(variables: Mapping[str, str], manifest: Mapping[str, Any], folder: Path) -> None:
    """Replace database and uploads by those of an unpacked backup.

    Raises :class:`Problem` when it does not come to the same rows.
    """
    url = variables["DATABASE_URL"]
    postgres.make_anew(url)
    arguments = ["--no-owner", "-d", postgres.name_of(url), str(folder / _DUMP)]
    postgres.run(url, "pg_restore", arguments, "restoring")
    found = postgres.counts(url)
    if found != manifest["tables"]:
        raise Problem("The restored database has other rows than were kept; restore it again.")
    if variables.get("BRUNT_STORAGE"):
        (folder / _MEDIA).mkdir(exist_ok=True)
        serving.manage(dict(variables), "uploads", "in", str(folder / _MEDIA), quiet=True)
        return
    media = Path(variables["BRUNT_MEDIA"])
    aside = media.with_name(media.name + ".before")
    shutil.rmtree(aside, ignore_errors=True)
    if media.exists():
        media.rename(aside)
    shutil.copytree(folder / _MEDIA, media) if (folder / _MEDIA).is_dir() else media.mkdir(parents=True)  # fmt: skip
    shutil.rmtree(aside, ignore_errors=True)
