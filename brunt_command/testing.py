"""``test``: the whole suite, or the parts named."""

import argparse
import fcntl
import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext

from brunt_command import cluster, debian, environment
from brunt_command.places import PYTHON, ROOT, state


def test(arguments: list[str]) -> int:
    """Set up as the demo does and run the tests with Django's runner, browser tests included."""
    parser = argparse.ArgumentParser(prog="./brunt test", description=test.__doc__)
    parser.add_argument(
        "labels", nargs="*", default=["tests"], help="e.g. tests.core, tests.browser"
    )
    parser.add_argument("--parallel", default="2")
    parser.add_argument("--no-browser", action="store_true", help="leave the browser tests out")
    chosen, passed_on = parser.parse_known_args(arguments)
    environment.ensure(development=True)
    environment.compile_own()
    if not chosen.no_browser:
        debian.ensure("chromium", debian.chromium, "The browser Chromium")
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
                cluster.stop("test")
            except OSError:
                pass  # another run of this checkout is still using it


def _run(chosen: argparse.Namespace, passed_on: list[str]) -> int:
    url = os.environ.get("DATABASE_URL") or cluster.start("test", careless=True)
    variables = {
        **os.environ,
        "DATABASE_URL": url,
        "BRUNT_SECRET_KEY": "only-for-tests",
        "BRUNT_DEMO": "1",
        "DJANGO_SETTINGS_MODULE": "brunt_web.settings",
        "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
        "BRUNT_TESTING": "1",
    }
    skipped = ["--exclude-tag", "browser"] if chosen.no_browser else []
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
