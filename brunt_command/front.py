"""TLS before the web server, for a workshop without a proxy of its own: one request a connection, passed on whole.

It ends TLS with the certificate of :mod:`brunt_command.certificate`, says whose request it is and that it came by
https, and passes ``/bridge/`` on to the bridge of the instruments. Slow senders cost it a task, not a thread.
"""

import argparse
import asyncio
import socket
import ssl
import sys
from contextlib import suppress
from pathlib import Path

HEAD_BYTES, HEAD_SECONDS, BODY_SECONDS = 64 * 1024, 20.0, 60.0
_BLOCK = 64 * 1024
_BRIDGE = b"/bridge/"
# What only this front may say, and what belongs to one connection.
_DROPPED = (
    b"x-forwarded-",
    b"forwarded",
    b"connection",
    b"keep-alive",
    b"proxy-",
    b"upgrade",
    b"te",
)


class Front:
    """Answers connections; ``web`` and ``bridge`` are ports of this machine."""

    def __init__(self, web: int, bridge: int) -> None:
        self.web, self.bridge = web, bridge

    async def answer(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """One request, and its answer until that ends."""
        with suppress(
            OSError, asyncio.IncompleteReadError, asyncio.LimitOverrunError, asyncio.TimeoutError
        ):
            head = await asyncio.wait_for(reader.readuntil(b"\r\n\r\n"), HEAD_SECONDS)
            peer = (writer.get_extra_info("peername") or ("",))[0]
            port, passed, length = self.passed_on(head, peer)
            if passed is None:
                writer.write(
                    b"HTTP/1.1 400 Bad Request\r\nContent-Length: 0\r\nConnection: close\r\n\r\n"
                )
                await writer.drain()
            else:
                await self._through(reader, writer, port, passed, length)
        with suppress(OSError, ssl.SSLError):
            writer.close()

    def passed_on(self, head: bytes, peer: str) -> tuple[int, bytes | None, int]:
        """Where a request goes, its head as it is passed on, how many bytes of body follow; no head where it is none.

        A body must say its length: another request behind it cannot ride along unseen.
        """
        first, *lines = head.rstrip(b"\r\n").split(b"\r\n")
        parts = first.split(b" ")
        if len(parts) != 3 or not parts[2].startswith(b"HTTP/1.") or not parts[1].startswith(b"/"):
            return self.web, None, 0
        kept, lengths = [], set()
        for line in lines:
            name, colon, value = line.partition(b":")
            name = name.lower()
            if not colon or name.strip() != name or name == b"transfer-encoding":
                return self.web, None, 0
            if name == b"content-length":
                lengths.add(value.strip())
            if not name.startswith(_DROPPED):
                kept.append(line)
        if len(lengths) > 1 or any(not n.isdigit() for n in lengths):
            return self.web, None, 0
        port = self.web
        if parts[1].startswith(_BRIDGE):
            port, parts[1] = self.bridge, parts[1][len(_BRIDGE) - 1 :]
        told = [
            f"X-Forwarded-For: {peer}".encode(),
            b"X-Forwarded-Proto: https",
            b"Connection: close",
        ]
        passed = b"\r\n".join([b" ".join(parts), *kept, *told]) + b"\r\n\r\n"
        return port, passed, int(next(iter(lengths), b"0"))

    async def _through(
        self,
        reader: asyncio.StreamReader,
        writer: asyncio.StreamWriter,
        port: int,
        head: bytes,
        length: int,
    ) -> None:
        there, back = await asyncio.open_connection("127.0.0.1", port)
        back.write(head)
        sending = asyncio.create_task(_send(reader, back, length))
        try:
            while block := await there.read(_BLOCK):
                writer.write(block)
                await writer.drain()
        finally:
            sending.cancel()
            back.close()


async def _send(reader: asyncio.StreamReader, back: asyncio.StreamWriter, length: int) -> None:
    """Pass the body on; who stops in the middle of it is left after a minute."""
    with suppress(OSError, asyncio.TimeoutError):
        while length:
            block = await asyncio.wait_for(reader.read(min(_BLOCK, length)), BODY_SECONDS)
            if not block:
                back.close()
                return
            length -= len(block)
            back.write(block)
            await back.drain()


def context(folder: Path) -> ssl.SSLContext:
    """TLS 1.2 or newer with the certificate in a folder."""
    made = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    made.minimum_version = ssl.TLSVersion.TLSv1_2
    made.load_cert_chain(folder / "certificate.pem", folder / "key.pem")
    return made


async def serve(taken: socket.socket, front: Front, secured: ssl.SSLContext) -> None:
    """Answer until the process ends."""
    server = await asyncio.start_server(
        front.answer, sock=taken, ssl=secured, limit=HEAD_BYTES, ssl_handshake_timeout=HEAD_SECONDS
    )
    async with server:
        await server.serve_forever()


def main() -> int:
    """Serve on a socket that is handed over."""
    parser = argparse.ArgumentParser(prog="brunt_command.front", description=main.__doc__)
    parser.add_argument("--fd", type=int, required=True)
    parser.add_argument("--web", type=int, required=True)
    parser.add_argument("--bridge", type=int, required=True)
    parser.add_argument("--certificate", type=Path, required=True)
    chosen = parser.parse_args()
    taken = socket.socket(fileno=chosen.fd)
    with suppress(KeyboardInterrupt):
        asyncio.run(serve(taken, Front(chosen.web, chosen.bridge), context(chosen.certificate)))
    return 0


if __name__ == "__main__":
    sys.exit(main())
