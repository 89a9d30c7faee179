"""Where things are: the checkout, its private state, the database cluster."""

import hashlib
import os
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
STATE = Path(os.environ.get("BRUNT_STATE") or ROOT / ".brunt")
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"


def state(*parts: str) -> Path:
    """A path below the checkout's private state, whose folder exists."""
    path = STATE.joinpath(*parts)
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    return path


def cluster_home(name: str) -> Path:
    """Where a private cluster of this checkout keeps its data.

    PostgreSQL refuses to run as root, so there it lives where the user ``postgres`` may go.
    """
    mark = hashlib.sha256(str(STATE).encode()).hexdigest()[:10]
    if os.geteuid() == 0:
        base = Path("/var/lib/postgresql")
    else:
        base = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local/share") / "brunt"
    return base / f"brunt-{mark}-{name}"
