"""Commands that replace data: what is new is built beside, verified and swapped in; what was there stays until told otherwise."""

import json
import shutil
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from brunt_command import postgres
from brunt_command.problem import Problem

# What stands beside a database and its files: NAME_new while it is built, NAME_before_TIME when it was replaced.
_NEW, _BEFORE, _STAMP = "_new", "_before_", "%Y%m%d_%H%M%S"


@dataclass(frozen=True)
class DataPlace:
    """A database by its address, and the folder of its uploads."""

    url: str
    media: Path

    @property
    def name(self) -> str:
        """The database's name."""
        return postgres.name_of(self.url)

    @property
    def journal(self) -> Path:
        """Where a swap that has begun is written down, so that one that was cut short is finished."""
        return self.media.with_name(f"{self.media.name}.swap.json")

    def beside(self, ending: str) -> "DataPlace":
        """The same beside it, under a name with this ending."""
        return DataPlace(
            postgres.other(self.url, f"{self.name}{ending}"),
            self.media.with_name(f"{self.media.name}{ending}"),
        )

    def variables(self, given: Mapping[str, str]) -> dict[str, str]:
        """The environment of a command that works here."""
        return {**given, "DATABASE_URL": self.url, "BRUNT_MEDIA": str(self.media)}


def place_of(variables: Mapping[str, str]) -> DataPlace:
    """Where the data of this environment lie."""
    return DataPlace(variables["DATABASE_URL"], Path(variables["BRUNT_MEDIA"]))


@contextmanager
def built_beside(place: DataPlace) -> Iterator[DataPlace]:
    """An empty place beside it to build in; whatever goes wrong, it is cleared and the old one is untouched.

    Once the databases have changed names nothing is cleared: :func:`finish_swap` lets the files follow.
    """
    finish_swap(place)
    new = place.beside(_NEW)
    clear(new)
    postgres.regenerate(new.url)
    new.media.mkdir(parents=True)
    try:
        yield new
    except BaseException:
        if not place.journal.exists():
            clear(new)
        raise


def clear(place: DataPlace) -> None:
    """Delete a place, its database and its files."""
    postgres.take_away(place.url)
    shutil.rmtree(place.media, ignore_errors=True)


def swap_in(place: DataPlace, now: datetime) -> DataPlace | None:
    """Put what was built beside in the place; returns where the old one stands now, if there was one.

    The databases change names in one statement. A swap that was cut short is finished by :func:`finish_swap`.
    """
    before = _BEFORE + now.strftime(_STAMP)
    place.journal.write_text(json.dumps({"before": before}))
    known = _databases(place.url)
    renames = [(f"{place.name}{_NEW}", place.name)]
    if place.name in known:
        renames.insert(0, (place.name, f"{place.name}{before}"))
    names = ", ".join(f"'{old}'" for old, _ in renames)
    admin = postgres.other(place.url, "postgres")
    postgres.sql(
        admin, f"select pg_terminate_backend(pid) from pg_stat_activity where datname in ({names})"
    )
    statement = "; ".join(f'alter database "{old}" rename to "{new}"' for old, new in renames)
    try:
        postgres.sql(admin, statement)
    except Problem:
        place.journal.unlink(missing_ok=True)
        raise
    finish_swap(place)
    return place.beside(before) if place.name in known else None


def finish_swap(place: DataPlace) -> None:
    """Finish a swap that was cut short after the databases had changed names: the files follow."""
    try:
        before = str(json.loads(place.journal.read_text())["before"])
    except (OSError, ValueError, KeyError):
        return
    new, old = place.beside(_NEW).media, place.beside(before).media
    if new.exists() and f"{place.name}{_NEW}" not in _databases(place.url):
        if place.media.exists() and not old.exists():
            place.media.rename(old)
        new.rename(place.media)
    place.journal.unlink(missing_ok=True)


def kept_before(place: DataPlace) -> list[DataPlace]:
    """What was replaced and still stands beside, the latest first."""
    start = f"{place.name}{_BEFORE}"
    found = sorted((n for n in _databases(place.url) if n.startswith(start)), reverse=True)
    return [place.beside(name.removeprefix(place.name)) for name in found]


def swap_back(place: DataPlace, before: DataPlace) -> None:
    """What was replaced comes back into the place; what is there now goes aside in its stead."""
    new = place.beside(_NEW)
    clear(new)
    admin = postgres.other(place.url, "postgres")
    postgres.sql(admin, f'alter database "{before.name}" rename to "{new.name}"')
    if before.media.exists():
        before.media.rename(new.media)
    else:
        new.media.mkdir(parents=True)
    swap_in(place, datetime.now(UTC))


def _databases(url: str) -> set[str]:
    admin = postgres.other(url, "postgres")
    return set(postgres.sql(admin, "select datname from pg_database").splitlines())
