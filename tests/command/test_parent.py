"""One parent of all that serves: what dies is started again at its port, nothing is left behind, slow senders hold up nobody."""

import io
import json
import os
import signal
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import unittest
import urllib.request
from contextlib import redirect_stdout
from pathlib import Path
from unittest.mock import patch

from django.test import tag

from brunt_command import cluster, lesser
from brunt_command.parent import Child
from brunt_command.places import PYTHON, ROOT, cluster_home
from brunt_command.problem import Problem
from brunt_command.serving import run_management

_READY = "http://127.0.0.1:{}/health/"


def children_of(pid: int) -> list[int]:
    """Every process below another one, as the kernel tells."""
    found = []
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            if int(path.read_text().rsplit(")", 1)[1].split()[1]) == pid:
                found.append(int(path.parent.name))
        except (OSError, ValueError, IndexError):
            continue
    return [p for child in found for p in (child, *children_of(child))]


def alive(pid: int) -> bool:
    """Whether a process is there and no zombie."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


class Lesser(unittest.TestCase):
    """Started by root, what answers others runs as another user, and still ends with its parent."""

    @unittest.skipUnless(os.geteuid() == 0, "only root can go on as somebody else")
    def test_a_child_runs_as_the_user_it_is_given(self):
        with (
            tempfile.TemporaryDirectory() as folder,
            patch("brunt_command.parent.state", lambda name: Path(folder) / name),
        ):
            child = Child("one", ["/usr/bin/id", "-un"], "one.log", user="nobody")
            child.begin()
            child.process.wait(10)
            self.assertEqual((Path(folder) / "one.log").read_text().strip(), "nobody")

    @unittest.skipUnless(os.geteuid() == 0, "only root can go on as somebody else")
    def test_there_is_no_way_back(self):
        tried = "from brunt_web.mortal import become; import os; become('nobody'); os.setuid(0)"
        done = subprocess.run(
            [sys.executable, "-c", tried], capture_output=True, text=True, cwd=ROOT
        )
        self.assertIn("PermissionError", done.stderr)

    def test_where_the_user_may_not_read_brunt_it_says_so_and_goes_on(self):
        none = patch("brunt_command.lesser.ensure_user", side_effect=Problem("no useradd here"))
        root = patch("brunt_command.lesser.os.geteuid", return_value=0)
        with none, root, redirect_stdout(io.StringIO()) as said:
            self.assertEqual(lesser.for_root("own", {}), [])
            self.assertEqual(lesser.for_root("demo", {}), [])
        self.assertIn("The web runs as root: no useradd here", said.getvalue())


@tag("long")
class Served(unittest.TestCase):
    """The whole of it on a cluster of its own."""

    @classmethod
    def setUpClass(cls):
        cluster.remove_cluster("parent")
        cls.addClassCleanup(cluster.remove_cluster, "parent")
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.note = Path(folder.name) / "server.json"
        media = Path(folder.name) / "media"
        media.mkdir()
        cls.variables = {
            **os.environ,
            "DATABASE_URL": cluster.start_cluster("parent"),
            "DJANGO_SETTINGS_MODULE": "brunt_web.settings",
            "BRUNT_SECRET_KEY": "a-key-for-the-tests-of-the-parent",
            "BRUNT_MEDIA": str(media),
            "PYTHONPATH": str(ROOT),
        }
        run_management(cls.variables, "prepare", "--files", "--no-demo", quiet=True)

    def setUp(self):
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        told = ["--kind", "demo", "--port", str(self.port), "--wires", "0"]
        self.parent = subprocess.Popen(
            [str(PYTHON), "-m", "brunt_command.parent", *told, "--note", str(self.note)],
            env=self.variables,
            cwd=ROOT,
            start_new_session=True,
        )
        self.addCleanup(self.end)
        self.ready()

    def end(self):
        if self.parent.poll() is None:
            self.parent.kill()
            self.parent.wait()

    def answers(self, timeout: float = 5) -> bool:
        try:
            with urllib.request.urlopen(_READY.format(self.port), timeout=timeout) as answer:
                return answer.status == 200
        except OSError:
            return False

    def ready(self, seconds: float = 40):
        self.eventually(self.answers, seconds)

    def eventually(self, holds, seconds: float = 20):
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            if holds():
                return
            time.sleep(0.1)
        self.fail("It never came to hold.")

    def pids(self) -> dict:
        return json.loads(self.note.read_text())

    def test_what_dies_is_started_again_at_the_same_port(self):
        self.eventually(lambda: len(children_of(self.parent.pid)) >= 5)
        for name in ("web", "worker", "bridge"):
            before = self.pids()[name]
            os.kill(before, signal.SIGKILL)
            self.eventually(lambda n=name, b=before: self.pids().get(n) not in (None, b))
            self.ready()
        one = children_of(self.pids()["web"])[0]
        os.kill(one, signal.SIGKILL)
        self.eventually(lambda: len(children_of(self.pids()["web"])) == 2)
        self.ready()

    def test_a_parent_that_is_killed_leaves_nobody_behind(self):
        self.eventually(lambda: len(children_of(self.parent.pid)) >= 5)
        below = children_of(self.parent.pid)
        self.parent.kill()
        self.parent.wait()
        self.eventually(lambda: not any(alive(pid) for pid in below))

    def test_told_to_end_it_ends_and_takes_its_note_away(self):
        below = children_of(self.parent.pid)
        self.parent.terminate()
        self.assertEqual(self.parent.wait(20), 0)
        self.eventually(lambda: not any(alive(pid) for pid in below))
        self.assertFalse(self.note.exists())

    def test_two_hundred_slow_senders_hold_up_nobody(self):
        """They drip a head or a body; pages are answered at most about twice as slowly meanwhile."""

        def p95() -> float:
            times = []
            for _ in range(40):
                begun = time.monotonic()
                with urllib.request.urlopen(
                    f"http://127.0.0.1:{self.port}/sign-in/", timeout=5
                ) as page:
                    page.read()
                times.append(time.monotonic() - begun)
            return statistics.quantiles(times, n=20)[-1]

        p95()
        quiet = p95()
        heads = (b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ", b"POST /sign-in/ HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 100000\r\n\r\n")  # fmt: skip
        open_ones = []
        for i in range(200):
            one = socket.create_connection(("127.0.0.1", self.port), timeout=5)
            one.sendall(heads[i % 2])
            open_ones.append(one)
        going = True

        def drip():
            while going:
                for one in open_ones:
                    try:
                        one.send(b"x")
                    except OSError:
                        continue
                time.sleep(0.2)

        thread = threading.Thread(target=drip, daemon=True)
        thread.start()
        try:
            self.assertTrue(self.answers())
            busy = p95()
        finally:
            going = False
            thread.join(5)
            for one in open_ones:
                one.close()
        self.assertLess(busy, max(2 * quiet, 0.25), (quiet, busy))

    def test_heads_without_end_are_refused(self):
        with socket.create_connection(("127.0.0.1", self.port), timeout=10) as one:
            one.sendall(
                b"GET / HTTP/1.1\r\nHost: x\r\n" + b"X-Long: " + b"y" * 80_000 + b"\r\n\r\n"
            )
            self.assertIn(b"431", one.recv(200))


class Pauses(unittest.TestCase):
    def test_what_dies_young_is_started_again_after_a_pause_that_grows(self):
        child = Child("short", ["true"], "short.log")
        begun, pauses = 0, []
        now = time.monotonic()
        for _ in range(6):
            self.assertTrue(child.look(now))
            begun += 1
            child.process.wait()
            child.look(now)
            pauses.append(child.pause)
            now = child.again_at
        self.assertEqual(pauses, [0.5, 1.0, 2.0, 4.0, 8.0, 16.0])
        self.assertTrue(cluster_home("parent"))
