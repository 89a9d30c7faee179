"""Where things are: the checkout, its private state, the database cluster."""

import hashlib
import os
from pathlib import Path

from brunt_command.problem import Problem

ROOT = Path(__file__).resolve().parent.parent
STATE = Path(os.environ.get("BRUNT_STATE") or ROOT / ".brunt")


def _data() -> Path:
    """Where one's own workshop lies, wherever the checkout does."""
    said = os.environ.get("BRUNT_DATA")
    if said:
        return Path(said).expanduser().resolve()
    if os.geteuid() == 0:
        return Path("/var/lib/brunt")
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local/share") / "brunt"


DATA = _data()
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"


def state(*parts: str) -> Path:
    """A path below the checkout's private state, whose folder exists."""
    path = STATE.joinpath(*parts)
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    return path


def data_path(*parts: str) -> Path:
    """A path below the place of one's own workshop, whose folder exists and is the owner's alone.

    Raises :class:`Problem` where it may not be made.
    """
    path = DATA.joinpath(*parts)
    try:
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    except OSError as error:
        raise Problem(
            f"Your workshop's data cannot be kept in {DATA} ({error.strerror}); give another place in "
            "BRUNT_DATA, or mend its rights."
        ) from None
    return path


def cluster_home(name: str) -> Path:
    """Where a private cluster keeps its data: one's own beside its files, others by checkout.

    PostgreSQL refuses to run as root, so there it lies where the user ``postgres`` may go.
    """
    if name == "own":
        if os.geteuid() != 0:
            return DATA / "postgres"
        mark = hashlib.sha256(str(DATA).encode()).hexdigest()[:10]
        said = "" if not os.environ.get("BRUNT_DATA") else f"-{mark}"
        return Path(f"/var/lib/postgresql/brunt-own{said}")
    mark = hashlib.sha256(str(STATE).encode()).hexdigest()[:10]
    if os.geteuid() == 0:
        base = Path("/var/lib/postgresql")
    else:
        base = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local/share") / "brunt"
    return base / f"brunt-{mark}-{name}"
