"""The jobs' worker by itself, and what is asked of processes and ports."""

import os
import signal
import socket
import subprocess
import time
from pathlib import Path

from brunt_command.places import PYTHON, ROOT, state

WORKER = "django\0work"


def free_port(host: str, wanted: int) -> int:
    """A port to answer at: the wanted one, else one the machine gives; 0 where there is none."""
    for port in (wanted, 0):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((host, port))
                return int(probe.getsockname()[1])
            except (OSError, OverflowError):
                continue
    return 0


def begin_worker(variables: dict[str, str]) -> int:
    """Start the jobs' worker; its process. It takes jobs one at a time, below the web in priority."""
    return _begin(
        variables | {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"},
        "worker.log",
        *("django", "work"),
    )


def _begin(variables: dict[str, str], log: str, *module: str) -> int:
    with open(state(log), "ab") as file:
        process = subprocess.Popen(
            [str(PYTHON), "-m", *module],
            cwd=ROOT,
            env={**variables, "PYTHONPATH": str(ROOT)},
            stdin=subprocess.DEVNULL,
            stdout=file,
            stderr=file,
            start_new_session=True,
        )
    return process.pid


def runs(pid: int | None, what: str) -> bool:
    """Whether that process is still what it was."""
    if not pid:
        return False
    try:
        return what.encode() in Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return False


def terminate(pid: int | None, what: str, patience: float = 0.0) -> None:
    """End it, if that process is still what it was; after so many seconds by force."""
    if not pid or not runs(pid, what):
        return
    os.kill(pid, signal.SIGTERM)
    until = time.monotonic() + patience
    while patience and runs(pid, what):
        if time.monotonic() > until:
            os.killpg(pid, signal.SIGKILL)
            return
        time.sleep(0.05)
