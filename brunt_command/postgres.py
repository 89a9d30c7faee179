"""PostgreSQL's own programs against a database named by its address."""

import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from urllib.parse import unquote, urlsplit

from brunt_command import debian
from brunt_command.places import state
from brunt_command.problem import Problem


def run(url: str, program: str, arguments: list[str], doing: str) -> str:
    """Run one program against the database of this address; what it says.

    Raises :class:`Problem` with its last line.
    """
    done = subprocess.run(
        [_program(program), *arguments],
        env={**os.environ, **_known(url)},
        capture_output=True,
        text=True,
    )
    if done.returncode:
        log = state("postgres.log")
        log.write_text(done.stderr)
        reason = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
        raise Problem(f"PostgreSQL failed while {doing}: {reason} (all of it in {log}).")
    return done.stdout.strip()


def _program(name: str) -> str:
    return str(
        debian.ensure_program("postgresql", debian.postgres_bin, "The PostgreSQL server") / name
    )


def _known(url: str) -> dict[str, str]:
    """What PostgreSQL's programs are told of a database's address."""
    parts = urlsplit(url)
    return {
        "PGHOST": parts.hostname or "127.0.0.1",
        "PGPORT": str(parts.port or 5432),
        "PGUSER": unquote(parts.username or ""),
        "PGPASSWORD": unquote(parts.password or ""),
        "PGDATABASE": name_of(url),
    }


@contextmanager
def one_moment(url: str) -> Iterator[tuple[str, dict[str, int]]]:
    """The name of a snapshot that ``pg_dump --snapshot`` can read, and the rows of every table in it.

    It holds while the block runs, whatever is entered meanwhile. Source: PostgreSQL manual, 9.28.5
    "Snapshot Synchronization Functions".
    """
    names = _tables(url)
    session = subprocess.Popen(
        [_program("psql"), "-AtX", "-q", "-v", "ON_ERROR_STOP=1"],
        env={**os.environ, **_known(url)},
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )
    assert session.stdin and session.stdout
    try:
        ask = "begin isolation level repeatable read, read only; select pg_export_snapshot();\n"
        rows = "".join(f'select count(*) from "{n}";\n' for n in names)
        session.stdin.write(ask + rows)
        session.stdin.flush()
        snapshot = session.stdout.readline().strip()
        counted = {n: session.stdout.readline().strip() for n in names}
        if not snapshot or not all(counted.values()):
            raise Problem("PostgreSQL gave no snapshot to keep; try again.")
        yield snapshot, {n: int(c) for n, c in counted.items()}
    finally:
        session.stdin.close()
        session.wait(timeout=60)


def _tables(url: str) -> list[str]:
    return sql(url, "select relname from pg_stat_user_tables order by relname").splitlines()


def database_size(url: str) -> int:
    """Bytes that the database takes on its disk."""
    return int(sql(url, "select pg_database_size(current_database())"))


def sql(url: str, statement: str) -> str:
    """What a statement answers, a row a line."""
    return run(url, "psql", ["-AtX", "-v", "ON_ERROR_STOP=1", "-c", statement], "asking it")


def name_of(url: str) -> str:
    """The database's name."""
    return unquote(urlsplit(url).path.lstrip("/"))


def other(url: str, name: str) -> str:
    """The address of another database of the same server."""
    return urlsplit(url)._replace(path=f"/{name}").geturl()


def counts(url: str) -> dict[str, int]:
    """Rows of every table, counted."""
    names = _tables(url)
    if not names:
        return {}
    union = " union all ".join(f"select '{n}', count(*) from \"{n}\"" for n in names)
    rows = (line.split("|") for line in sql(url, union).splitlines())
    return {name: int(n) for name, n in rows}


def regenerate(url: str) -> None:
    """The database of this address, empty, whoever was connected."""
    admin, name = other(url, "postgres"), name_of(url)
    sql(admin, f'drop database if exists "{name}" with (force)')
    sql(admin, f'create database "{name}"')


def take_away(url: str) -> None:
    """Delete the database of this address."""
    sql(other(url, "postgres"), f'drop database if exists "{name_of(url)}" with (force)')
