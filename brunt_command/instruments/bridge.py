"""From a wire to a browser: lines of instruments over TCP, serial or simulated, as server-sent events.

One process beside the web server, without a database: which instrument may be opened, and for whom, is in a token
that the web server signs. One page has an instrument at a time, for one specimen: opening a stream takes it up, from
the next line on; a page that was cut off goes on from its last line, for ten minutes are kept. Others are told who
has it.
"""

import argparse
import asyncio
import json
import os
import time
from collections.abc import AsyncGenerator
from contextlib import aclosing, suppress
from typing import Any
from urllib.parse import parse_qs, urlsplit

from brunt_command.instruments.lease import Lease
from brunt_command.instruments.source import Source
from brunt_web.interface.instrument_tokens import Wire, open_token

TOGETHER, QUIET = 0.04, 1.0
# What an instrument may be told by a page; "pull" moves something and goes to stand-ins alone.
_ZERO, _PULL = "zero", "pull"


class Bridge:
    """Answers browsers: ``/stream`` takes an instrument up and sends its lines, ``/say`` passes one to it,
    ``/leave`` gives it back.
    """

    def __init__(self, secret: str) -> None:
        self.secret, self.sources = secret, dict[str, Source]()

    def source(self, wire: Wire) -> Source:
        """The instrument at an address, opened where it is not yet."""
        found = self.sources.get(wire.address)
        if found is None or found.task.done():
            leases = found.leases if found else None
            found = self.sources[wire.address] = Source(wire)
            found.leases = leases or found.leases
        found.asked = time.monotonic()
        return found

    async def answer(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """One request."""
        with suppress(
            ConnectionError, asyncio.IncompleteReadError, asyncio.TimeoutError, ValueError
        ):
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
        wire = open_token(asked.get("token", ""), time.time(), self.secret)
        shared, client = _allowed(headers), asked.get("client", "")[:60]
        if target.path == "/health":
            writer.write(_head("200 OK", "text/plain", shared) + b"ok")
        elif wire is None:
            writer.write(_head("403 Forbidden", "text/plain", shared) + b"not signed")
        elif not client:
            writer.write(_head("400 Bad Request", "text/plain", shared) + b"no page named")
        elif verb == "POST" and target.path == "/say":
            said = self._say(self.source(wire), client, asked.get("line", "").strip())
            writer.write(_head("204 No Content" if said else "409 Conflict", "text/plain", shared))
        elif verb == "POST" and target.path == "/leave":
            self.source(wire).leases.leave(client)
            writer.write(_head("204 No Content", "text/plain", shared))
        elif verb == "GET" and target.path == "/stream":
            writer.write(_head("200 OK", "text/event-stream", shared))
            since = headers.get("last-event-id", "")
            after = int(since) if since.isdigit() else 0
            async with aclosing(self._stream(wire, client, asked, after)) as parts:
                async for part in parts:
                    writer.write(part)
                    await writer.drain()
        else:
            writer.write(_head("404 Not Found", "text/plain", shared))
        await writer.drain()

    def _say(self, source: Source, client: str, line: str) -> bool:
        """Pass a line on from the page that has the instrument; whether it may be said."""
        held = source.leases.now
        if held is None or held.client != client or line not in (_ZERO, _PULL):
            return False
        if line == _ZERO or source.simulated:
            source.say(line)
        return True

    async def _stream(
        self, wire: Wire, client: str, asked: dict[str, str], since: int
    ) -> AsyncGenerator[bytes, None]:
        """Its lines while this page has it; who has it where another does."""
        source, at = self.source(wire), time.monotonic()
        held = source.leases.resume(client, since, at) if since else None
        if held is None:
            specimen = asked.get("specimen", "")[:80]
            asks = Lease(client, wire.who, specimen, time.time(), source.number)
            held = source.leases.take(asks, at, over=asked.get("over") == "1" and not since)
            since = source.number
        if held is not None:
            try:
                async with aclosing(self._lines(wire, held, since)) as parts:
                    async for part in parts:
                        yield part
            finally:
                source.leases.ended(held, time.monotonic())
        async for part in self._not_ours(wire, client):
            yield part

    async def _lines(self, wire: Wire, held: Lease, at: int) -> AsyncGenerator[bytes, None]:
        """Lines gathered for a blink, each with its number; how the wire stands when that changes, and where it
        is quiet a sign of life. Ends when the instrument is taken over.
        """
        quiet, told = 0.0, ""
        yield _event("lease", {"mine": True, "simulated": self.source(wire).simulated})
        while True:
            source = self.source(wire)
            if source.leases.now is not held:
                return
            if source.status != told or quiet >= QUIET:
                told, quiet = source.status, 0.0
                yield f"event: status\ndata: {told}\n\n".encode()
            fresh = []
            for number, text in reversed(source.lines):
                if number <= at:
                    break
                fresh.append((number, text))
            if fresh:
                at, quiet = fresh[0][0], 0.0
                data = "".join(f"data: {number} {text}\n" for number, text in reversed(fresh))
                yield f"id: {at}\n{data}\n".encode()
            quiet += TOGETHER
            await asyncio.sleep(TOGETHER)

    async def _not_ours(self, wire: Wire, client: str) -> AsyncGenerator[bytes, None]:
        """Who has it, said again each second, until it is free; asking does not keep it open."""
        while True:
            source = self.sources.get(wire.address)
            held = source.leases.now if source else None
            if source is None or held is None or source.leases.free(time.monotonic()):
                yield _event("lease", {"mine": False, "free": True})
                return
            if held.client == client:
                return
            who, specimen = held.who, held.specimen
            yield _event(
                "lease", {"mine": False, "who": who, "specimen": specimen, "since": held.since}
            )
            await asyncio.sleep(QUIET)


def _event(name: str, told: dict[str, object]) -> bytes:
    return f"event: {name}\ndata: {json.dumps(told)}\n\n".encode()


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
