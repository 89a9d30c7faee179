"""One small parent of everything that serves: the web, the jobs' worker, the bridge to instruments, the daily watch.

It holds the listening socket, starts again what dies after a pause that grows, and takes all of it along when it
ends itself, however it ends. It imports nothing of the site.
"""

import argparse
import json
import os
import signal
import subprocess
import sys
import time
from dataclasses import dataclass, field
from pathlib import Path
from types import FrameType
from typing import IO
from urllib.parse import urlsplit

from brunt_command.places import PYTHON, ROOT, state
from brunt_web.mortal import become, die_with_parent
from brunt_web.serve import listening

_LOOK, _SOON, _LONGEST = 0.2, 0.5, 30.0
# What lived so long did not die of its beginning: it is begun again at once.
_SETTLED = 10.0
# How long each may take to end: the worker finishes what it is writing.
_PATIENCE = 8.0


@dataclass
class Child:
    """One process and how it is begun: its command, its log, the sockets it is given."""

    name: str
    command: list[str]
    log: str
    more: dict[str, str] = field(default_factory=dict)
    sockets: tuple[int, ...] = ()
    user: str = ""
    process: subprocess.Popen[bytes] | None = None
    begun: float = 0.0
    pause: float = 0.0
    again_at: float = 0.0

    def begin(self) -> None:
        """Start it."""
        out: IO[bytes]
        with open(state(self.log), "ab") as out:
            self.process = subprocess.Popen(
                self.command,
                cwd=ROOT,
                env={**os.environ, **self.more, "PYTHONPATH": str(ROOT)},
                stdin=subprocess.DEVNULL,
                stdout=out,
                stderr=out,
                pass_fds=self.sockets,
                preexec_fn=self._before,
            )
        self.begun = time.monotonic()

    def _before(self) -> None:
        if self.user:
            become(self.user)
        die_with_parent()

    def look(self, now: float) -> bool:
        """Start it again where it died, after a pause that grows while it dies young; true when it was started."""
        if self.process is not None and self.process.poll() is None:
            return False
        if self.process is not None:
            self.pause = (
                _SOON if now - self.begun > _SETTLED else min(max(self.pause * 2, _SOON), _LONGEST)
            )
            self.again_at = now + self.pause
            self.process = None
        if now < self.again_at:
            return False
        self.begin()
        self.begun = now
        return True

    @property
    def pid(self) -> int | None:
        """Its process, if it runs."""
        return self.process.pid if self.process and self.process.poll() is None else None


class Parent:
    """The children, and the note in which their processes are written down."""

    def __init__(self, children: list[Child], note: Path, told: dict[str, object]) -> None:
        self.children, self.note, self.told = children, note, told
        self.going = True

    def run(self) -> int:
        """Until it is told to end."""
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, self._stop)
        while self.going:
            now = time.monotonic()
            if any([child.look(now) for child in self.children]):
                self._write()
            time.sleep(_LOOK)
        self._end()
        return 0

    def _stop(self, number: int, frame: FrameType | None) -> None:
        self.going = False

    def _write(self) -> None:
        pids = {child.name: child.pid for child in self.children}
        text = json.dumps({"pid": os.getpid(), **self.told, **pids})
        part = self.note.with_name(f"{self.note.name}.part")
        part.write_text(text)
        os.replace(part, self.note)

    def _end(self) -> None:
        for child in self.children:
            if child.pid:
                os.kill(child.pid, signal.SIGTERM)
        until = time.monotonic() + _PATIENCE
        while any(child.pid for child in self.children) and time.monotonic() < until:
            time.sleep(0.05)
        for child in self.children:
            if child.pid:
                os.kill(child.pid, signal.SIGKILL)
        try:
            if json.loads(self.note.read_text()).get("pid") == os.getpid():
                self.note.unlink()
        except (OSError, ValueError):
            return


def _own_ports(chosen: argparse.Namespace) -> str:
    """The ports of Brunt itself, at which no instrument stands."""
    database = urlsplit(os.environ.get("DATABASE_URL", "")).port or 5432
    return ",".join(
        str(port) for port in (chosen.port, chosen.inner, chosen.wires, database) if port
    )


def _children(chosen: argparse.Namespace) -> list[Child]:
    """What is to run, with the sockets taken: the web, the worker, the bridge, with TLS the front, the watch."""
    # Detached: a socket object that is dropped would close what the children are given.
    outer = listening(chosen.host, chosen.port).detach()
    taken = listening("127.0.0.1", chosen.inner).detach() if chosen.tls else outer
    python, wires = str(PYTHON), str(chosen.wires)
    bridged = "127.0.0.1" if chosen.tls else chosen.host
    web = ["brunt_web.serve", "--fd", str(taken), "--workers", str(chosen.workers)]
    bridge = ["brunt_command.instruments.bridge", "--host", bridged, "--port", wires]
    one = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
    own = {"BRUNT_OWN_PORTS": _own_ports(chosen)}
    children = [
        Child("web", [python, "-m", *web], "server.log", sockets=(taken,)),
        Child("worker", [python, "-m", "django", "work"], "worker.log", one),
        Child("bridge", [python, "-m", *bridge], "instruments.log", own),
    ]
    if chosen.tls:
        ports = ["--web", str(chosen.inner), "--bridge", wires, "--certificate", str(chosen.tls)]
        front = [python, "-m", "brunt_command.front", "--fd", str(outer), *ports]
        children.append(Child("front", front, "server.log", sockets=(outer,)))
    for child in children:
        child.user = chosen.user
    if chosen.kind == "own":
        children.append(Child("watch", [python, "-m", "brunt_command.watch"], "watch.log"))
    return children


def main() -> int:
    """Take the port, then begin and watch the children."""
    parser = argparse.ArgumentParser(prog="brunt_command.parent", description=main.__doc__)
    parser.add_argument("--kind", choices=("demo", "own"), required=True)
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--wires", type=int, required=True)
    parser.add_argument("--note", type=Path, required=True)
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument(
        "--tls", type=Path, help="the folder of the certificate; then --inner is the web's port"
    )
    parser.add_argument("--inner", type=int, default=0)
    parser.add_argument("--user", default="", help="whom all that answers others runs as; for root")
    chosen = parser.parse_args()
    children = _children(chosen)
    told: dict[str, object] = {"port": chosen.port, "host": chosen.host, "wires": chosen.wires}
    if chosen.tls:
        told |= {"inner": chosen.inner, "tls": True}
    return Parent(children, chosen.note, told).run()


if __name__ == "__main__":
    sys.exit(main())
