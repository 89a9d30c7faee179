"""Web and PostgreSQL killed at random moments while somebody stores: every entry is there once, as it was typed."""

import http.client
import json
import os
import random
import signal
import subprocess
import threading
import time
from tempfile import TemporaryDirectory
from unittest import TestCase
from unittest.mock import patch
from urllib.parse import urlencode, urlsplit
from uuid import uuid4

import psycopg
from django.test import tag

from brunt_command import cluster
from brunt_command.places import PYTHON, ROOT, cluster_home
from brunt_command.serving import server_command

SEED = int(os.environ.get("BRUNT_FUZZ_SEED", "14"))
ENTRIES, SECRET, PATIENCE = 40, "k" * 32, 120
# What the server is to hold: made in a process of its own, since this one has the tests' database.
PLANNED = """
import json
from django.test import Client
from tests.support.workshop import BACKEND, campaign, person, turns_of
user = person()
one = campaign(user, replicates=10)
client = Client()
client.force_login(user, backend=BACKEND)
codes = [t.code for t in turns_of(one).order_by("run_order")]
print(json.dumps([client.cookies["sessionid"].value, codes]))
"""


@tag("long")
class Killed(TestCase):
    def setUp(self):
        self.addCleanup(cluster.remove_cluster, "killed")
        cluster.remove_cluster("killed")
        self.url = cluster.start_cluster("killed")
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.variables = {
            **os.environ,
            "DATABASE_URL": self.url,
            "DJANGO_SETTINGS_MODULE": "brunt_web.settings",
            "BRUNT_SECRET_KEY": "only-for-this-test",
            "BRUNT_TESTING": "1",
            "BRUNT_MEDIA": folder.name,
            "PYTHONPATH": str(ROOT),
        }
        self.run_django("migrate", "--no-input", "-v", "0")
        self.session, self.codes = json.loads(self.run_django("shell", "-v0", "-c", PLANNED))
        self.port = cluster.cluster_port()
        self.web, self.log = None, open(os.path.join(folder.name, "web.log"), "wb")
        self.addCleanup(self.log.close)
        self.addCleanup(self.kill_web)
        self.serve()

    def run_django(self, *arguments):
        done = subprocess.run(
            [str(PYTHON), "-m", "django", *arguments],
            env=self.variables,
            cwd=ROOT,
            capture_output=True,
            text=True,
        )
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])
        return done.stdout.strip().splitlines()[-1] if done.stdout.strip() else ""

    def serve(self):
        self.web = subprocess.Popen(
            server_command(self.port, workers=2),
            cwd=ROOT,
            env=self.variables,
            stdout=self.log,
            stderr=self.log,
            start_new_session=True,
        )

    def kill_web(self):
        if self.web and self.web.poll() is None:
            os.killpg(self.web.pid, signal.SIGKILL)
            self.web.wait(10)

    def store(self, code, text, key):
        """As the outbox does: the same entry under the same key, until it is answered."""
        body = urlencode(
            {
                "force": text,
                "width": "5",
                "thickness": "2",
                "outcome": "broke",
                "key": key,
                "kept": "",
            }  # fmt: skip
        )
        headers = {
            "Cookie": f"sessionid={self.session}; csrftoken={SECRET}",
            "X-CSRFToken": SECRET,
            "X-Part": "outbox",
            "Content-Type": "application/x-www-form-urlencoded",
        }
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until:
            link = http.client.HTTPConnection("127.0.0.1", self.port, timeout=20)
            try:
                link.request("POST", f"/specimens/{code}/bench/", body, headers)
                answer = link.getresponse()
                said = answer.read()
                if answer.status in (200, 204):
                    return
                self.statuses.append(answer.status)
                # Without its database the server says so and asks to try again; it never says "stored".
                self.assertIn(answer.status, (500, 502, 503), said[-300:])
            except (OSError, http.client.HTTPException):
                self.statuses.append(0)
            finally:
                link.close()
            time.sleep(0.15)
        self.fail(f"{code} was never stored: {self.statuses[-20:]}")

    def test_nothing_is_lost_and_nothing_is_twice(self):
        chance, self.statuses, wrong = random.Random(SEED), [], []
        sent = {code: (f"{480 + i}.5 N", str(uuid4())) for i, code in enumerate(self.codes[:ENTRIES])}  # fmt: skip

        def tester(codes):
            for code in codes:
                try:
                    self.store(code, *sent[code])
                except AssertionError as problem:
                    wrong.append(str(problem))
                time.sleep(chance.uniform(0, 0.25))

        halves = [self.codes[:ENTRIES:2], self.codes[1:ENTRIES:2]]
        testers = [threading.Thread(target=tester, args=(half,), daemon=True) for half in halves]
        for one in testers:
            one.start()
        for what in ("web", "database", "web", "database"):
            time.sleep(chance.uniform(0.3, 1.6))
            if what == "web":
                self.kill_web()
                self.serve()
            else:
                os.kill(cluster.running_server(cluster_home("killed")), signal.SIGKILL)
                time.sleep(chance.uniform(0.1, 0.5))
                with patch(
                    "brunt_command.cluster.cluster_port", return_value=urlsplit(self.url).port
                ):
                    self.assertEqual(cluster.start_cluster("killed"), self.url)
        for one in testers:
            one.join(PATIENCE * 2)
        self.assertEqual(wrong, [])
        # Two of them were sent twice more, as by an outbox that never heard the answer.
        for code in self.codes[:2]:
            self.store(code, *sent[code])
        with psycopg.connect(self.url) as link:
            rows = link.execute(
                "SELECT s.code, r.text, t.entry_key::text FROM testing_test t "
                "JOIN campaigns_turn u ON u.id = t.turn_id JOIN campaigns_specimen s ON s.id = u.specimen_id "
                "JOIN testing_reading r ON r.test_id = t.id AND r.key = 'force'"
            ).fetchall()
            half = link.execute(
                "SELECT count(*) FROM testing_test t WHERE NOT EXISTS "
                "(SELECT 1 FROM results_result r WHERE r.turn_id = t.turn_id)"
            ).fetchone()[0]
        self.assertEqual({code: (text, key) for code, text, key in rows}, sent)
        self.assertEqual((len(rows), half), (ENTRIES, 0))
        self.assertGreater(len(self.statuses), 0, "nothing was killed while somebody stored")
