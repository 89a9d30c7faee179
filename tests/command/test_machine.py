"""Setting up: every failure is one sentence, secrets are the owner's alone, stale notes go."""

import json
import os
import socket
import stat
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from brunt_command import __main__ as command
from brunt_command import cluster, debian, places, serving, settings
from brunt_command.problem import Problem


class Fresh(unittest.TestCase):
    """Each test has a private state folder."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.state = Path(folder.name)
        patch = mock.patch.object(places, "STATE", self.state)
        patch.start()
        self.addCleanup(patch.stop)


class Secrets(Fresh):
    def test_made_once_and_private(self):
        first, again = settings._secret(self.state), settings._secret(self.state)
        self.assertEqual(first, again)
        self.assertGreater(len(first), 40)
        path = self.state / "secrets.json"
        self.assertEqual(stat.S_IMODE(path.stat().st_mode), 0o600)

    def test_own_database_is_used_when_named(self):
        with mock.patch.dict(os.environ, {"DATABASE_URL": "postgres://own/bench"}):
            variables = settings.environment(demo=False)
        self.assertEqual(variables["DATABASE_URL"], "postgres://own/bench")
        self.assertEqual(variables["BRUNT_DEMO"], "")


class Failures(Fresh):
    def sentence(self, run) -> str:
        """The problem's sentence; it must be one, and end."""
        with self.assertRaises(Problem) as caught:
            run()
        text = str(caught.exception)
        self.assertTrue(text.endswith("."), text)
        self.assertNotIn("\n", text)
        return text

    def test_port_taken(self):
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            self.assertIn(
                f"--port {port + 1}", self.sentence(lambda: serving._check_port("own", port))
            )
            self.assertIn("./brunt start", self.sentence(lambda: serving._check_port("own", port)))

    def test_no_server_stands_where_another_will(self):
        pages = [int(port) for port in serving._PORTS.values()]
        every = pages + [port + serving._WIRES for port in pages]
        self.assertEqual(len(set(every)), len(every))

    def test_nothing_may_be_installed(self):
        with mock.patch.dict(os.environ, {"BRUNT_NO_INSTALL": "1"}):
            for package, needed in (("postgresql", "PostgreSQL"), ("chromium", "Chromium")):
                text = self.sentence(
                    lambda p=package, n=needed: debian.ensure_program(p, lambda: None, n)
                )
                self.assertIn(f"apt-get install {package}", text)

    def test_install_that_fails(self):
        failed = mock.Mock(returncode=1, stderr="no network")
        with (
            mock.patch.object(debian.subprocess, "run", return_value=failed),
            mock.patch.object(debian.shutil, "which", return_value="/usr/bin/apt-get"),
        ):
            text = self.sentence(
                lambda: debian.ensure_program("chromium", lambda: None, "Chromium")
            )
        self.assertIn("no network", text)

    def test_reset_leaves_an_own_database_alone(self):
        with mock.patch.dict(os.environ, {"DATABASE_URL": "postgres://own/bench"}):
            self.assertIn("unset it", self.sentence(lambda: serving.reset_demo([])))

    def test_server_that_ends_at_once(self):
        ended = mock.Mock()
        ended.poll.return_value = 1
        self.assertIn("server.log", self.sentence(lambda: serving.wait_until_up(1, ended)))

    def test_unknown_command(self):
        with mock.patch("sys.argv", ["brunt", "dance"]), mock.patch("sys.stderr"):
            self.assertEqual(command.main(), 2)
        self.assertIn("demo", command.usage())


class Stale(Fresh):
    def test_note_of_a_dead_server_goes(self):
        note = self.state / "server.json"
        note.write_text(json.dumps({"pid": 2**22 - 1, "port": 8000}))
        self.assertIsNone(serving.running())
        self.assertFalse(note.exists())

    def test_note_of_somebody_elses_process_goes(self):
        note = self.state / "server.json"
        note.write_text(json.dumps({"pid": os.getpid(), "port": 8000}))
        self.assertIsNone(serving.running())

    def test_broken_note_goes(self):
        (self.state / "server.json").write_text("{")
        self.assertIsNone(serving.running())

    def test_postmaster_file_of_another_process_is_not_believed(self):
        (self.state / "postmaster.pid").write_text(f"{os.getpid()}\n")
        self.assertIsNone(cluster.running_server(self.state))
        self.assertIsNone(cluster.running_server(self.state / "nothing"))

    def test_two_checkouts_have_two_clusters(self):
        one = places.cluster_home("demo")
        with mock.patch.object(places, "STATE", Path("/elsewhere")):
            self.assertNotEqual(one, places.cluster_home("demo"))

    def test_lock_goes_with_its_holder(self):
        with cluster._locked("x"):
            pass
        with cluster._locked("x"):
            self.assertTrue((self.state / "x.lock").exists())
