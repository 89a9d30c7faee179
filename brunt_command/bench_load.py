"""Eight testers at once, on a real server over loopback: how long from Enter to the next specimen."""

import http.client
import os
import random
import re
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Thread
from urllib.parse import urlencode
from uuid import uuid4

from brunt_command.cluster import free_port
from brunt_command.places import ROOT
from brunt_command.serving import server_command, wait_until_up

TESTERS, READINGS, SECRET = int(os.environ.get("T","8")), 15, "b" * 32


@contextmanager
def server() -> Iterator[int]:
    """The web server as the demo starts it, on the bench's database."""
    port = free_port()
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
    """One person: types a reading, key by key, presses Enter, has the next specimen."""

    def __init__(self, port: int, session: str, code: str, pause: float) -> None:
        self.link = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
        self.code, self.pause, self.random = code, pause, random.Random(code)
        self.headers = {
            "Cookie": f"sessionid={session}; csrftoken={SECRET}",
            "X-CSRFToken": SECRET,
            "Content-Type": "application/x-www-form-urlencoded",
        }
        self.entered: list[float] = []
        self.answered: list[float] = []

    def take_up(self) -> None:
        """Open the bench at the first specimen."""
        self.link.request("GET", f"/specimens/{self.code}/bench/", headers=self.headers)
        self.link.getresponse().read()

    def work(self) -> None:
        """All readings, one after the other."""
        for i in range(READINGS):
            for text in ("4", "48", f"48{i % 9}"):
                self.answered.append(self._post("bench/try/", {"force": f"{text} N"}, "")[0])
                self._wait(1 / 6)
            self._wait(1 / 2)
            spent, address = self._post(
                "bench/", {"force": f"48{i % 9} N", "key": str(uuid4()), "kept": ""}, "bench"
            )
            self.entered.append(spent)
            self.code = address.split("/")[2]

    def _wait(self, share: float) -> None:
        """A part of the pause, give or take a half: people are not in step."""
        time.sleep(self.pause * share * self.random.uniform(0.5, 1.5))

    def _post(self, path: str, fields: dict, part: str) -> tuple[float, str]:
        body = urlencode({"width": "5", "thickness": "2", "outcome": "broke", **fields})
        begun = time.perf_counter()
        self.link.request(
            "POST", f"/specimens/{self.code}/{path}", body, {**self.headers, "X-Part": part}
        )
        answer = self.link.getresponse()
        text = answer.read()
        assert answer.status == 200, (answer.status, re.sub(rb"<[^>]+>", b" ", text)[-400:])
        return (time.perf_counter() - begun) * 1000, answer.headers.get("X-Address", "")


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
    everybody.entered = sorted(ms for t in testers for ms in t.entered)
    everybody.answered = sorted(ms for t in testers for ms in t.answered)
    return everybody
