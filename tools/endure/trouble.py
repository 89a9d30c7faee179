"""What ``endure`` troubles a server with: slow senders, fuzzers, and a killer of its processes."""

import contextlib
import json
import os
import random
import signal
import socket
import subprocess
import time
from dataclasses import dataclass, field
from pathlib import Path
from threading import Event
from typing import Any

from brunt_command.cluster import cluster_port
from brunt_command.places import PYTHON, ROOT

_READY_SECONDS, _GONE_SECONDS = 60, 20
_KEPT_NAMES = ("web", "worker", "bridge")


@dataclass
class Served:
    """Brunt under its parent, as ``start`` leaves it; whoever starts the machine begins the parent again."""

    note: Path
    port: int = field(default_factory=cluster_port)
    killed: dict[str, int] = field(default_factory=dict)
    orphans: int = 0
    process: subprocess.Popen[bytes] | None = None

    def begin(self) -> None:
        """Start the parent and wait until pages are answered."""
        told = ["--kind", "demo", "--port", str(self.port), "--wires", str(cluster_port())]
        self.process = subprocess.Popen(
            [str(PYTHON), "-m", "brunt_command.parent", *told, "--note", str(self.note)],
            cwd=ROOT,
            env={**os.environ, "PYTHONPATH": str(ROOT)},
            stdin=subprocess.DEVNULL,
        )
        self.wait()

    def wait(self) -> None:
        """Until the health page answers. Raises ``TimeoutError`` after a minute."""
        until = time.monotonic() + _READY_SECONDS
        while time.monotonic() < until:
            with (
                contextlib.suppress(OSError),
                socket.create_connection(("127.0.0.1", self.port), 2) as link,
            ):
                link.sendall(b"GET /health/ HTTP/1.0\r\nHost: 127.0.0.1\r\n\r\n")
                if b" 200 " in link.recv(40):
                    return
            time.sleep(0.1)
        raise TimeoutError("the server does not answer")

    def processes(self) -> dict[str, list[int]]:
        """What runs by name, the copies of the web apart."""
        try:
            noted = json.loads(self.note.read_text())
        except (OSError, ValueError):
            return {}
        found = {name: [noted[name]] for name in _KEPT_NAMES if noted.get(name)}
        found["copy"] = children_of(noted.get("web") or 0)
        found["parent"] = [noted["pid"]]
        return found

    def kill_one(self, chance: random.Random) -> str:
        """End one process at once, whichever; a parent that is killed is begun again, once all of it is gone."""
        found = {name: pids for name, pids in self.processes().items() if pids}
        if not found:
            return ""
        name = chance.choice(sorted(found))
        pid = chance.choice(found[name])
        below = children_of(pid) if name == "parent" else []
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL)
        self.killed[name] = self.killed.get(name, 0) + 1
        if name == "parent":
            assert self.process is not None
            self.process.wait(10)
            self.orphans += left(below)
            self.begin()
        return name

    def end(self) -> None:
        """As ``stop`` does; what is left then is an orphan."""
        assert self.process is not None
        below = children_of(self.process.pid)
        self.process.terminate()
        with contextlib.suppress(subprocess.TimeoutExpired):
            self.process.wait(30)
        self.orphans += left(below)


def children_of(pid: int) -> list[int]:
    """Every process below one."""
    found = []
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            parts = path.read_text().rpartition(")")[2].split()
        except OSError:
            continue
        if pid and int(parts[1]) == pid:
            own = int(path.parent.name)
            found += [own, *children_of(own)]
    return found


def left(pids: list[int]) -> int:
    """How many of these processes are still there after the time that ending may take."""
    until = time.monotonic() + _GONE_SECONDS
    while time.monotonic() < until:
        there = [p for p in pids if _runs(p)]
        if not there:
            return 0
        time.sleep(0.2)
    return len(there)


def _runs(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def kill_now_and_then(served: Served, seconds: float, stop: Event, seed: int) -> None:
    """A process ends about every so many seconds."""
    chance = random.Random(seed)
    while not stop.wait(seconds * chance.uniform(0.5, 1.5)):
        served.kill_one(chance)


def send_slowly(port: int, stop: Event, seed: int) -> None:
    """Dribble a head, or a body, or take an answer byte by byte; over and over, until told to stop."""
    chance = random.Random(seed)
    heads = (
        b"GET /sign-in/ HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: " + b"y" * 4000,
        b"POST /sign-in/ HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 100000\r\n\r\n"
        + b"z" * 4000,
    )
    while not stop.is_set():
        with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", port), 5) as link:
            for byte in chance.choice(heads):
                link.sendall(bytes([byte]))
                if stop.wait(chance.uniform(0.2, 1.0)):
                    return
        stop.wait(0.5)


def fuzz(port: int, session: str, paths: list[str], seen: Any, stop: Event, seed: int) -> None:
    """Send what no page sends: odd paths, fields, verbs, heads, bytes; anything but an orderly refusal is wrong."""
    chance = random.Random(seed)
    while not stop.wait(chance.uniform(0.02, 0.3)):
        begun = time.perf_counter()
        status = _one(port, _request(chance, session, chance.choice(paths)))
        if status:
            orderly = status if status < 500 or status in (503, 507) else 0
            seen.note("fuzz", (time.perf_counter() - begun) * 1000, status, (orderly,))


def _request(chance: random.Random, session: str, path: str) -> bytes:
    junk = "".join(
        chance.choice("%\x00é\u202e'\"<>/..;=&?\\ 王1eE+-,NaN") for _ in range(chance.randrange(40))
    )
    odd = junk.encode("utf-8", "replace")
    kind = chance.randrange(6)
    verb = chance.choice([b"GET", b"POST", b"POST", b"PUT", b"DELETE", b"OPTIONS", b"BREW"])
    cookie = (
        f"Cookie: sessionid={session}; csrftoken={'f' * 32}\r\nX-CSRFToken: {'f' * 32}\r\n".encode()
    )
    if kind == 0:
        return odd + b"\r\n\r\n"
    if kind == 1:
        return (
            b"GET /"
            + odd.replace(b" ", b"%20").replace(b"\n", b"")
            + b" HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n"
            + cookie
            + b"\r\n"
        )
    names = (
        "key",
        "force",
        "width",
        "outcome",
        "age",
        "specimen",
        "in_workshop",
        "text",
        "seen",
        "version",
        "pk",
        "to",
    )
    body = "&".join(f"{chance.choice(names)}={junk}" for _ in range(chance.randrange(6))).encode(
        "utf-8", "replace"
    )
    length = len(body) if kind < 5 else chance.choice([-1, 10**12, len(body) + 3])
    head = (
        verb
        + b" "
        + path.encode()
        + b" HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n"
        + cookie
    )
    head += (
        b"Content-Type: application/x-www-form-urlencoded\r\n"
        + f"Content-Length: {length}\r\n\r\n".encode()
    )
    return head + body


def _one(port: int, request: bytes) -> int:
    """The status of the answer; 0 where none came, as while the server is started again."""
    with (
        contextlib.suppress(OSError, ValueError, IndexError),
        socket.create_connection(("127.0.0.1", port), 5) as link,
    ):
        link.settimeout(5)
        link.sendall(request)
        return int(link.recv(64).split(b" ")[1])
    return 0
