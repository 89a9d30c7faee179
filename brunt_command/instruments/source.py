"""One instrument, however many look at it: its wire, its lines, each with a number.

Numbers follow one another while nothing is missing. Where lines were lost (the wire was opened again, or was silent
for long) a number is excluded, so that whoever reads sees it.
"""

import asyncio
import os
import re
import time
from collections import deque
from collections.abc import Callable

from brunt_command.instruments.lease import Leases
from brunt_command.instruments.simulated import STANDINS
from brunt_web.interface.instrument_tokens import Wire, device, tcp_parts, where

KEPT_LINES, IDLE = 60_000, 60.0
_MOST_LINE = 400
# A line without a time of its own that comes this much later than usual, and later than a second: some are missing.
_SILENCE, _LEAST_SILENCE = 10.0, 1.0
_OWN_TIME = re.compile(r"(?:^|;)\s*[-+]?[\d.,]+\s*(?:ms|s|min)\s*(?:;|$)")
_SAID_SIMULATED = re.compile(r"#.*\bsimulated\b")


class Source:
    """An instrument that is read while somebody asks for it, and for a minute after."""

    def __init__(self, wire: Wire) -> None:
        self.wire = wire
        self.lines: deque[tuple[int, str]] = deque(maxlen=KEPT_LINES)
        # Numbers go on growing over a restart of the bridge; the step between is seen as lines missing.
        self.number = int(time.time() * 1000) * 1000
        self.status, self.asked = "opening", time.monotonic()
        self.simulated, self.leases = False, Leases()
        self.say: Callable[[str], None] = lambda text: None
        self._last, self._usual = 0.0, 0.0
        self.task = asyncio.create_task(self._run())

    def put(self, text: str) -> None:
        """A line came."""
        said = " ".join(text.split())[:_MOST_LINE]
        if _SAID_SIMULATED.match(said):
            self.simulated = True
        if not said or said.startswith("#"):
            return
        self._look_for_silence(said)
        self.number += 1
        self.lines.append((self.number, said))

    def _look_for_silence(self, said: str) -> None:
        now = time.monotonic()
        passed = now - self._last if self._last else 0.0
        self._last = now
        if passed < _LEAST_SILENCE:
            self._usual = 0.9 * self._usual + 0.1 * passed
            return
        if not _OWN_TIME.search(said) and self._usual and passed > _SILENCE * self._usual:
            self.number += 1

    def _again(self, status: str) -> None:
        """The wire was opened: what came between is missing."""
        self.status, self._usual, self._last = status, 0.0, 0.0
        self.number += 1

    async def _run(self) -> None:
        kind, _, rest = self.wire.address.partition(":")
        open_ = {"sim": self._simulate, "tcp": self._tcp, "serial": self._serial}.get(kind)
        if open_ is None:
            self.status = f"“{self.wire.address}” names no instrument"
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
        self.simulated = True
        self._again("simulated")
        while time.monotonic() - self.asked < IDLE:
            now = time.monotonic() - begun
            while count <= now * one.rate:
                self.number += 1
                self.lines.append((self.number, one.line(count / one.rate)))
                count += 1
            await asyncio.sleep(0.01)

    async def _tcp(self, rest: str) -> None:
        host, port = tcp_parts(rest)
        loop = asyncio.get_running_loop()
        own = frozenset(int(p) for p in os.environ.get("BRUNT_OWN_PORTS", "").split(",") if p)
        at = await loop.run_in_executor(None, lambda: where(host, port, self.wire.networks, own))
        reader, writer = await asyncio.wait_for(asyncio.open_connection(at, port), 5)
        self.say = lambda text: writer.write(text.encode() + b"\n")
        self._again("connected")
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
            None, lambda: serial.Serial(device(path), int(speed or 9600), timeout=0.5)
        )
        self.say = lambda text: port.write(text.encode() + b"\n")
        self._again("connected")
        try:
            while time.monotonic() - self.asked < IDLE:
                raw = await loop.run_in_executor(None, port.readline)
                if raw:
                    self.put(raw.decode(errors="replace"))
        finally:
            self.say = lambda text: None
            port.close()
