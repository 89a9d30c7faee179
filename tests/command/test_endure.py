"""What an hour of many users is judged by; the tables of speed; links that close and answers that fail are counted."""

import contextlib
import http.client
import io
import os
import random
import signal
import subprocess
import time
from unittest import TestCase
from unittest.mock import patch

from tools.bench.goals import Goal, told
from tools.bench.load import Tester
from tools.endure import trouble
from tools.endure.run import SeenAnswers, User, _told
from tools.endure.work import Person


class Endured(TestCase):
    def judged(self, seen):
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            code = _told(seen, users=3, minutes=10)
        return code, out.getvalue()

    def seen(self, memory):
        found = SeenAnswers(memory=[(i * 10.0, mb) for i, mb in enumerate(memory)])
        for ms in range(1, 101):
            found.note("bench: store", float(ms), 204, (200, 204))
        return found

    def test_flat_memory_and_no_errors_are_good(self):
        code, said = self.judged(self.seen([100 + 5 * min(i, 12) for i in range(60)]))
        self.assertEqual(code, 0)
        self.assertRegex(said, r"bench: store\s+100\s+5[01]\s+96")
        self.assertIn("wrong answers: 0", said)

    def test_growth_after_the_warm_up_is_not(self):
        code, said = self.judged(self.seen([200 + 4 * i for i in range(60)]))
        self.assertEqual(code, 1)
        self.assertIn("GROWS", said)

    def test_one_wrong_answer_is_not(self):
        found = self.seen([200.0] * 60)
        found.note("look: /day/", 5.0, 500, (200,))
        found.note("look: /day/", 5.0, 0, (200,))
        code, said = self.judged(found)
        self.assertEqual(code, 1)
        self.assertIn("1 × look: /day/: 500", said)

    def test_an_entry_that_is_lost_or_an_orphan_is_not(self):
        for what in ("lost", "twice", "orphans"):
            found = self.seen([200.0] * 60)
            setattr(found, what, 1)
            self.assertEqual(self.judged(found)[0], 1, what)

    def test_processes_below_one_and_those_that_stay(self):
        one = subprocess.Popen(["sh", "-c", "sleep 60 & wait"])
        self.addCleanup(one.kill)
        for _ in range(100):
            if below := trouble.children_of(one.pid):
                break
            time.sleep(0.05)
        self.assertEqual(len(below), 1)
        with patch("tools.endure.trouble._GONE_SECONDS", 0.3):
            self.assertEqual(trouble.left(below), 1)
        os.kill(below[0], signal.SIGKILL)
        self.assertEqual(trouble.left(below), 0)

    def test_what_a_fuzzer_sends_is_of_every_kind(self):
        chance = random.Random(3)
        sent = [trouble._request(chance, "s", "/x/") for _ in range(300)]
        self.assertTrue(any(b"Content-Length: -1" in r for r in sent))
        self.assertTrue(any(r.startswith(b"BREW") for r in sent))
        self.assertTrue(all(r.endswith(b"\r\n") or b"\r\n\r\n" in r for r in sent))

    def test_nothing_seen_is_not(self):
        self.assertEqual(self.judged(SeenAnswers())[0], 1)

    def test_a_closed_link_is_opened_once_more(self):
        asked = []

        class Link:
            def __init__(self, *where, **how):
                self.first = not asked

            def request(self, verb, path, body, headers):
                asked.append(path)
                if self.first:
                    raise http.client.RemoteDisconnected

            def getresponse(self):
                class Answer:
                    status, headers = 200, {}

                    def read(self):
                        return b"here"

                return Answer()

            def close(self):
                pass

        with patch("http.client.HTTPConnection", Link):
            self.assertEqual(User(1, "x").ask("GET", "/")[:2], (200, b"here"))
        self.assertEqual(asked, ["/", "/"])
        with (
            patch("http.client.HTTPConnection", side_effect=OSError),
            patch("tools.endure.run._PATIENCE", 0.3),
        ):
            user = User(1, "x")
            self.assertEqual(user.ask("GET", "/")[0], 0)
            self.assertGreater(user.retried, 0)

    def test_what_is_done_is_mixed_and_never_tests_a_specimen_twice(self):
        person = Person(
            "s", [f"C{i}" for i in range(30)], ["/", "/campaigns/3/", "/campaigns/3/ask/"]
        )
        found = person.doings(random.Random(4))
        names = [next(found)[0] for _ in range(400)]
        self.assertEqual(names.count("bench: store"), 30)
        self.assertTrue({"look: rack", "look: /", "note on a specimen", "look: ask"} <= set(names))


class Speed(TestCase):
    def test_goals_say_whether_they_are_reached(self):
        table = "\n".join(told([Goal("quick", 6.0, 3.0, 2), Goal("slow", 9.0, 3.0, 2)]))
        self.assertRegex(table, r"quick\s+6\.0\s+3\.0\s+2\.00\s+2  reached\n")
        self.assertRegex(table, r"slow\s+9\.0\s+3\.0\s+3\.00\s+2  not reached")

    def test_failures_are_counted_and_told(self):
        tester = Tester(1, "session", "A2-229", 0.0)
        calls = []

        def ask(verb, path, body, headers):
            calls.append(path)
            tester.links.link = type("Link", (), {"close": lambda self: None})()
            raise ConnectionResetError

        with patch.object(tester, "_ask", ask):
            self.assertEqual(tester._send("POST", "/x/", {})[1], "/specimens/A2-229/")
        self.assertEqual((len(calls), tester.failed), (3, ["POST /x/: ConnectionResetError"]))
        answer = type("Answer", (), {"status": 500, "headers": {}})()
        with patch.object(tester, "_ask", lambda *a: (answer, b"<p>broken</p>")):
            tester._send("GET", "/y/", {})
        self.assertIn("GET /y/: 500  broken", tester.failed[1])
