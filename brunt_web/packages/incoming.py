"""A package read: every name, size, column, cell and key checked before anything is stored."""

import csv
import io
import json
import re
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from hashlib import sha256
from pathlib import PurePosixPath
from typing import IO, Any

from django.db import models

from brunt_core.errors import InputError
from brunt_web.packages import cells
from brunt_web.packages.earlier import (
    HEAD,
    WITH_VERSIONS,
    EarlierValue,
    read_changes,
    read_versions,
)
from brunt_web.packages.older import Older
from brunt_web.packages.tables import (
    ADDED,
    FILES,
    FORMAT,
    LATER_COLUMNS,
    TABLES,
    Table,
    columns,
    is_person,
    target,
)

MOST_BYTES, MOST_FILES, MOST_PACKED = 6_000_000_000, 60_000, 4_000_000_000
MOST_ROWS = 3_000_000
_NAME = re.compile(
    r"datapackage\.json|(data|flat)/[a-z_0-9]+\.csv|curves/[a-z_0-9]+\.bin|photos/[a-z_0-9]+\.(jpg|jpeg|png|webp)"
)


class Parts(Mapping[str, bytes]):
    """The files inside, each unpacked when it is asked for: a package takes memory for its tables alone."""

    def __init__(self, file: zipfile.ZipFile, names: Iterable[str]) -> None:
        self.file, self.names = file, dict.fromkeys(names)

    def __getitem__(self, name: str) -> bytes:
        """What a file holds. Raises :class:`InputError` where it is more or less than it says."""
        if name not in self.names:
            raise KeyError(name)
        info = self.file.getinfo(name)
        with self.file.open(info) as part:
            found = part.read(info.file_size + 1)
        if len(found) != info.file_size:
            raise InputError("The package holds more than it says.", "file")
        return found

    def __iter__(self) -> Iterator[str]:
        return iter(self.names)

    def __len__(self) -> int:
        return len(self.names)

    def sum_of(self, name: str) -> str:
        """A file's SHA-256, read block by block."""
        known = sha256()
        with self.file.open(name) as part:
            while block := part.read(1 << 20):
                known.update(block)
        return known.hexdigest()

    def only(self, *folders: str) -> "Parts":
        """The files of some folders."""
        return Parts(self.file, (n for n in self.names if n.startswith(folders)))


@dataclass
class Package:
    """What a package holds: its manifest, rows by table with values read, and its files."""

    manifest: dict[str, Any]
    rows: dict[str, list[dict[str, Any]]] = field(default_factory=dict)
    files: Mapping[str, bytes] = field(default_factory=dict)
    levels: list[tuple[int, int]] = field(default_factory=list)
    people: list[str] = field(default_factory=list)
    changes: list[EarlierValue] = field(default_factory=list)

    @property
    def title(self) -> str:
        """Name."""
        return str(self.manifest.get("title") or "A package")[:200]

    @property
    def not_included(self) -> list[str]:
        """What could not be included, as it was named when the package was made."""
        own = self.manifest["brunt"]
        told = own.get("not_included") or own.get("left_out")
        return [str(t)[:300] for t in told[:50]] if isinstance(told, list) else []

    @property
    def counts(self) -> dict[str, int]:
        """How many rows each table has, the empty ones excluded."""
        return {name: len(rows) for name, rows in self.rows.items() if rows}


def read_package(content: bytes | IO[bytes]) -> Package:
    """Read and check a package; nothing is stored. Its photos and curves are read when they are stored.

    Raises :class:`InputError`, in one sentence, for a file that is no zip, damaged, of another kind,
    newer, too large, or holds names or cells that cannot be.
    """
    source = io.BytesIO(content) if isinstance(content, bytes) else content
    if source.seek(0, io.SEEK_END) > MOST_PACKED:
        raise InputError("The package is larger than 4 GB.", "file")
    try:
        file = zipfile.ZipFile(source)
        parts = _parts(file)
    except InputError:
        raise
    except Exception:  # whatever a broken head of a zip file leads to
        raise InputError("This is not a zip file, or it is damaged.", "file") from None
    try:
        return _read(parts)
    except (zipfile.BadZipFile, zipfile.LargeZipFile, zlib.error, EOFError, NotImplementedError, OSError, RuntimeError):  # fmt: skip
        raise InputError("This is not a zip file, or it is damaged.", "file") from None


def _read(parts: Parts) -> Package:
    package = Package(_manifest(parts))
    _check_parts(package.manifest["brunt"], parts)
    package.files = parts.only("curves/", "photos/")
    named: Mapping[str, bytes] = Older(parts) if package.manifest["brunt"]["format"] < 4 else parts
    package.people = _people(named)
    for table in TABLES:
        package.rows[table.name] = _rows(table, named, len(package.people))
    package.levels = _levels(named)
    package.changes = _changes(package, named)
    _keys(package)
    _used(package)
    return package


def _parts(file: zipfile.ZipFile) -> Parts:
    """Every file inside; names, number and size looked at before anything is unpacked."""
    every = file.infolist()
    if len(every) > MOST_FILES:
        raise InputError("The package holds too many files.", "file")
    names = [i.filename for i in every]
    if "datapackage.json" not in names:
        raise InputError("This is not a data package: it has no datapackage.json.", "file")
    if len(set(names)) != len(names):
        raise InputError("The package holds a file twice.", "file")
    odd = next((n for n in names if not _NAME.fullmatch(n) or ".." in PurePosixPath(n).parts), None)
    if odd is not None:
        raise InputError(f"The package holds a file that does not belong there: “{odd[:60]}”.", "file")  # fmt: skip
    if sum(i.file_size for i in every) > MOST_BYTES:
        raise InputError("The package would unpack to more than 6 GB.", "file")
    if any(i.file_size > 1e6 and i.file_size > 400 * max(i.compress_size, 1) for i in every):
        raise InputError("The package is packed so tightly that it cannot be what it says.", "file")
    return Parts(file, names)


def _manifest(parts: Parts) -> dict[str, Any]:
    try:
        manifest = json.loads(parts["datapackage.json"])
    except (ValueError, RecursionError):
        raise InputError("The datapackage.json of the package cannot be read.", "file") from None
    own = manifest.get("brunt") if isinstance(manifest, dict) else None
    if not isinstance(own, dict) or type(own.get("format")) is not int or own["format"] < 1:
        raise InputError("This data package was not made by Brunt.", "file")
    if own["format"] > FORMAT:
        raise InputError(
            f"This package has format version {own['format']}, newer than this Brunt can read ({FORMAT}).",
            "file",
        )
    return manifest


def _check_parts(own: dict[str, Any], parts: Parts) -> None:
    """Every file is what was packed, none is missing and none came in besides; a package of the first form says nothing."""
    if own["format"] < 2:
        return
    told = own.get("sha256")
    if not isinstance(told, dict):
        raise InputError("The package does not say what its files are; it is damaged.", "file")
    there = set(parts) - {"datapackage.json"}
    if besides := sorted(there - set(told)):
        raise InputError(
            f"The package holds a file that was not packed with it: “{besides[0]}”.", "file"
        )
    for name, known in told.items():
        if name not in parts:
            raise InputError(f"The file {name} is missing from the package.", "file")
        if parts.sum_of(name) != known:
            raise InputError(f"The file {name} of the package is not what was packed: it was changed or damaged.", "file")  # fmt: skip


def _table(parts: Mapping[str, bytes], name: str, head: list[str]) -> list[list[str]]:
    """The rows of a table under this heading; columns that an older package lacks are empty."""
    content = parts.get(f"data/{name}.csv")
    if content is None and name in ADDED:
        return []
    if content is None:
        raise InputError(f"The table {name} is missing from the package.", "file")
    try:
        rows = list(csv.reader(io.StringIO(content.decode(), newline="")))
    except (UnicodeDecodeError, csv.Error):
        raise InputError(f"The table {name} of the package cannot be read.", "file") from None
    later = LATER_COLUMNS.get(name, set())
    if rows and rows[0] != head and rows[0] == [h for h in head if h not in later or h in rows[0]]:
        at = {h: i for i, h in enumerate(rows[0])}
        filled = [[row[at[h]] if h in at else "" for h in head] for row in rows[1:] if len(row) == len(at)]  # fmt: skip
        rows = [head, *filled] if len(filled) == len(rows) - 1 else rows
    if not rows or rows[0] != head:
        raise InputError(f"The table {name} of the package has other columns than it must.", "file")
    if len(rows) > MOST_ROWS:
        raise InputError(f"The table {name} of the package has too many rows.", "file")
    for i, row in enumerate(rows[1:], 1):
        if len(row) != len(head):
            raise InputError(f"Row {i} of {name} has {len(row)} cells and not {len(head)}.", "file")
    return rows[1:]


def _rows(table: Table, parts: Mapping[str, bytes], people: int) -> list[dict[str, Any]]:
    fields = list(columns(table))
    found = []
    for i, row in enumerate(_table(parts, table.name, ["id", *(f.name for f in fields)]), 1):
        if row[0] != str(i):
            raise InputError(f"Row {i} of {table.name} is numbered {row[0][:12]}.", "file")
        values = {}
        for f, text in zip(fields, row[1:], strict=True):
            try:
                values[f.name] = _cell(table, f, text, people, parts)
            except InputError as error:
                raise InputError(f"{table.name}, row {i}, {f.name}: {error.sentence}", "file") from None  # fmt: skip
        found.append(values)
    return found


def _cell(table: Table, f: models.Field, text: str, people: int, parts: Mapping[str, bytes]) -> Any:
    if is_person(f):
        number = cells.read_cell(f, text)
        if number is not None and not 1 <= number <= people:
            raise InputError("names a person who is not in the package")
        return number
    stored = isinstance(f, models.BinaryField) or (table.model, f.name) in FILES
    if stored:
        if text and text not in parts:
            raise InputError("names a file that is not in the package")
        if not text and isinstance(f, models.BinaryField):
            raise InputError("is empty")
        return text
    return cells.read_cell(f, text)


def _people(parts: Mapping[str, bytes]) -> list[str]:
    rows = _table(parts, "people", ["id", "name"])
    if [r[0] for r in rows] != [str(i) for i in range(1, len(rows) + 1)]:
        raise InputError("The people of the package are not numbered in order.", "file")
    return [r[1][:150] for r in rows]


def _levels(parts: Mapping[str, bytes]) -> list[tuple[int, int]]:
    rows = _table(parts, "condition_levels", ["condition", "level"])
    try:
        return [(int(a), int(b)) for a, b in rows]
    except ValueError:
        raise InputError("The table condition_levels holds what is no number.", "file") from None


def _changes(package: Package, parts: Mapping[str, bytes]) -> list[EarlierValue]:
    """What was changed; of a package of format 3 or before, what differs between earlier versions."""
    sizes = {name: len(rows) for name, rows in package.rows.items()}
    people = len(package.people)
    if package.manifest["brunt"]["format"] >= 4:
        return read_changes(_table(parts, "changes", HEAD), sizes, people)
    found: list[EarlierValue] = []
    for name in WITH_VERSIONS:
        content = parts.get(f"data/{name}_history.csv")
        if content is not None:
            found += read_versions(name, content, sizes, people)
    return sorted(found, key=lambda v: v.at)


def _keys(package: Package) -> None:
    """Every key must lead to a row of the package."""
    size = {name: len(rows) for name, rows in package.rows.items()}
    for table in TABLES:
        for f in columns(table):
            to = target(f)
            if to is None:
                continue
            for i, row in enumerate(package.rows[table.name], 1):
                number = row[f.name]
                if number is not None and not 1 <= number <= size[to.name]:
                    raise InputError(
                        f"{table.name}, row {i}, {f.name}: leads to {to.name} {number}, which is not there.", "file"
                    )  # fmt: skip
    for condition, level in package.levels:
        if not (1 <= condition <= size["conditions"] and 1 <= level <= size["levels"]):
            raise InputError("condition_levels leads to a row that is not there.", "file")


def _used(package: Package) -> None:
    """A package without a campaign is none, and one with files that no row refers to is not what it seems."""
    if not package.rows["campaigns"]:
        raise InputError("The package holds no campaign.", "file")
    named = {
        row[f.name]
        for table in TABLES
        for f in columns(table)
        if isinstance(f, models.BinaryField) or (table.model, f.name) in FILES
        for row in package.rows[table.name]
    }
    if stray := sorted(set(package.files) - named):
        raise InputError(f"No row of the package refers to its file “{stray[0]}”.", "file")
