"""Whether a database and the files that are served are as this checkout wants them, asked without Django."""

import hashlib
from collections.abc import Iterator
from pathlib import Path

from brunt_command import postgres
from brunt_command.places import ROOT, STATE
from brunt_command.problem import Problem

_MARK = "Brunt prepared this with "


def _watched() -> Iterator[Path]:
    """What a database's tables and the served files are made from."""
    web = ROOT / "brunt_web"
    yield ROOT / "requirements" / "runtime.txt"
    yield web / "settings.py"
    yield from sorted((web / "changes").glob("*.py"))
    yield from sorted(web.glob("*/migrations/*.py"))
    yield from sorted(p for p in web.glob("*/static/**/*") if p.is_file())


def files_mark(demo: bool) -> str:
    """A short mark of all that, by name, size and time."""
    told = hashlib.sha256(str((ROOT, STATE, demo)).encode())
    for path in _watched():
        seen = path.stat()
        told.update(f"{path.relative_to(ROOT)} {seen.st_size} {seen.st_mtime_ns}".encode())
    return told.hexdigest()[:20]


def is_prepared(url: str, demo: bool) -> bool:
    """Whether the database says that it was prepared from what lies here now."""
    ask = "select shobj_description(oid, 'pg_database') from pg_database where datname = current_database()"
    try:
        said = postgres.sql(url, ask)
    except Problem:
        return False
    return said == _MARK + files_mark(demo) and (STATE / "static" / "staticfiles.json").exists()


def note_prepared(url: str, demo: bool) -> None:
    """Say so in the database; where one may not, it is prepared again next time."""
    name = postgres.name_of(url).replace('"', '""')
    try:
        postgres.sql(url, f"comment on database \"{name}\" is '{_MARK}{files_mark(demo)}'")
    except Problem:
        return
