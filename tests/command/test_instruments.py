"""Live instruments: tokens, stand-ins, the bridge over simulated, TCP and serial wires, what was missed, its rate."""

import asyncio
import json
import os
import pty
import time
import unittest
from functools import wraps
from urllib.parse import urlencode

from brunt_command.beside import free_port
from brunt_command.instruments import standin
from brunt_command.instruments.bridge import Bridge, _allowed
from brunt_command.instruments.simulated import STANDINS
from brunt_command.instruments.source import Source
from brunt_core.errors import InputError
from brunt_core.quantities import parse_typed
from brunt_web.interface.instrument_tokens import (
    PRIVATE,
    Wire,
    checked_networks,
    device,
    open_token,
    sign_token,
    where,
)

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
        wire = Wire("tcp:10.0.0.5:4001", "Ida", "10.0.0.0/8")
        token = sign_token(wire, 1000, SECRET)
        self.assertEqual(open_token(token, 999, SECRET), wire)
        for bad, now, secret in (
            (token, 1001, SECRET),
            (token, 999, "another"),
            (token[:-1] + "0", 999, SECRET),
            ("", 999, SECRET),
            ("a.b", 999, SECRET),
            ("a.é", 999, SECRET),
            (
                sign_token(Wire("x"), 1000, SECRET).split(".")[0] + "." + token.split(".")[1],
                999,
                SECRET,
            ),
        ):
            self.assertIsNone(open_token(bad, now, secret))


class Places(unittest.TestCase):
    """Where an instrument may stand: private networks the owner names, no port of Brunt's, no other file."""

    def test_networks(self):
        self.assertEqual(where("10.1.2.3", 4001, PRIVATE), "10.1.2.3")
        self.assertEqual(where("127.0.0.1", 4001, "127.0.0.0/8"), "127.0.0.1")
        for host, port, networks in (
            ("8.8.8.8", 80, PRIVATE),
            ("169.254.169.254", 80, PRIVATE),
            ("127.0.0.1", 4001, PRIVATE),
            ("localhost", 4001, PRIVATE),
            ("::1", 4001, PRIVATE),
            ("::ffff:127.0.0.1", 4001, PRIVATE),
            ("10.1.2.3", 4001, ""),
            ("10.1.2.3", 0, PRIVATE),
            ("10.1.2.3", 70000, PRIVATE),
            ("127.0.0.1", 8000, "127.0.0.0/8"),
            ("127.0.0.2", 8000, "127.0.0.0/8"),
            ("127.0.0.1", 5432, "127.0.0.0/8"),
            ("127.0.0.1", 22, "127.0.0.0/8"),
        ):
            with self.assertRaises(OSError, msg=(host, port, networks)):
                where(host, port, networks, frozenset({8000}))
        for bad in ("8.8.8.0/24", "0.0.0.0/0", "::/0", "printer", "10.0.0.0/99"):
            with self.assertRaises(InputError, msg=bad):
                checked_networks(bad)

    def test_devices(self):
        self.assertEqual(device("/dev/null"), "/dev/null")
        for bad in (
            "/dev/../etc/passwd",
            "/etc/passwd",
            "/dev/shm/..",
            "/dev/fd/../../etc",
            "/dev",
        ):
            with self.assertRaises(OSError, msg=bad):
                device(bad)


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

    def stream(self, address, page="a", who="Ida", path="/stream", **more):
        wire = Wire(address, who, "127.0.0.0/8")
        asks = {"token": sign_token(wire, time.time() + 60, SECRET), "client": page, **more}
        return f"{path}?{urlencode(asks)}"

    async def told(self, target):
        """What the head of an answer to a POST says."""
        reader, writer = await self.ask(target, "POST")
        said = (await reader.readline()).decode()
        writer.close()
        return said

    async def events(self, reader, until, seconds=30.0):
        """What leases were told until one satisfies a condition."""
        found = []

        async def read():
            while not found or not until(found[-1]):
                raw = (await reader.readline()).decode()
                if raw.startswith("event: lease"):
                    found.append(json.loads((await reader.readline()).decode()[6:]))

        await asyncio.wait_for(read(), seconds)
        return found[-1]

    async def lines(self, reader, count, seconds=40.0):
        """So many lines of a stream, with the number of the last."""
        found, last = [], ""
        self.numbers = []

        async def read():
            nonlocal last
            raw = "-"
            while len(found) < count or raw:
                raw = (await reader.readline()).decode().rstrip("\n")
                if raw.startswith("id: "):
                    last = raw[4:]
                elif raw.startswith("data: ") and ";" in raw:
                    number, text = raw[6:].split(" ", 1)
                    self.numbers.append(int(number))
                    found.append(text)

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
        numbers = self.numbers
        writer.close()
        await asyncio.sleep(0.6)
        reader, writer = await self.ask(
            self.stream("sim:load-cell"), headers=f"Last-Event-ID: {last}\r\n"
        )
        second, _ = await self.lines(reader, 60)
        times = [float(x.split(" s")[0]) for x in first + second]
        self.assertEqual({round(b - a, 3) for a, b in zip(times, times[1:], strict=False)}, {0.01})
        numbers += self.numbers
        self.assertEqual({b - a for a, b in zip(numbers, numbers[1:], strict=False)}, {1})
        writer.close()

    @within
    async def test_taken_up_again_nothing_of_before_is_sent(self):
        reader, writer = await self.ask(self.stream("sim:load-cell"))
        await self.lines(reader, 30)
        last = self.numbers[-1]
        writer.close()
        await asyncio.sleep(0.3)
        reader, writer = await self.ask(self.stream("sim:load-cell", specimen="GH-0002"))
        await self.lines(reader, 1)
        self.assertGreater(self.numbers[0], last + 10)
        writer.close()

    @within
    async def test_one_page_has_it_and_others_are_told_who(self):
        mine, one = await self.ask(self.stream("sim:load-cell", specimen="GH-0001"))
        await self.lines(mine, 5)
        theirs, two = await self.ask(self.stream("sim:load-cell", page="b", who="Bo"))
        told = await self.events(theirs, lambda e: True)
        self.assertEqual((told["mine"], told["who"], told["specimen"]), (False, "Ida", "GH-0001"))
        self.assertLess(abs(told["since"] - time.time()), 60)
        say = self.stream("sim:load-cell", page="b", path="/say", line="pull")
        self.assertIn("409", await self.told(say))
        self.assertIn("204", await self.told(say.replace("client=b", "client=a")))
        self.assertIn(
            "409", await self.told(self.stream("sim:load-cell", path="/say", line="format"))
        )
        await self.told(self.stream("sim:load-cell", path="/leave"))
        self.assertEqual((await self.events(theirs, lambda e: "free" in e))["free"], True)
        one.close()
        two.close()

    @within
    async def test_taken_over_the_first_hears_of_it_and_gets_no_more_lines(self):
        mine, one = await self.ask(self.stream("sim:load-cell"))
        _, last = await self.lines(mine, 5)
        theirs, two = await self.ask(self.stream("sim:load-cell", page="b", who="Bo", over="1"))
        await self.lines(theirs, 5)
        told = await self.events(mine, lambda e: not e["mine"])
        self.assertEqual(told["who"], "Bo")
        one.close()
        await self.told(self.stream("sim:load-cell", page="b", path="/leave"))
        back, three = await self.ask(
            self.stream("sim:load-cell"), headers=f"Last-Event-ID: {last}\r\n"
        )
        await self.lines(back, 1)
        self.assertGreater(self.numbers[0], int(last) + 1, "what another pulled is no line of ours")
        two.close()
        three.close()

    @within
    async def test_where_the_wire_was_lost_a_number_is_missing(self):
        async def speak(reader, writer):
            for n in range(10):
                writer.write(f"{n} s; {n} mm\n".encode())
            await writer.drain()
            await asyncio.sleep(0.3)
            writer.close()

        server = await asyncio.start_server(speak, "127.0.0.1", 0)
        port = server.sockets[0].getsockname()[1]
        reader, writer = await self.ask(self.stream(f"tcp:127.0.0.1:{port}"))
        await self.lines(reader, 20)
        steps = [b - a for a, b in zip(self.numbers, self.numbers[1:], strict=False)]
        self.assertEqual(steps[:9] + steps[10:19], [1] * 18)
        self.assertGreater(steps[9], 1)
        server.close()
        writer.close()

    @within
    async def test_a_long_silence_of_lines_without_a_time_is_lines_missing(self):
        source = Source(Wire("none:"))
        for _ in range(5):
            source.put("1 N")
            await asyncio.sleep(0.02)
        await asyncio.sleep(1.1)
        source.put("2 N")
        numbers = [number for number, _ in source.lines]
        self.assertEqual(
            [b - a for a, b in zip(numbers, numbers[1:], strict=False)], [1, 1, 1, 1, 2]
        )

    @within
    async def test_over_tcp_and_what_it_is_told(self):
        port = free_port("127.0.0.1", 0)
        server = asyncio.create_task(standin.serve("dial", "127.0.0.1", port))
        await asyncio.sleep(0.1)
        reader, writer = await self.ask(self.stream(f"tcp:127.0.0.1:{port}"))
        found, _ = await self.lines(reader, 3)
        self.assertIn("mm", found[0])
        say = self.stream(f"tcp:127.0.0.1:{port}", path="/say", line="pull")
        self.assertIn("204", await self.told(say))
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
