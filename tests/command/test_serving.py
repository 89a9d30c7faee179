"""Starting, mending and resetting: nothing of one's own is lost without a word, a dead database is mended."""

import http.client
import io
import json
import os
import subprocess
import tempfile
import time
import unittest
from contextlib import redirect_stdout
from pathlib import Path
from unittest import mock

from django.core.management import call_command
from django.db import connection
from django.test import TestCase

from brunt_command import cluster, places, serving, settings
from brunt_command.cluster import cluster_port
from brunt_command.places import ROOT
from brunt_command.problem import Problem
from brunt_command.serving import server_command
from brunt_web.demonstration.scenario import WORKSHOP
from brunt_web.library.actions.add_material import add_material
from brunt_web.people.models import Workshop


class Quiet(unittest.TestCase):
    """A state folder of its own, and what was said."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.state = Path(folder.name)
        self.put(places, "STATE", self.state)
        for name in ("ensure",):
            self.put(serving.environment, name, mock.Mock())
        url = "postgres://nobody@127.0.0.1:1/brunt_demo"
        told = {"DATABASE_URL": url, "BRUNT_MEDIA": str(self.state / "media-demo")}
        self.put(serving.settings, "environment", mock.Mock(return_value=told))
        self.put(serving.prepared, "is_prepared", mock.Mock(return_value=False))
        self.put(serving.prepared, "note_prepared", mock.Mock())
        self.steps = []
        without = {k: v for k, v in os.environ.items() if k != "DATABASE_URL"}
        patch = mock.patch.dict(os.environ, without, clear=True)
        patch.start()
        self.addCleanup(patch.stop)
        for owner, name in (
            (serving, "stop_web"),
            (serving, "run_management"),
            (serving, "_serve"),
            (serving.staged, "swap_in"),
            (serving.staged, "clear"),
            (serving.staged.postgres, "regenerate"),
        ):
            self.put(owner, name, self.noting(name))
        self.put(serving.staged, "kept_before", mock.Mock(return_value=[]))

    def put(self, owner, name, value):
        patch = mock.patch.object(owner, name, value)
        patch.start()
        self.addCleanup(patch.stop)

    def noting(self, name):
        def note(*given, **how):
            self.steps.append((name, *given))
            return 0

        return note

    def said(self, run) -> str:
        out = io.StringIO()
        with redirect_stdout(out):
            run()
        return out.getvalue()


class Mending(Quiet):
    def run_demo(self, healthy: bool) -> str:
        port = cluster_port()
        with (
            mock.patch.object(serving, "running", return_value={"pid": 1, "port": port}),
            mock.patch.object(serving, "healthy", return_value=healthy),
        ):
            return self.said(lambda: serving.demo([]))

    def test_ahealthy_one_is_left_alone(self):
        self.assertIn("already running", self.run_demo(True))
        self.assertEqual(self.steps, [])

    def test_one_without_its_database_is_started_again_on_its_port(self):
        self.assertIn("its database does not answer", self.run_demo(False))
        self.assertEqual([s[0] for s in self.steps], ["stop_web", "run_management", "_serve"])

    def test_health_is_asked_over_the_wire(self):
        self.assertFalse(serving.healthy(cluster_port()))


class Resetting(Quiet):
    def others(self, *names, code=0):
        done = mock.Mock(stdout="\n".join(names), returncode=code, stderr="no such column")
        return mock.patch.object(serving.subprocess, "run", return_value=done)

    def test_without_a_yes_nothing_happens(self):
        with self.others():
            self.assertIn("Nothing was changed", self.said(lambda: serving.reset_demo([])))
        self.assertEqual(self.steps, [])

    def test_a_workshop_of_somebodys_own_is_never_deleted_by_yes(self):
        with self.others("Quill's bench"), self.assertRaisesRegex(Problem, "Quill's bench"):
            serving.reset_demo(["--yes"])
        with self.others("Quill's bench"), self.assertRaises(Problem):
            serving.reset_demo(["--delete-workshop", "Another"])
        self.assertEqual(self.steps, [])

    def test_a_guard_that_cannot_know_refuses(self):
        """As when the tables are of an older version: silence is no permission."""
        with self.others(code=1), self.assertRaisesRegex(Problem, "cannot be known"):
            serving.reset_demo(["--yes"])
        self.assertEqual(self.steps, [])

    def test_a_yes_builds_the_demo_beside_reads_its_pages_and_swaps_it_in(self):
        with self.others():
            self.said(lambda: serving.reset_demo(["--yes"]))
        built = [s for s in self.steps if s[0] == "run_management"]
        self.assertEqual([s[2] for s in built], ["prepare", "check_pages"])
        for step in built:
            self.assertTrue(step[1]["DATABASE_URL"].endswith("/brunt_demo_new"))
            self.assertTrue(step[1]["BRUNT_MEDIA"].endswith("media-demo_new"))
        self.assertEqual(self.steps[-1][:2][0], "swap_in")
        self.assertNotEqual(settings.DATABASES["demo"], settings.DATABASES["own"])

    def test_a_demo_that_does_not_load_leaves_the_old_one(self):
        def fails(*given, **how):
            raise Problem("'prepare' failed: no.")

        with (
            self.others(),
            mock.patch.object(serving, "run_management", fails),
            self.assertRaises(Problem),
        ):
            serving.reset_demo(["--yes"])
        self.assertNotIn("swap_in", [s[0] for s in self.steps])


class OwnWorkshops(TestCase):
    def test_names_those_that_nobody_invented(self):
        Workshop.objects.create(name=WORKSHOP, invented=True)
        Workshop.objects.create(name="Empty")
        own = Workshop.objects.create(name="Quill's bench")
        add_material(own, "Fernhall PLA", "pla")
        out = io.StringIO()
        call_command("own_workshops", stdout=out)
        self.assertEqual(out.getvalue().split("\n")[0], "Quill's bench")


class Databases(unittest.TestCase):
    def test_one_is_dropped_and_its_neighbour_stays(self):
        names = [f"test_{kind}_{os.getpid()}" for kind in ("gone", "stays")]
        with connection.cursor() as cursor:
            for name in names:
                cursor.execute(f'CREATE DATABASE "{name}"')
        cluster.drop("test", names[0])
        with connection.cursor() as cursor:
            cursor.execute("SELECT datname FROM pg_database")
            stood = {row[0] for row in cursor.fetchall()}
            cursor.execute(f'DROP DATABASE "{names[1]}"')
        self.assertEqual(stood & set(names), {names[1]})


class WithoutDatabase(unittest.TestCase):
    def test_health_and_pages_say_so_and_nothing_ends_in_a_trace(self):
        port, nowhere = cluster_port(), 1
        variables = {**os.environ, "DATABASE_URL": f"postgres://b:b@127.0.0.1:{nowhere}/b"}
        process = subprocess.Popen(
            server_command(port, workers=1), cwd=ROOT, env=variables, start_new_session=True
        )
        self.addCleanup(process.wait, 10)
        self.addCleanup(process.terminate)
        status, body = self.get(port, "/health/")
        self.assertEqual(
            (status, json.loads(body)["status"]), (503, "the database does not answer")
        )
        for address in ("/", "/campaigns/1/", "/specimens/A1-001/bench/"):
            status, body = self.get(port, address, f"sessionid={'a' * 32}")
            self.assertEqual(status, 503, address)
            self.assertIn("The database does not answer", body)
            self.assertNotIn("Traceback", body)

    def get(self, port, address, cookie="") -> tuple[int, str]:
        for _ in range(200):
            link = http.client.HTTPConnection("127.0.0.1", port, timeout=10)
            try:
                link.request("GET", address, headers={"Cookie": cookie})
                answer = link.getresponse()
                return answer.status, answer.read().decode()
            except OSError:
                time.sleep(0.1)
        self.fail("The server did not come up.")
