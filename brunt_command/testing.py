"""``test``: the whole suite, or the parts named."""

import argparse
import fcntl
import hashlib
import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext

from brunt_command import cluster, debian, environment, postgres
from brunt_command.places import PYTHON, ROOT, state


def test(arguments: list[str]) -> int:
    """Set up as the demo does and run the tests with Django's runner, browser tests included."""
    parser = argparse.ArgumentParser(prog="./brunt test", description=test.__doc__)
    parser.add_argument(
        "labels", nargs="*", default=["tests"], help="e.g. tests.core, tests.browser"
    )
    parser.add_argument("--parallel", default="2")
    parser.add_argument("--no-browser", action="store_true", help="skip the browser tests")
    parser.add_argument(
        "--long",
        action="store_true",
        help="also run what takes minutes: killed processes, endurance, several hosts, fuzzing",
    )
    parser.add_argument(
        "--mutants",
        action="store_true",
        help="instead, put faults in by hand and see that a test fails at each (half an hour)",
    )
    chosen, passed_on = parser.parse_known_args(arguments)
    environment.ensure(development=True)
    if chosen.mutants:
        return subprocess.run([str(PYTHON), "-m", "tools.mutants", *passed_on]).returncode
    environment.compile_own()
    if not chosen.no_browser:
        debian.ensure_program("chromium", debian.chromium, "The browser Chromium")
    own = not os.environ.get("DATABASE_URL")
    with _ended_after() if own else nullcontext():
        return _run(chosen, passed_on)


@contextmanager
def _ended_after() -> Iterator[None]:
    """The tests' PostgreSQL is stopped when the last run of this checkout is over: nothing stays behind."""
    with open(state("testing.lock"), "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_SH)
        try:
            yield
        finally:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
                cluster.stop_cluster("test")
            except OSError:
                pass  # another run of this checkout is still using it


def _run(chosen: argparse.Namespace, passed_on: list[str]) -> int:
    url = os.environ.get("DATABASE_URL") or cluster.start_cluster("test", durable=False)
    variables = {
        **os.environ,
        "DATABASE_URL": url,
        "BRUNT_SECRET_KEY": "only-for-tests",
        "BRUNT_DEMO": "1",
        "DJANGO_SETTINGS_MODULE": "brunt_web.settings",
        "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
        "BRUNT_TESTING": "1",
    }
    variables["BRUNT_TEST_TEMPLATE"] = _template(url, variables)
    skipped = ["--exclude-tag", "browser"] if chosen.no_browser else []
    skipped += [] if chosen.long else ["--exclude-tag", "long"]
    command = [
        str(PYTHON),
        "-W",
        "default::DeprecationWarning:brunt_web",
        "-m",
        "django",
        "test",
        *chosen.labels,
        "--parallel",
        chosen.parallel,
        "--no-input",
        "--shuffle",
        *skipped,
        *passed_on,
    ]
    return subprocess.run(command, env=variables, cwd=ROOT).returncode


def _template(url: str, variables: dict[str, str]) -> str:
    """Name of a database with the schema of these migrations; it is built once and then copied by each run.

    Running all migrations takes half a minute, copying their result a second.
    """
    known = hashlib.sha256()
    for file in sorted(ROOT.glob("brunt_web/*/migrations/*.py")):
        known.update(file.read_bytes())
    name = f"brunt_schema_{known.hexdigest()[:12]}"
    there = postgres.run(url, "psql", ["-AtXc", "SELECT datname FROM pg_database"], "looking for the test schema")  # fmt: skip
    databases = there.splitlines()
    if name in databases:
        return name
    for old in (d for d in databases if d.startswith("brunt_schema_")):
        postgres.run(url, "dropdb", [old], "deleting an earlier test schema")
    building = f"{name}_building"
    postgres.run(url, "createdb", [building], "creating the test schema")
    subprocess.run(
        [str(PYTHON), "-m", "django", "migrate", "--no-input", "-v", "0"],
        env={**variables, "DATABASE_URL": url.rpartition("/")[0] + f"/{building}"},
        cwd=ROOT,
        check=True,
    )
    rename = f'ALTER DATABASE "{building}" RENAME TO "{name}"'
    postgres.run(url, "psql", ["-qXc", rename], "naming the test schema")
    return name
