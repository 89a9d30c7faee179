"""Finding what Debian provides, and installing it where that is allowed."""

import os
import shutil
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from brunt_command.problem import Problem


def postgres_bin() -> Path | None:
    """The folder with the newest PostgreSQL server programs."""
    folders = [p for p in Path("/usr/lib/postgresql").glob("*/bin") if (p / "initdb").exists()]
    if folders:
        return max(folders, key=lambda p: int(p.parent.name) if p.parent.name.isdigit() else 0)
    found = shutil.which("initdb")
    return Path(found).resolve().parent if found else None


def chromium() -> Path | None:
    """The browser that the tests drive."""
    found = shutil.which("chromium") or shutil.which("chromium-browser")
    return Path(found) if found else None


def ensure_program(package: str, find: Callable[[], Path | None], needed_for: str) -> Path:
    """Find a program, installing its Debian package when it is missing and that is allowed."""
    found = find()
    if found is None:
        _install(package, needed_for)
        found = find()
    if found is None:
        raise Problem(
            f"The Debian package {package} was installed but its programs were not found; "
            f"install {needed_for} by hand and run this again."
        )
    return found


def _install(package: str, needed_for: str) -> None:
    by_hand = f"run 'apt-get install {package}' as an administrator and try again"
    if os.environ.get("BRUNT_NO_INSTALL") or not shutil.which("apt-get"):
        raise Problem(
            f"{needed_for} is not installed and may not be installed from here: {by_hand}."
        )
    prefix = [] if os.geteuid() == 0 else ["sudo", "-n"]
    if prefix and not shutil.which("sudo"):
        raise Problem(f"{needed_for} is not installed: {by_hand}.")
    print(f"Installing {package} …", file=sys.stderr, flush=True)
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    for command in (
        ["apt-get", "update", "-qq"],
        ["apt-get", "install", "-y", "-qq", "--no-install-recommends", package],
    ):
        done = subprocess.run(prefix + command, env=environment, capture_output=True, text=True)
        if done.returncode and command[1] == "install":
            reason = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
            raise Problem(f"{needed_for} could not be installed ({reason}): {by_hand}.")
