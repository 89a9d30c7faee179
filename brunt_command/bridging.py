"""The bridge to live instruments beside a web server: begun and ended with it."""

import os
import signal
import socket
import subprocess
from pathlib import Path

from brunt_command.places import PYTHON, ROOT, state


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


def begin(variables: dict[str, str], host: str, port: int) -> int:
    """Start it; its process."""
    with open(state("instruments.log"), "ab") as log:
        command = [str(PYTHON), "-m", "brunt_command.instruments.bridge"]
        process = subprocess.Popen(
            [*command, "--host", host, "--port", str(port)],
            cwd=ROOT,
            env={**variables, "PYTHONPATH": str(ROOT)},
            stdin=subprocess.DEVNULL,
            stdout=log,
            stderr=log,
            start_new_session=True,
        )
    return process.pid


def end(pid: int | None) -> None:
    """End it, if that process is still the bridge."""
    if not pid:
        return
    try:
        words = Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return
    if b"brunt_command.instruments" in words:
        os.kill(pid, signal.SIGTERM)
