"""Two web processes on one database, on two ports: one test in turns on both, one of them killed; a full disk is told."""

import errno
import http.cookiejar
import json
import os
import re
import signal
import socket
import subprocess
import urllib.error
import urllib.parse
import urllib.request
from contextlib import redirect_stderr
from io import StringIO
from tempfile import TemporaryDirectory
from unittest.mock import patch

import psycopg
from django.core.management import call_command
from django.db import OperationalError, connection
from django.test import TestCase, TransactionTestCase, override_settings, tag
from django.urls import reverse

from brunt_command import serving
from brunt_command.places import ROOT
from brunt_command.problem import Problem
from brunt_command.serving import server_command, wait_until_up
from brunt_web.changes.models import Change
from brunt_web.interface import views
from brunt_web.interface.house import settle_marks, stranger
from brunt_web.testing.models import Clock, Test, TimedReading
from tests.support.bench import bench_of
from tests.support.media import own_media
from tests.support.workshop import BACKEND, person, turns_of

WORD = "seven wet ropes"


class Browser:
    """A browser without pages: one set of cookies, whatever host it asks."""

    def __init__(self) -> None:
        jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
        self.jar = jar

    def ask(self, port, path, body=None):
        try:
            with self.opener.open(f"http://127.0.0.1:{port}{path}", body, timeout=30) as answer:
                return answer.read().decode()
        except urllib.error.HTTPError as problem:
            text = re.sub(r"<[^>]+>|\s+", " ", problem.read().decode())[-400:]
            said = f"{problem.code} at {path}: {text}"
        # Raised out here: an answer that hangs on an error cannot go to the process that counts.
        raise AssertionError(said)

    def get(self, port, path):
        return self.ask(port, path)

    def post(self, port, path, **sent):
        token = next(c.value for c in self.jar if c.name == "csrftoken")
        body = urllib.parse.urlencode({"csrfmiddlewaretoken": token, **sent}).encode()
        return self.ask(port, path, body)


@tag("long")
class TwoHosts(TransactionTestCase):
    def setUp(self):
        parts = connection.settings_dict
        url = urllib.parse.urlsplit(os.environ["DATABASE_URL"])._replace(path=f"/{parts['NAME']}")
        self.variables = {**os.environ, "DATABASE_URL": url.geturl(), "BRUNT_TESTING": "1"}
        self.user = person()
        self.user.set_password(WORD)
        self.user.save()
        self.servers = {}
        for _ in range(2):
            with socket.socket() as probe:
                probe.bind(("127.0.0.1", 0))
                port = probe.getsockname()[1]
            self.servers[port] = subprocess.Popen(
                server_command(port, workers=1),
                cwd=ROOT,
                env=self.variables,
                start_new_session=True,
            )
            self.addCleanup(self.kill, port)
        for port, process in self.servers.items():
            wait_until_up(port, process)

    def kill(self, port):
        process = self.servers[port]
        if process.poll() is None:
            os.killpg(process.pid, signal.SIGKILL)
            process.wait(10)

    def test_one_timed_test_in_turns_with_one_of_them_killed(self):
        one = bench_of(self.user, "creep")
        turn = turns_of(one).order_by("run_order").first()
        a, b = self.servers
        browser = Browser()
        browser.get(a, "/sign-in/")
        browser.post(a, "/sign-in/", username=self.user.username, password=WORD)
        self.assertIn(turn.code, browser.get(b, turn.address))
        base = turn.base
        key = "00000000-0000-4000-8000-00000000000{}"
        browser.post(a, f"{base}clock/start/", key=key.format(1), load_step="")
        self.assertTrue(Clock.objects.filter(turn=turn).exists())
        page = browser.get(b, turn.address)
        field = re.search(
            r'data-key="(\w+)"\s+data-due="([\d.]+)"\s+data-load_step="([^"]*)"', page
        )
        sent = {
            "input": field[1],
            "due": field[2],
            "load_step": field[3],
            "text": "1.20 mm",
            "kept": "",
        }
        browser.post(b, f"{base}clock/take/", key=key.format(2), **sent)
        self.assertEqual(TimedReading.objects.get().text, "1.20 mm")
        self.kill(a)
        self.assertIn("1.20 mm", browser.get(b, turn.address))
        other = turns_of(one).exclude(pk=turn.pk).order_by("run_order").first()
        self.assertIn(other.code, browser.get(b, other.address))
        browser.post(b, f"/specimens/{turn.code}/note/", words="seen from the other host")
        page = browser.get(b, f"/specimens/{turn.code}/")
        self.assertIn("seen from the other host", page)

    def test_what_is_stored_on_one_is_corrected_on_the_other(self):
        one = bench_of(self.user, "tension")
        turn = turns_of(one).first()
        a, b = self.servers
        browser = Browser()
        browser.get(a, "/sign-in/")
        browser.post(a, "/sign-in/", username=self.user.username, password=WORD)
        sent = {
            "force": "500 N",
            "width": "5 mm",
            "thickness": "2 mm",
            "outcome": "broke",
            "kept": "",
        }
        browser.post(a, turn.address, key="00000000-0000-4000-8000-000000000011", **sent)
        page = browser.get(b, f"{turn.address}?correct=1")
        seen = re.search(r'name="seen" value="(\w+)"', page)[1]
        sent |= {"force": "512 N", "correct": "1", "seen": seen}
        browser.post(b, turn.address, key="00000000-0000-4000-8000-000000000012", **sent)
        self.assertEqual(Test.objects.get().readings.get(key="force").text, "512 N")
        told = Change.objects.filter(kind="testing_reading", keys__key="force").first()
        self.assertEqual(told.who, self.user)
        self.assertIn("512 N", browser.get(a, f"/specimens/{turn.code}/"))


class Belonging(TestCase):
    """Hosts on one database share secret and storage, or they do not start."""

    def setUp(self):
        self.media = own_media(self)

    def test_the_first_settles_and_the_like_belong(self):
        self.assertEqual(stranger(), "", "nobody has settled")
        self.assertEqual(settle_marks(), "")
        self.assertEqual(settle_marks(), "")
        self.assertEqual(self.client.get("/health/").status_code, 200)

    def test_another_secret_or_another_storage_does_not_belong_and_health_says_so(self):
        settle_marks()
        with override_settings(SECRET_KEY="of another host", SHARED=True):
            self.assertIn("another secret", settle_marks())
            answer = self.client.get("/health/")
            self.assertEqual((answer.status_code, "secret" in answer.json()["status"]), (503, True))
        with TemporaryDirectory() as other, override_settings(MEDIA_ROOT=other, SHARED=True):
            self.assertIn("does not see the files", settle_marks())
            self.assertIn("does not see", self.client.get("/health/").json()["status"])
            with self.assertRaises(SystemExit), redirect_stderr(StringIO()) as said:
                call_command("house")
            self.assertIn("BRUNT_MEDIA", said.getvalue())
            call_command("house", "--accept")
            self.assertEqual(settle_marks(), "")
        self.assertIn("does not see the files", settle_marks())

    def test_a_start_refuses(self):
        variables = {"BRUNT_SHARED": "1"}
        done = subprocess.CompletedProcess(
            [], 1, "", "This host has another secret than the others.\n"
        )
        with patch("brunt_command.serving.subprocess.run", return_value=done):
            with self.assertRaisesRegex(Problem, "another secret.*Nothing was started"):
                serving._belongs(variables)
        self.assertIsNone(serving._belongs({"BRUNT_SHARED": ""}))


class FullDisk(TestCase):
    def test_a_full_disk_is_named_and_not_taken_for_a_fault(self):
        user = person()
        self.client.force_login(user, backend=BACKEND)
        self.client.raise_request_exception = False
        full = OSError(errno.ENOSPC, "No space left on device")
        for problem in (full, OperationalError("could not extend file")):
            if problem is not full:
                problem.__cause__ = psycopg.errors.DiskFull("could not extend file")
            with patch("brunt_web.days.workshop_views.hours_of", side_effect=problem):
                answer = self.client.get(reverse("workshop"))
            self.assertEqual(answer.status_code, 507)
            self.assertIn("The disk is full", answer.content.decode())
            self.assertNotIn("This is a fault in Brunt", answer.content.decode())


class Health(TestCase):
    def test_a_full_disk_and_one_that_is_nearly_full(self):
        for free, status, word in (
            (views.FULL - 1, 503, "the disk is full"),
            (views.NEARLY_FULL - 1, 200, "are left on the disk"),
            (views.NEARLY_FULL + 1, 200, "ok"),
        ):
            with patch("brunt_web.interface.views._free", return_value=free):
                answer = self.client.get("/health/")
            self.assertEqual(
                (answer.status_code, word in json.dumps(answer.json())), (status, True)
            )
        self.assertIsInstance(views._free(), int)
        with self.settings(MEDIA_ROOT="/nowhere/at/all"):
            self.assertIsInstance(views._free(), int)
