"""Live instruments: tokens, stand-ins, the bridge over simulated, TCP and serial wires, what was missed, its rate."""

import asyncio
import os
import pty
import time
import unittest
from functools import wraps
from urllib.parse import quote

from brunt_command.beside import free_port
from brunt_command.instruments import standin
from brunt_command.instruments.bridge import Bridge, _allowed
from brunt_command.instruments.simulated import STANDINS
from brunt_core.quantities import parse_typed
from brunt_web.interface.wires import opened, signed

SECRET = "only for tests"
_DIMENSIONS = {
    "load-cell": "force",
    "torque-adapter": "torque",
    "pendulum": "angle",
    "thermometer": "temperature",
    "scale": "mass",
    "dial": "length",
}


class Tokens(unittest.TestCase):
    def test_only_what_was_signed_here_and_not_too_old_is_opened(self):
        token = signed("tcp:10.0.0.5:4001", 1000, SECRET)
        self.assertEqual(opened(token, 999, SECRET), "tcp:10.0.0.5:4001")
        for bad, now, secret in (
            (token, 1001, SECRET),
            (token, 999, "another"),
            (token[:-1] + "0", 999, SECRET),
            ("", 999, SECRET),
            ("a.b", 999, SECRET),
            (signed("x", 1000, SECRET).split(".")[0] + "." + token.split(".")[1], 999, SECRET),
        ):
            self.assertEqual(opened(bad, now, secret), "")


class Standins(unittest.TestCase):
    def test_every_line_is_read_by_the_core_and_tests_end(self):
        for name, kind in _DIMENSIONS.items():
            one = STANDINS[name]()
            one.told("pull", 1.0)
            values = []
            for i in range(int(one.rate * 40)):
                parts = [p.strip() for p in one.line(1 + i / one.rate).split(";")]
                said = next(p for p in parts if not p.endswith(" s") or kind == "time")
                values.append(parse_typed(said, kind).observation.anchor)
            self.assertGreater(max(values), values[0], name)
        self.assertEqual(set(_DIMENSIONS), set(STANDINS))

    def test_the_load_cell_breaks(self):
        one = STANDINS["load-cell"](seed=3)
        one.told("pull", 0.0)
        loads = [float(one.line(t / 100).split(";")[1].split()[0]) for t in range(1500)]
        peak = loads.index(max(loads))
        self.assertTrue(400 < max(loads) < 660)
        self.assertLess(max(loads[peak + 5 : peak + 40]), 5)


def within(act):
    """A test that runs within a loop and a bridge of its own (the runner sends tests to other processes as they are)."""

    @wraps(act)
    def run(self):
        async def around():
            await self.begin()
            try:
                await act(self)
            finally:
                await self.end()

        asyncio.run(around())

    return run


class Wires(unittest.TestCase):
    async def begin(self):
        self.bridge = Bridge(SECRET)
        self.server = await asyncio.start_server(self.bridge.answer, "127.0.0.1", 0)
        self.port = self.server.sockets[0].getsockname()[1]

    async def end(self):
        self.server.close()
        for source in self.bridge.sources.values():
            source.task.cancel()

    async def ask(self, target, verb="GET", headers=""):
        reader, writer = await asyncio.open_connection("127.0.0.1", self.port)
        writer.write(
            f"{verb} {target} HTTP/1.1\r\nHost: 127.0.0.1:{self.port}\r\n{headers}\r\n".encode()
        )
        await writer.drain()
        return reader, writer

    def stream(self, address, since=""):
        token = quote(signed(address, time.time() + 60, SECRET))
        return f"/stream?token={token}&since={since}"

    async def lines(self, reader, count, seconds=40.0):
        """So many lines of a stream, with the number of the last."""
        found, last = [], ""

        async def read():
            nonlocal last
            raw = "-"
            while len(found) < count or raw:
                raw = (await reader.readline()).decode().rstrip("\n")
                if raw.startswith("id: "):
                    last = raw[4:]
                elif raw.startswith("data: ") and ";" in raw:
                    found.append(raw[6:])

        await asyncio.wait_for(read(), seconds)
        return found, last

    @within
    async def test_a_hundred_a_second_keep_up_and_none_is_missed(self):
        reader, writer = await self.ask(self.stream("sim:load-cell"))
        begun = time.monotonic()
        found, _ = await self.lines(reader, 250)
        self.assertLess(time.monotonic() - begun, 15)
        times = [float(x.split(" s")[0]) for x in found]
        steps = {round(b - a, 3) for a, b in zip(times, times[1:], strict=False)}
        self.assertEqual(steps, {0.01})
        writer.close()

    @within
    async def test_who_was_cut_off_gets_what_they_missed(self):
        reader, writer = await self.ask(self.stream("sim:load-cell"))
        first, last = await self.lines(reader, 30)
        writer.close()
        await asyncio.sleep(0.6)
        reader, writer = await self.ask(self.stream("sim:load-cell", last))
        second, _ = await self.lines(reader, 60)
        times = [float(x.split(" s")[0]) for x in first + second]
        kept = times[: len(first)] + [t for t in times[len(first) :] if t > times[len(first) - 1]]
        gaps = [b - a for a, b in zip(kept, kept[1:], strict=False)]
        self.assertLess(max(gaps), 0.011)
        writer.close()

    @within
    async def test_over_tcp_and_what_it_is_told(self):
        port = free_port("127.0.0.1", 0)
        server = asyncio.create_task(standin.serve("dial", "127.0.0.1", port))
        await asyncio.sleep(0.1)
        reader, writer = await self.ask(self.stream(f"tcp:127.0.0.1:{port}"))
        found, _ = await self.lines(reader, 3)
        self.assertIn("mm", found[0])
        token = quote(signed(f"tcp:127.0.0.1:{port}", time.time() + 60, SECRET))
        answer, _ = await self.ask(f"/say?token={token}&line=pull", "POST")
        self.assertIn(b"204", await answer.readline())
        for _ in range(40):
            found, _ = await self.lines(reader, 1)
            if float(found[0].split(";")[1].split()[0]) > 1:
                break
        self.assertGreater(float(found[0].split(";")[1].split()[0]), 1)
        server.cancel()
        writer.close()

    @within
    async def test_over_a_serial_port(self):
        wire, theirs = pty.openpty()
        reader, writer = await self.ask(self.stream(f"serial:{os.ttyname(theirs)}@9600"))
        await asyncio.sleep(0.4)
        for n in range(5):
            os.write(wire, f"# hello\n{n}.5 s; {n} N\n".encode())
        found, _ = await self.lines(reader, 5)
        self.assertEqual(found[-1], "4.5 s; 4 N")
        writer.close()
        os.close(wire)

    @within
    async def test_what_is_not_signed_or_not_there_is_said(self):
        for target, verb, said in (
            ("/stream?token=x", "GET", b"403"),
            ("/say?line=zero", "POST", b"403"),
            ("/health", "GET", b"200"),
            (self.stream("sim:dial").replace("/stream", "/nothing"), "GET", b"404"),
        ):
            reader, writer = await self.ask(target, verb)
            self.assertIn(said, await reader.readline())
            writer.close()
        reader, writer = await self.ask(self.stream("tcp:127.0.0.1:1"))
        said = (await asyncio.wait_for(reader.readuntil(b"not there"), 40)).decode()
        self.assertIn("event: status", said)
        writer.close()

    @within
    async def test_only_a_page_of_the_same_machine_may_read(self):
        for origin, allowed in (
            ("http://127.0.0.1:8000", True),
            ("https://elsewhere.example", False),
        ):
            reader, writer = await self.ask("/health", headers=f"Origin: {origin}\r\n")
            head = await reader.readuntil(b"\r\n\r\n")
            self.assertEqual(b"Access-Control-Allow-Origin" in head, allowed)
            writer.close()

    def test_behind_a_proxy_the_host_has_no_port(self):
        for origin, host, allowed in (
            ("https://brunt.example", "brunt.example", True),
            ("https://brunt.example:8443", "brunt.example", True),
            ("http://[::1]:8000", "[::1]:8010", True),
            ("https://elsewhere.example", "brunt.example", False),
            ("", "brunt.example", False),
            ("https://brunt.example", "", False),
        ):
            said = _allowed({"origin": origin, "host": host})
            self.assertEqual(said, origin if allowed else "")
