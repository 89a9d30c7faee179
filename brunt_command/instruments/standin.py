"""``./brunt instrument NAME --port N``: a simulated instrument on a TCP port, for trying a wire out."""

import argparse
import asyncio
import time
from contextlib import suppress

from brunt_command.instruments.simulated import STANDINS


async def serve(name: str, host: str, port: int) -> None:
    """Speak the line protocol to whoever connects; each gets an instrument of their own."""

    async def answer(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        one, begun, count = STANDINS[name](), time.monotonic(), 0
        writer.write(f"# {one.name}, simulated\n".encode())

        async def hear() -> None:
            while raw := await reader.readline():
                one.told(raw.decode(errors="replace").strip(), time.monotonic() - begun)

        hearing = asyncio.create_task(hear())
        with suppress(ConnectionError):
            while not hearing.done():
                while count <= (time.monotonic() - begun) * one.rate:
                    writer.write(f"{one.line(count / one.rate)}\n".encode())
                    count += 1
                await writer.drain()
                await asyncio.sleep(0.01)
        writer.close()

    server = await asyncio.start_server(answer, host, port)
    async with server:
        await server.serve_forever()


def main() -> int:
    """Serve one stand-in."""
    parser = argparse.ArgumentParser(prog="./brunt instrument", description=main.__doc__)
    parser.add_argument("name", choices=sorted(STANDINS))
    parser.add_argument("--port", type=int, default=4001)
    parser.add_argument("--host", default="127.0.0.1")
    chosen = parser.parse_args()
    print(
        f"A simulated {chosen.name} at tcp:{chosen.host}:{chosen.port}; Ctrl-C ends it.", flush=True
    )
    with suppress(KeyboardInterrupt):
        asyncio.run(serve(chosen.name, chosen.host, chosen.port))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
