"""From a wire to a browser: lines of instruments over TCP, serial or simulated, as server-sent events.

One process beside the web server, without a database: which instrument may be opened is in a token that
the web server signs. Lines are kept for ten minutes, so that whoever was cut off gets what they missed.
"""

import argparse
import asyncio
import os
import time
from collections import deque
from collections.abc import AsyncIterator, Callable
from contextlib import suppress
from typing import Any
from urllib.parse import parse_qs, urlsplit

from brunt_command.instruments.simulated import STANDINS
from brunt_web.interface.wires import opened

KEPT_LINES, TOGETHER, IDLE = 60_000, 0.04, 60.0
_MOST_LINE = 400


class Source:
    """One instrument, however many look at it; its lines with their numbers."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.lines: deque[tuple[int, str]] = deque(maxlen=KEPT_LINES)
        # Numbers go on growing over a restart of the bridge, so that "after this one" stays true.
        self.number = int(time.time() * 1000) * 1000
        self.status, self.asked = "opening", time.monotonic()
        self.say: Callable[[str], None] = lambda text: None
        self.task = asyncio.create_task(self._run())

    def put(self, text: str) -> None:
        """A line came."""
        said = " ".join(text.split())[:_MOST_LINE]
        if said and not said.startswith("#"):
            self.number += 1
            self.lines.append((self.number, said))

    async def _run(self) -> None:
        kind, _, rest = self.address.partition(":")
        open_ = {"sim": self._simulate, "tcp": self._tcp, "serial": self._serial}.get(kind)
        if open_ is None:
            self.status = f"“{self.address}” names no instrument"
            return
        wait = 0.2
        while time.monotonic() - self.asked < IDLE:
            try:
                await open_(rest)
                self.status = "the instrument ended"
            except (OSError, ValueError) as problem:
                self.status = f"not there: {problem}"
            await asyncio.sleep(wait)
            wait = min(wait * 2, 5.0)

    async def _simulate(self, name: str) -> None:
        if name not in STANDINS:
            raise ValueError(f"there is no stand-in “{name}”")
        one, begun, count = STANDINS[name](), time.monotonic(), 0
        self.say = lambda text: one.told(text, time.monotonic() - begun)
        self.status = "simulated"
        while time.monotonic() - self.asked < IDLE:
            now = time.monotonic() - begun
            while count <= now * one.rate:
                self.put(one.line(count / one.rate))
                count += 1
            await asyncio.sleep(0.01)

    async def _tcp(self, rest: str) -> None:
        host, _, port = rest.strip("/").rpartition(":")
        reader, writer = await asyncio.wait_for(asyncio.open_connection(host, int(port)), 5)
        self.status = "connected"
        self.say = lambda text: writer.write(text.encode() + b"\n")
        try:
            while raw := await reader.readline():
                self.put(raw.decode(errors="replace"))
                if time.monotonic() - self.asked > IDLE:
                    return
        finally:
            self.say = lambda text: None
            writer.close()

    async def _serial(self, rest: str) -> None:
        import serial

        path, _, speed = rest.partition("@")
        loop = asyncio.get_running_loop()
        port = await loop.run_in_executor(
            None, lambda: serial.Serial(path, int(speed or 9600), timeout=0.5)
        )
        self.status = "connected"
        self.say = lambda text: port.write(text.encode() + b"\n")
        try:
            while time.monotonic() - self.asked < IDLE:
                raw = await loop.run_in_executor(None, port.readline)
                if raw:
                    self.put(raw.decode(errors="replace"))
        finally:
            self.say = lambda text: None
            port.close()


class Bridge:
    """Answers browsers: ``/stream`` sends lines as they come, ``/say`` passes one to the instrument."""

    def __init__(self, secret: str) -> None:
        self.secret, self.sources = secret, dict[str, Source]()

    def source(self, address: str) -> Source:
        """The instrument at an address, opened where it is not yet."""
        found = self.sources.get(address)
        if found is None or found.task.done():
            found = self.sources[address] = Source(address)
        found.asked = time.monotonic()
        return found

    async def answer(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """One request."""
        with suppress(ConnectionError, asyncio.IncompleteReadError, asyncio.TimeoutError):
            head = (await asyncio.wait_for(reader.readuntil(b"\r\n\r\n"), 10)).decode("latin-1")
            verb, target, _ = head.split(" ", 2)
            headers = {
                k.strip().lower(): v.strip()
                for k, _, v in (line.partition(":") for line in head.split("\r\n")[1:])
            }
            await self._told(writer, verb, urlsplit(target), headers)
        with suppress(ConnectionError):
            writer.close()

    async def _told(self, writer: Any, verb: str, target: Any, headers: dict[str, str]) -> None:
        asked = {k: v[0] for k, v in parse_qs(target.query).items()}
        address = opened(asked.get("token", ""), time.time(), self.secret)
        shared = _allowed(headers)
        if target.path == "/health":
            writer.write(_head("200 OK", "text/plain", shared) + b"ok")
        elif not address:
            writer.write(_head("403 Forbidden", "text/plain", shared) + b"not signed")
        elif verb == "POST" and target.path == "/say":
            self.source(address).say(asked.get("line", "")[:60].strip())
            writer.write(_head("204 No Content", "text/plain", shared))
        elif verb == "GET" and target.path == "/stream":
            writer.write(_head("200 OK", "text/event-stream", shared))
            since = headers.get("last-event-id") or asked.get("since", "")
            async for part in self._stream(address, int(since) if since.isdigit() else 0):
                writer.write(part)
                await writer.drain()
        else:
            writer.write(_head("404 Not Found", "text/plain", shared))
        await writer.drain()

    async def _stream(self, address: str, since: int) -> AsyncIterator[bytes]:
        """Lines gathered for a blink; how it stands when that changes, and where it is quiet a sign of life."""
        at, quiet, told = since, 0.0, ""
        if not since:
            at = self.source(address).number
        while True:
            source = self.source(address)
            if source.status != told:
                told, quiet = source.status, 0.0
                yield f"event: status\ndata: {told}\n\n".encode()
            fresh = []
            for number, text in reversed(source.lines):
                if number <= at:
                    break
                fresh.append((number, text))
            if fresh:
                at, quiet = fresh[0][0], 0.0
                data = "".join(f"data: {text}\n" for _, text in reversed(fresh))
                yield f"id: {at}\n{data}\n".encode()
            elif quiet >= 1.0:
                quiet = 0.0
                yield f"event: status\ndata: {source.status}\n\n".encode()
            quiet += TOGETHER
            await asyncio.sleep(TOGETHER)


def _allowed(headers: dict[str, str]) -> str:
    """The origin that may read: a page of the same machine's web server, whatever its port."""
    origin, host = headers.get("origin", ""), urlsplit(f"//{headers.get('host', '')}").hostname
    return origin if origin and host and urlsplit(origin).hostname == host else ""


def _head(status: str, kind: str, shared: str) -> bytes:
    cross = f"Access-Control-Allow-Origin: {shared}\r\nVary: Origin\r\n" if shared else ""
    return (
        f"HTTP/1.1 {status}\r\nContent-Type: {kind}; charset=utf-8\r\nCache-Control: no-store\r\n"
        f"X-Content-Type-Options: nosniff\r\n{cross}Connection: close\r\n\r\n"
    ).encode()


async def serve(host: str, port: int, secret: str) -> None:
    """Answer until the process ends."""
    bridge = Bridge(secret)
    server = await asyncio.start_server(bridge.answer, host, port)
    async with server:
        await server.serve_forever()


def main() -> int:
    """Serve at an address and a port; the secret is the web server's own."""
    parser = argparse.ArgumentParser(prog="brunt instruments")
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=int, required=True)
    chosen = parser.parse_args()
    with suppress(KeyboardInterrupt):
        asyncio.run(serve(chosen.host, chosen.port, os.environ["BRUNT_SECRET_KEY"]))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
