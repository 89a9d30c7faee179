"""TLS before the web server: what is passed on, by whom, and a local certificate that a client trusts."""

import asyncio
import socket
import ssl
import unittest
from datetime import UTC, datetime, timedelta
from pathlib import Path
from tempfile import TemporaryDirectory

from cryptography import x509

from brunt_command.certificate import AUTHORITY, CERTIFICATE, ensure_certificate, names_in
from brunt_command.front import Front, context, serve

NOW = datetime.now(UTC)


class Heads(unittest.TestCase):
    def passed(self, *lines, first="GET /campaigns/ HTTP/1.1"):
        head = "\r\n".join([first, "Host: brunt:8100", *lines, "", ""]).encode()
        return Front(1, 2).passed_on(head, "10.0.0.7")

    def test_who_asks_is_said_by_the_front_alone(self):
        port, head, length = self.passed(
            "X-Forwarded-For: 1.2.3.4",
            "X-Forwarded-Proto: http",
            "Forwarded: for=1.2.3.4",
            "Connection: keep-alive",
        )
        self.assertEqual((port, length), (1, 0))
        self.assertNotIn(b"1.2.3.4", head)
        self.assertIn(
            b"X-Forwarded-For: 10.0.0.7\r\nX-Forwarded-Proto: https\r\nConnection: close\r\n\r\n",
            head,
        )
        self.assertIn(b"Host: brunt:8100", head)

    def test_instruments_go_to_the_bridge(self):
        port, head, _ = self.passed(first="GET /bridge/stream?token=x HTTP/1.1")
        self.assertEqual((port, head.split(b"\r\n")[0]), (2, b"GET /stream?token=x HTTP/1.1"))

    def test_what_is_no_plain_request_is_refused(self):
        for lines, first in (
            (("Transfer-Encoding: chunked",), "POST / HTTP/1.1"),
            (("Content-Length: 5", "Content-Length: 6"), "POST / HTTP/1.1"),
            (("Content-Length: -5",), "POST / HTTP/1.1"),
            (("Content-Length : 5",), "POST / HTTP/1.1"),
            (("nonsense",), "GET / HTTP/1.1"),
            ((), "GET http://elsewhere/ HTTP/1.1"),
            ((), "CONNECT elsewhere:443 HTTP/1.1"),
            ((), "GET / HTTP/2"),
        ):
            with self.subTest(lines=lines, first=first):
                self.assertIsNone(self.passed(*lines, first=first)[1])
        self.assertEqual(self.passed("Content-Length: 12", first="POST / HTTP/1.1")[2], 12)


class Certificates(unittest.TestCase):
    def setUp(self):
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_made_kept_and_made_again_where_it_does_not_do(self):
        ensure_certificate(self.folder, ["localhost", "127.0.0.1"], NOW)
        first = (self.folder / CERTIFICATE).read_bytes()
        self.assertEqual(
            names_in(x509.load_pem_x509_certificate(first)), ["localhost", "127.0.0.1"]
        )
        self.assertEqual((self.folder / "key.pem").stat().st_mode & 0o777, 0o600)
        ensure_certificate(self.folder, ["127.0.0.1"], NOW)
        self.assertEqual((self.folder / CERTIFICATE).read_bytes(), first)
        authority = (self.folder / AUTHORITY).read_bytes()
        ensure_certificate(self.folder, ["127.0.0.1", "10.0.0.5"], NOW)
        second = (self.folder / CERTIFICATE).read_bytes()
        self.assertNotEqual(second, first)
        ensure_certificate(self.folder, ["127.0.0.1", "10.0.0.5"], NOW + timedelta(days=370))
        self.assertNotEqual((self.folder / CERTIFICATE).read_bytes(), second)
        self.assertEqual((self.folder / AUTHORITY).read_bytes(), authority)

    def test_a_request_through_it_by_a_client_that_trusts_the_authority(self):
        ensure_certificate(self.folder, ["localhost", "127.0.0.1"], NOW)
        seen = {}

        async def web(reader, writer):
            head = await reader.readuntil(b"\r\n\r\n")
            seen["head"], seen["body"] = head.decode(), await reader.readexactly(5)
            writer.write(b"HTTP/1.1 200 OK\r\nContent-Length: 4\r\n\r\nread")
            await writer.drain()
            writer.close()

        async def act():
            behind = await asyncio.start_server(web, "127.0.0.1", 0)
            inner = behind.sockets[0].getsockname()[1]
            taken = socket.create_server(("127.0.0.1", 0))
            port = taken.getsockname()[1]
            task = asyncio.create_task(serve(taken, Front(inner, 1), context(self.folder)))
            trusts = ssl.create_default_context(cafile=str(self.folder / AUTHORITY))
            reader, writer = await asyncio.open_connection(
                "127.0.0.1", port, ssl=trusts, server_hostname="localhost"
            )
            writer.write(
                b"POST /x HTTP/1.1\r\nHost: localhost\r\nContent-Length: 5\r\n\r\nhelloGET /smuggled HTTP/1.1\r\n\r\n"
            )
            answer = await asyncio.wait_for(reader.read(), 10)
            task.cancel()
            behind.close()
            return answer

        answer = asyncio.run(act())
        self.assertTrue(answer.endswith(b"read"))
        self.assertEqual(seen["body"], b"hello")
        self.assertIn("X-Forwarded-Proto: https", seen["head"])
