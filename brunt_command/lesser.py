"""Started by root: all that answers others runs as a user who may write uploads and nothing else."""

import os
import pwd
import shutil
import subprocess
from collections.abc import Mapping
from pathlib import Path

from brunt_command.places import PYTHON, ROOT, STATE, data_path
from brunt_command.problem import Problem

USER, HOME = "brunt", "/var/lib/brunt"


def ensure_user(name: str) -> None:
    """A system user without a password or a shell, whose home is where the data lie; may read serial ports.

    Raises :class:`Problem` where it cannot be made.
    """
    try:
        pwd.getpwnam(name)
    except KeyError:
        made = subprocess.run(
            ["useradd", "--system", "--home-dir", HOME, "--shell", "/usr/sbin/nologin", name],
            capture_output=True,
            text=True,
        )
        if made.returncode:
            raise Problem(f"The user {name} could not be made: {made.stderr.strip()}.") from None
        subprocess.run(["usermod", "-aG", "dialout", name], capture_output=True)


def for_root(kind: str, variables: Mapping[str, str]) -> list[str]:
    """What the parent is told where root starts one's own workshop: the user, once they may read and write what
    they must. Nothing, with a sentence, where they cannot.
    """
    if os.geteuid() != 0 or kind != "own":
        return []
    try:
        ensure_user(USER)
    except (Problem, OSError) as problem:
        return _stays(str(getattr(problem, "sentence", problem)))
    try:
        _open_to_user(Path(variables["BRUNT_MEDIA"]))
    except OSError as problem:
        return _stays(f"{problem.filename} cannot be given to {USER} ({problem.strerror})")
    if not _can_run():
        return _stays(f"{USER} may not read {Path(PYTHON).resolve()} or {ROOT}")
    return ["--user", USER]


def _open_to_user(media: Path) -> None:
    """Uploads and the certificate are theirs; ways through lead to what they read."""
    _give(media)
    tls = data_path("tls")
    if tls.is_dir():
        # Not the authority's key, with which certificates are made.
        for name in ("certificate.pem", "key.pem"):
            shutil.chown(tls / name, USER, USER)
        tls.chmod(0o711)
    told = data_path("last-backup.json")
    if told.exists():
        told.chmod(0o644)
    # Ways through, not into: secrets, backups and logs in them stay root's own.
    for way in (STATE, data_path("x").parent):
        way.chmod(way.stat().st_mode | 0o011)


def _give(folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for place, folders, files in os.walk(folder):
        for name in (".", *folders, *files):
            os.chown(os.path.join(place, name), *_ids(), follow_symlinks=False)


def _ids() -> tuple[int, int]:
    user = pwd.getpwnam(USER)
    return user.pw_uid, user.pw_gid


def _can_run() -> bool:
    """Whether the user may run Brunt's Python with all of Brunt."""
    uid, gid = _ids()
    try:
        tried = subprocess.run(
            [str(PYTHON), "-c", "import django, brunt_web.serve"],
            cwd="/",
            env={"PATH": os.environ.get("PATH", ""), "PYTHONPATH": str(ROOT)},
            user=uid,
            group=gid,
            extra_groups=[],
            capture_output=True,
        )
    except OSError:
        return False
    return tried.returncode == 0


def _stays(why: str) -> list[str]:
    print(
        f"  The web runs as root: {why}. Put Brunt and its Python where every user may read (/opt/brunt), or let "
        "./brunt service run it under its own user.",
        flush=True,
    )
    return []
