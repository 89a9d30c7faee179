"""Eight testers at once, on a real server over loopback: how long from Enter to the next specimen."""

import http.client
import os
import random
import re
import subprocess
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from threading import Thread, local
from urllib.parse import urlencode
from uuid import uuid4

from brunt_command.cluster import cluster_port
from brunt_command.places import ROOT
from brunt_command.serving import server_command, wait_until_up

TESTERS, READINGS, SECRET = 8, 15, "b" * 32


@contextmanager
def server() -> Iterator[int]:
    """The web server as the demo starts it, on the bench's database."""
    port = cluster_port()
    process = subprocess.Popen(
        server_command(port), cwd=ROOT, env=dict(os.environ), stdin=subprocess.DEVNULL
    )
    try:
        wait_until_up(port, process)
        yield port
    finally:
        process.terminate()
        process.wait(20)


class Tester:
    """One person: types a reading, key by key, presses Enter, has the next specimen.

    As in the browser, the next specimen is fetched while this one is typed, each key asks for an
    answer, and Enter goes on when the answer to the last key and the next specimen are there; the
    entry itself is stored behind, then the queue is fetched.
    """

    def __init__(self, port: int, session: str, code: str, pause: float) -> None:
        self.port, self.code, self.pause = port, code, pause
        self.random = random.Random(code)
        self.hands = ThreadPoolExecutor(4)
        self.links = local()
        self.headers = {
            "Cookie": f"sessionid={session}; csrftoken={SECRET}",
            "X-CSRFToken": SECRET,
            "Content-Type": "application/x-www-form-urlencoded",
        }
        self.ready: list[float] = []
        self.stored: list[float] = []
        self.answered: list[float] = []
        self.failed: list[str] = []

    def take_up(self) -> None:
        """Open the bench at the first specimen."""
        self._send("GET", f"/specimens/{self.code}/bench/", {})

    def work(self) -> None:
        """All readings, one after the other."""
        for i in range(READINGS):
            base = f"/specimens/{self.code}/bench/"
            ahead = self.hands.submit(self._send, "POST", f"{base}ahead/", {})
            self._wait(1 / 2)
            for text in ("4", "48", f"48{i % 9}"):
                self._wait(1 / 8)
                answer = self.hands.submit(self._send, "POST", f"{base}try/", {"force": text})
            self._wait(1 / 20)
            begun = time.perf_counter()
            self.answered.append(answer.result()[0])
            address = ahead.result()[1]
            self.ready.append((time.perf_counter() - begun) * 1000)
            fields = {"force": f"48{i % 9}", "key": str(uuid4()), "kept": ""}
            self.code = address.split("/")[2]
            self.hands.submit(self._store, base, fields, f"/specimens/{self.code}/bench/queue/")
        self.hands.shutdown()

    def _store(self, base: str, fields: dict[str, str], queue: str) -> None:
        """Store an entry, then see the queue as it stands."""
        self.stored.append(self._send("POST", base, fields, "outbox")[0])
        self._send("GET", queue, {})

    def _wait(self, share: float) -> None:
        """A part of the pause, give or take a half: people are not in step."""
        time.sleep(self.pause * share * self.random.uniform(0.5, 1.5))

    def _send(
        self, verb: str, path: str, fields: dict[str, str], part: str = ""
    ) -> tuple[float, str]:
        """Milliseconds to the answer and where it leads; a closed link is opened again and asked once more.

        The key of an entry makes asking again safe. What is not answered after three links, or refused,
        is counted and told, never excluded.
        """
        body = urlencode({"width": "5", "thickness": "2", "outcome": "broke", **fields})
        headers = {**self.headers, "X-Part": part}
        begun = time.perf_counter()
        for _ in range(3):
            try:
                answer, text = self._ask(verb, path, body, headers)
                break
            except (http.client.HTTPException, OSError) as problem:
                # The server had closed the idle connection: like a browser, on a new one.
                self.links.link.close()
                said = type(problem).__name__
        else:
            self.failed.append(f"{verb} {path}: {said}")
            return (time.perf_counter() - begun) * 1000, f"/specimens/{self.code}/"
        if answer.status not in (200, 204):
            words = re.sub(rb"<[^>]+>|\s+", b" ", text)[-200:].decode(errors="replace")
            self.failed.append(f"{verb} {path}: {answer.status} {words}")
        spent = (time.perf_counter() - begun) * 1000
        return spent, answer.headers.get("X-Address", f"/specimens/{self.code}/")

    def _ask(
        self, verb: str, path: str, body: str, headers: dict[str, str]
    ) -> tuple[http.client.HTTPResponse, bytes]:
        if not hasattr(self.links, "link"):
            self.links.link = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        self.links.link.request(verb, path, body, headers)
        answer = self.links.link.getresponse()
        return answer, answer.read()


def eight_testers(port: int, sessions: list[str], codes: list[str], pause: float) -> Tester:
    """Run them all; returns one tester that holds everybody's times, sorted."""
    testers = [Tester(port, s, c, pause) for s, c in zip(sessions, codes, strict=True)]
    for tester in testers:
        tester.take_up()
    threads = [Thread(target=t.work) for t in testers]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    everybody = testers[0]
    everybody.ready = sorted(ms for t in testers for ms in t.ready)
    everybody.stored = sorted(ms for t in testers for ms in t.stored)
    everybody.answered = sorted(ms for t in testers for ms in t.answered)
    everybody.failed = [said for t in testers for said in t.failed]
    for said in everybody.failed[:5]:
        print(f"  failed: {said}", flush=True)
    return everybody
