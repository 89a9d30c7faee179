"""PostgreSQL's own programs against a database named by its address."""

import os
import subprocess
from urllib.parse import unquote, urlsplit

from brunt_command import debian
from brunt_command.places import state
from brunt_command.problem import Problem


def run(url: str, program: str, arguments: list[str], doing: str) -> str:
    """Run one program against the database of this address; what it says.

    Raises :class:`Problem` with its last line.
    """
    programs = debian.ensure("postgresql", debian.postgres_bin, "The PostgreSQL server")
    parts = urlsplit(url)
    known = {
        "PGHOST": parts.hostname or "127.0.0.1",
        "PGPORT": str(parts.port or 5432),
        "PGUSER": unquote(parts.username or ""),
        "PGPASSWORD": unquote(parts.password or ""),
        "PGDATABASE": name_of(url),
    }
    done = subprocess.run(
        [str(programs / program), *arguments],
        env={**os.environ, **known},
        capture_output=True,
        text=True,
    )
    if done.returncode:
        log = state("postgres.log")
        log.write_text(done.stderr)
        reason = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
        raise Problem(f"PostgreSQL failed while {doing}: {reason} (all of it in {log}).")
    return done.stdout.strip()


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
    names = sql(url, "select relname from pg_stat_user_tables order by relname").splitlines()
    if not names:
        return {}
    union = " union all ".join(f"select '{n}', count(*) from \"{n}\"" for n in names)
    rows = (line.split("|") for line in sql(url, union).splitlines())
    return {name: int(n) for name, n in rows}


def make_anew(url: str) -> None:
    """The database of this address, empty, whoever was connected."""
    admin, name = other(url, "postgres"), name_of(url)
    sql(admin, f'drop database if exists "{name}" with (force)')
    sql(admin, f'create database "{name}"')


def take_away(url: str) -> None:
    """Delete the database of this address."""
    sql(other(url, "postgres"), f'drop database if exists "{name_of(url)}" with (force)')
