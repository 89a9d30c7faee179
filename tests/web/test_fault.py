"""The web server killed while readings are being entered: every confirmed one is there, once."""

import http.client
import os
import random
import signal
import subprocess
import time
from threading import Event, Thread
from urllib.parse import quote, urlencode
from uuid import uuid4

from django.db import connection
from django.test import Client, TransactionTestCase, tag

from brunt_command.cluster import cluster_port
from brunt_command.places import ROOT
from brunt_command.serving import server_command, wait_until_up
from brunt_web.results.models import Result
from brunt_web.testing.models import Measurement, Reading, Test
from tests.support.bench import bench_of
from tests.support.workshop import BACKEND, person

TESTERS, KILLS, SECRET = 4, 2, "c" * 32


def database_url() -> str:
    """The address of this test's own database."""
    s = connection.settings_dict
    return f"postgres://{s['USER']}:{quote(s['PASSWORD'])}@{s['HOST']}:{s['PORT']}/{s['NAME']}"


class Server:
    """The real web server, in a process group of its own, so that it can be killed whole."""

    def __init__(self) -> None:
        self.port = cluster_port()
        self.variables = {**os.environ, "DATABASE_URL": database_url()}

    def start(self) -> None:
        self.process = subprocess.Popen(
            server_command(self.port), cwd=ROOT, env=self.variables, start_new_session=True
        )
        wait_until_up(self.port, self.process)

    def kill(self) -> None:
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait(10)


class Tester(Thread):
    """Enters readings as the outbox does: again and again under one key until it is confirmed."""

    def __init__(self, port: int, session: str, codes: list[str], kept: dict[str, str]) -> None:
        super().__init__(daemon=True)
        self.port, self.codes, self.kept = port, codes, kept
        self.tries = 0
        self.headers = {
            "Cookie": f"sessionid={session}; csrftoken={SECRET}",
            "X-CSRFToken": SECRET,
            "X-Part": "outbox",
            "Content-Type": "application/x-www-form-urlencoded",
        }

    def run(self) -> None:
        for i, code in enumerate(self.codes):
            load = f"{480 + i} N"
            fields = {"force": load, "width": "5", "thickness": "2", "outcome": "broke"}
            body = urlencode({**fields, "key": str(uuid4())})
            while not self.sent(code, body):
                time.sleep(random.uniform(0.05, 0.2))
            self.kept[code] = load

    def sent(self, code: str, body: str) -> bool:
        self.tries += 1
        link = http.client.HTTPConnection("127.0.0.1", self.port, timeout=5)
        try:
            link.request("POST", f"/specimens/{code}/bench/", body, self.headers)
            return link.getresponse().status == 204
        except (OSError, http.client.HTTPException):
            return False
        finally:
            link.close()


@tag("long")
class KilledServer(TransactionTestCase):
    def test_every_confirmed_reading_is_there_once(self):
        user = person()
        one = bench_of(user, "tension", replicates=40)
        client = Client()
        client.force_login(user, backend=BACKEND)
        session = client.cookies["sessionid"].value
        codes = list(one.specimens.values_list("code", flat=True))
        server, kept = Server(), {}
        server.start()
        testers = [Tester(server.port, session, codes[i::TESTERS], kept) for i in range(TESTERS)]
        self.addCleanup(server.kill)
        for tester in testers:
            tester.start()
        for k in range(KILLS):
            goal = (k + 1) * len(codes) // (KILLS + 2)
            self.wait_for(lambda goal=goal: len(kept) >= goal)
            server.kill()
            confirmed = dict(kept)
            self.assertLess(len(confirmed), len(codes))
            self.check(confirmed)
            server.start()
        for tester in testers:
            tester.join(90)
        self.assertEqual(len(kept), len(codes))
        self.check(kept)
        self.assertEqual(Test.objects.count(), len(codes))
        self.assertEqual(Reading.objects.count(), len(codes))
        self.assertEqual(Measurement.objects.count(), 2 * len(codes))
        self.assertEqual(Result.objects.count(), len(codes))
        self.assertGreater(sum(t.tries for t in testers), len(codes))

    def wait_for(self, holds) -> None:
        """Up to a minute."""
        pause = Event()
        for _ in range(1200):
            if holds():
                return
            pause.wait(0.05)
        self.fail("The testers did not get that far.")

    def check(self, confirmed: dict[str, str]) -> None:
        """Each confirmed reading stands, with its load, on its specimen."""
        stored = dict(
            Reading.objects.filter(key="force").values_list("test__turn__specimen__code", "text")
        )
        self.assertEqual({c: stored.get(c) for c in confirmed}, confirmed)
