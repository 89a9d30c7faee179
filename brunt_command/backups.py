"""``backup`` and ``restore``: one file with the database and what was uploaded, proved by restoring it."""

import argparse
import json
import os
import shutil
import sys
import tarfile
import tempfile
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path
from typing import Any

from brunt_command import backup_files, environment, postgres, serving, settings, staged
from brunt_command.problem import Problem

FORMAT = 2
_DUMP, _MEDIA = "database.dump", "media"
_SCRATCH = "brunt_check"


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
    """Put a kept file in the place of one's own workshop; what is there now is kept beside."""
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
        was = serving.running(kind)
        serving.stop_web(kind)
        print("It is restored beside what is there now, checked, and swapped in …", flush=True)
        try:
            put_back(variables, manifest, folder)
        except Problem:
            if was:
                serving.again(kind, was)
            raise
    print("Restored, and brought up to this version.")
    say_kept(staged.place_of(variables))
    return serving.again(kind, was) if was else 0


def say_kept(place: staged.DataPlace) -> None:
    """Name what was replaced and still stands beside."""
    for before in staged.kept_before(place):
        name = before.name + (" --demo" if place.name == settings.DATABASES["demo"] else "")
        print(f"What was there before is kept as {before.name}.")
        print(f"  ./brunt bring-back {name} puts it back, ./brunt forget {name} deletes it")


def forget(arguments: list[str]) -> int:
    """Delete what a restore, an upgrade or a reset replaced and kept beside; without a name, list it."""
    parser = argparse.ArgumentParser(prog="./brunt forget", description=forget.__doc__)
    return _with_kept(parser, arguments, staged_forget)


def bring_back(arguments: list[str]) -> int:
    """Put what a restore, an upgrade or a reset replaced back in its place; without a name, list it."""
    parser = argparse.ArgumentParser(prog="./brunt bring-back", description=bring_back.__doc__)
    return _with_kept(parser, arguments, staged_bring_back)


def staged_forget(kind: str, place: staged.DataPlace, before: staged.DataPlace) -> int:
    """Delete one kept copy."""
    staged.clear(before)
    print(f"{before.name} is deleted.")
    return 0


def staged_bring_back(kind: str, place: staged.DataPlace, before: staged.DataPlace) -> int:
    """Swap one kept copy in."""
    was = serving.running(kind)
    serving.stop_web(kind)
    staged.swap_back(place, before)
    print(f"{before.name} is back in its place.")
    say_kept(place)
    return serving.again(kind, was) if was else 0


def _with_kept(
    parser: argparse.ArgumentParser,
    arguments: list[str],
    act: Callable[[str, staged.DataPlace, staged.DataPlace], int],
) -> int:
    parser.add_argument("name", nargs="?", help="which, as it is listed")
    parser.add_argument("--demo", action="store_true", help="of the demo instead")
    chosen = parser.parse_args(arguments)
    environment.ensure()
    place = staged.place_of(settings.environment(demo=chosen.demo))
    kept = {before.name: before for before in staged.kept_before(place)}
    if not chosen.name:
        say_kept(place)
        if not kept:
            print("Nothing is kept beside.")
        return 0
    if chosen.name not in kept:
        raise Problem(f"There is no kept {chosen.name}; without a name they are listed.")
    return act("demo" if chosen.demo else "own", place, kept[chosen.name])


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

    The dated ones lie beside each other: their uploads are stored once by their hash, in ``files``. One that is
    asked for by name holds everything. Raises :class:`Problem` for a disk without room, a folder that may
    not be written, and a file that does not restore to the same.
    """
    now = datetime.now(UTC)
    target = to or folder_of(kind) / now.strftime(backup_files.NAME)
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        backup_files.check_room(variables, target.parent)
        with tempfile.TemporaryDirectory(dir=target.parent) as scratch:
            made = _pack(
                variables,
                Path(scratch) / "kept.tar",
                now,
                None if to else backup_files.store_of(target),
            )
            (Path(scratch) / "kept.tar").chmod(0o600)
            os.replace(Path(scratch) / "kept.tar", target)
    except OSError as error:
        raise Problem(f"The backup could not be written to {target}: {error.strerror}.") from None
    made |= {"file": str(target), "bytes": target.stat().st_size, "at": now.isoformat()}
    second = backup_files.second_place() if to is None else None
    if to is None:
        backup_files.rotate(folder_of(kind), now)
    problem = backup_files.copy_to(second, target, now) if second else ""
    made |= {"second": str(second) if second else "", "problem": problem}
    note = settings.data(kind) / "last-backup.json"
    note.write_text(json.dumps(made))
    if problem:
        raise Problem(f"The backup is kept in {target}, but not in {second}: {problem}")
    return made


def _pack(
    variables: Mapping[str, str], target: Path, now: datetime, store: Path | None
) -> dict[str, Any]:
    url, dump = variables["DATABASE_URL"], target.with_name(_DUMP)
    with postgres.one_moment(url) as (snapshot, tables):
        asked = ["-Fc", f"--snapshot={snapshot}", "-f", str(dump)]
        postgres.run(url, "pg_dump", asked, "keeping the database")
    media = Path(variables["BRUNT_MEDIA"])
    if variables.get("BRUNT_STORAGE"):
        media = target.with_name(_MEDIA)
        media.mkdir()
        serving.run_management(dict(variables), "uploads", "out", str(media), quiet=True)
    found_files = sorted(media.rglob("*")) if media.is_dir() else []
    # Packages made for a day are made of what is kept anyway.
    files = [p for p in found_files if p.is_file() and p.relative_to(media).parts[0] != "made"]
    manifest: dict[str, Any] = {
        "brunt": FORMAT,
        "at": now.isoformat(),
        "tables": tables,
        "stored": store is not None,
        "files": {str(path.relative_to(media)): backup_files.file_hash(path) for path in files},
        "sha256": backup_files.file_hash(dump),
    }
    with tarfile.open(target, "w") as tar:
        text = json.dumps(manifest, indent=1).encode()
        info = tarfile.TarInfo(backup_files.MANIFEST)
        info.size, info.mtime = len(text), int(now.timestamp())
        tar.addfile(info, BytesIO(text))
        tar.add(dump, _DUMP)
        for path in files:
            name = str(path.relative_to(media))
            if store is None:
                tar.add(path, f"{_MEDIA}/{name}")
            else:
                backup_files.into_store(path, store, manifest["files"][name])
    found = _proved(variables, dump)
    if found != tables:
        wrong = next(t for t in sorted({*found, *tables}) if found.get(t) != tables.get(t))
        raise Problem(
            f"The backup does not restore to the same: {wrong} has {found.get(wrong)} rows and not "
            f"{tables.get(wrong)}. Nothing was kept; try again."
        )
    dump.unlink()
    return {"tables": tables, "rows": sum(tables.values()), "files": len(files)}


def _proved(variables: Mapping[str, str], dump: Path) -> dict[str, int]:
    """The rows a dump restores to, in a scratch database that is thrown away."""
    url = postgres.other(variables["DATABASE_URL"], _SCRATCH)
    postgres.regenerate(url)
    try:
        arguments = ["--no-owner", "-d", _SCRATCH, str(dump)]
        postgres.run(url, "pg_restore", arguments, "trying the backup")
        return postgres.counts(url)
    finally:
        postgres.take_away(url)


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
            manifest = json.loads((folder / backup_files.MANIFEST).read_text())
        except (tarfile.TarError, OSError, ValueError, EOFError) as error:
            raise Problem(f"{file} is no backup of Brunt ({error}).") from None
        if manifest.get("brunt", 0) > FORMAT:
            raise Problem(f"{file} was made by a later Brunt than this one: upgrade first.")
        dump = folder / _DUMP
        if not dump.is_file() or backup_files.file_hash(dump) != manifest["sha256"]:
            raise Problem(f"{file} is damaged: its database is not what was kept.")
        if manifest.get("stored"):
            backup_files.from_store(file, manifest, folder / _MEDIA)
        backup_files.check_files(file, manifest, folder / _MEDIA)
        yield manifest, folder


def restore_into(variables: Mapping[str, str], manifest: Mapping[str, Any], folder: Path) -> None:
    """Fill the empty database and folder of this environment from an unpacked backup, and compare.

    Raises :class:`Problem` when it does not come to the same rows or files.
    """
    url, media = variables["DATABASE_URL"], Path(variables["BRUNT_MEDIA"])
    arguments = ["--no-owner", "-d", postgres.name_of(url), str(folder / _DUMP)]
    postgres.run(url, "pg_restore", arguments, "restoring")
    found = postgres.counts(url)
    if found != manifest["tables"]:
        wrong = next(t for t in sorted({*found, *manifest["tables"]}) if found.get(t) != manifest["tables"].get(t))  # fmt: skip
        raise Problem(f"The restored table {wrong} has other rows than were kept.")
    if (folder / _MEDIA).is_dir():
        shutil.copytree(folder / _MEDIA, media, dirs_exist_ok=True)


def put_back(variables: Mapping[str, str], manifest: Mapping[str, Any], folder: Path) -> None:
    """Replace database and uploads by those of an unpacked backup: built beside, verified, swapped.

    What was there stays beside (:func:`staged.kept_before`). Raises :class:`Problem` and leaves everything as it
    was when the backup does not restore to the same, or its pages cannot be read.
    """
    place = staged.place_of(variables)
    with staged.built_beside(place) as new:
        there = new.variables(variables)
        restore_into(there, manifest, folder)
        if _is_brunt(new.url):
            serving.run_management(there, "prepare", "--no-demo", quiet=True)
            serving.run_management(there, "check_pages", quiet=True)
            serving.run_management(there, "house", "--accept", quiet=True)
        staged.swap_in(place, datetime.now(UTC))
    if variables.get("BRUNT_STORAGE"):
        (folder / _MEDIA).mkdir(exist_ok=True)
        serving.run_management(dict(variables), "uploads", "in", str(folder / _MEDIA), quiet=True)


def _is_brunt(url: str) -> bool:
    return postgres.sql(url, "select to_regclass('people_workshop') is not null") == "t"
