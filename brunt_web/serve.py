"""The web server: one process that imports everything once and keeps some copies of itself answering.

Waitress reads whole requests and writes whole answers in one place and gives a thread only to what is complete,
so that senders who drip hold up nobody. The listening socket belongs to whoever starts this.
"""

import argparse
import gc
import logging
import os
import resource
import signal
import socket
import sys
import time
from importlib import import_module
from types import FrameType
from typing import Any

from brunt_web.mortal import die_with_parent

# Answered at once by a process; open to it at once; idle so long before a connection is closed.
THREADS, CONNECTIONS, IDLE_SECONDS = 6, 2000, 75
HEADER_BYTES, BODY_BYTES = 64 * 1024, 600 * 1024 * 1024
_LONGEST_PAUSE, _SETTLED = 30.0, 10.0


def listening(host: str, port: int) -> socket.socket:
    """A socket that takes connections at an address of this machine."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    found = socket.socket(family)
    found.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    found.bind((host, port))
    found.listen(1024)
    return found


def options() -> dict[str, Any]:
    """What waitress is told. Behind a proxy that ends TLS only that one's word counts for who asks and how."""
    told: dict[str, Any] = {
        "threads": THREADS,
        "connection_limit": CONNECTIONS,
        "channel_timeout": IDLE_SECONDS,
        "cleanup_interval": 10,
        "max_request_header_size": HEADER_BYTES,
        "max_request_body_size": BODY_BYTES,
        "asyncore_use_poll": True,
        "ident": "Brunt",
    }
    if os.environ.get("BRUNT_HTTPS"):
        told["trusted_proxy"] = os.environ.get("BRUNT_PROXY", "127.0.0.1")
        told["trusted_proxy_headers"] = {"x-forwarded-for", "x-forwarded-proto", "x-forwarded-host"}
    return told


def answer_requests(application: Any, taken: socket.socket) -> None:
    """Answer requests in this process until it is told to end."""
    from waitress.server import create_server

    # That a request waited for a thread for a moment is nothing to write down.
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    server = create_server(application, sockets=[taken], **options())
    signal.signal(signal.SIGTERM, _leave)
    server.run()


def _leave(number: int, frame: FrameType | None) -> None:
    raise SystemExit(0)


class _Copies:
    """The processes that answer: each one that ends is followed by another, after a pause that grows."""

    def __init__(self, application: Any, taken: socket.socket, count: int) -> None:
        self.application, self.taken, self.count = application, taken, count
        self.running: dict[int, float] = {}
        self.pause = 0.0
        self.going = True

    def keep(self) -> int:
        """Until this process is told to end."""
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, self._stop)
        while self.going:
            while len(self.running) < self.count:
                self._begin()
            self._wait()
        for pid in self.running:
            os.kill(pid, signal.SIGTERM)
        until = time.monotonic() + 5
        while self.running and time.monotonic() < until:
            self._reap(os.WNOHANG)
            time.sleep(0.05)
        for pid in self.running:
            os.kill(pid, signal.SIGKILL)
        return 0

    def _begin(self) -> None:
        pid = os.fork()
        if pid:
            self.running[pid] = time.monotonic()
            return
        # What ends the one that keeps the copies must not run in a copy, which knows the others' processes.
        signal.signal(signal.SIGTERM, signal.SIG_DFL)
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        die_with_parent(signal.SIGKILL)
        gc.enable()
        try:
            answer_requests(self.application, self.taken)
        finally:
            os._exit(0)

    def _wait(self) -> None:
        """Until one of them ends; one that lived long is followed at once."""
        lived = self._reap(0)
        if lived is None or not self.going:
            return
        self.pause = 0.0 if lived > _SETTLED else min(max(self.pause * 2, 0.2), _LONGEST_PAUSE)
        time.sleep(self.pause)

    def _reap(self, how: int) -> float | None:
        try:
            pid, _ = os.waitpid(-1, how)
        except (ChildProcessError, InterruptedError):
            return None
        begun = self.running.pop(pid, None)
        return None if begun is None else time.monotonic() - begun

    def _stop(self, number: int, frame: FrameType | None) -> None:
        self.going = False
        for pid in self.running:
            os.kill(pid, signal.SIGTERM)


def main() -> int:
    """Import the site, then answer."""
    parser = argparse.ArgumentParser(prog="brunt_web.serve", description=main.__doc__)
    parser.add_argument("--app", default="brunt_web.wsgi", help="the module with `application`")
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=int, default=8000)
    parser.add_argument("--fd", type=int, help="a socket that takes connections already")
    parser.add_argument("--workers", type=int, default=2)
    chosen = parser.parse_args()
    taken = (
        listening(chosen.host, chosen.port)
        if chosen.fd is None
        else socket.socket(fileno=chosen.fd)
    )
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(most, 65536), most))
    # While everything is imported there is nothing to throw away; the copies share what was imported.
    gc.disable()
    application = import_module(chosen.app).application
    gc.freeze()
    return _Copies(application, taken, chosen.workers).keep()


if __name__ == "__main__":
    sys.exit(main())
