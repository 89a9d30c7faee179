"""``endure``: many users at mixed work on a real server, and what troubles it: errors, times, losses, orphans, memory."""

import argparse
import http.client
import os
import random
import statistics
import subprocess
import sys
import time
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from itertools import count
from pathlib import Path
from tempfile import TemporaryDirectory
from threading import Event, Lock, Thread
from typing import Any
from urllib.parse import urlencode

from brunt_command import cluster
from brunt_command.places import PYTHON, ROOT
from tools.bench.load import SECRET
from tools.endure import trouble

_SAMPLE, _WARM, _GROWTH, _PATIENCE = 10.0, 0.3, 1.10, 60.0


def main() -> int:
    """Build a scratch workshop, let the users work, print what was seen; 1 where anything failed or memory grew."""
    parser = argparse.ArgumentParser(prog="./brunt endure", description=main.__doc__)
    parser.add_argument("--users", type=int, default=20)
    parser.add_argument("--minutes", type=float, default=60.0)
    parser.add_argument("--pause", type=float, default=3.0, help="seconds between two of a user's doings, on average")  # fmt: skip
    parser.add_argument("--slow", type=int, default=0, help="senders that dribble")
    parser.add_argument("--fuzz", type=int, default=0, help="senders of what no page sends")
    parser.add_argument("--kill", type=float, default=0.0, metavar="SECONDS", help="end a process at random about so often")  # fmt: skip
    chosen = parser.parse_args()
    cluster.remove_cluster("endure")
    try:
        return _endure(chosen)
    finally:
        cluster.remove_cluster("endure")


def _endure(chosen: argparse.Namespace) -> int:
    users, minutes = chosen.users, chosen.minutes
    os.environ |= {
        "DATABASE_URL": cluster.start_cluster("endure"),
        "BRUNT_SECRET_KEY": "only-for-endure",
        "BRUNT_DEMO": "1",
        "BRUNT_TESTING": "1",
        "BRUNT_LOUD": "1",
        "DJANGO_SETTINGS_MODULE": "brunt_web.settings",
    }
    subprocess.run(
        [str(PYTHON), "-m", "django", "migrate", "--no-input", "-v", "0"], check=True, cwd=ROOT
    )
    import django

    django.setup()
    from tools.endure import work as endure_work

    print("Making the workshop …", flush=True)
    people = endure_work.people(users)
    stranger, paths = endure_work.stranger(), endure_work.paths()
    seen, stop = SeenAnswers(), Event()
    with TemporaryDirectory() as folder:
        served = trouble.Served(Path(folder) / "server.json")
        served.begin()
        acts: list[tuple[Callable[..., None], tuple[Any, ...]]] = [
            *((_work, (served.port, p, chosen.pause, seen, stop)) for p in people),
            *((trouble.send_slowly, (served.port, stop, i)) for i in range(chosen.slow)),
            *(
                (trouble.fuzz, (served.port, stranger, paths, seen, stop, i))
                for i in range(chosen.fuzz)
            ),
        ]
        if chosen.kill:
            acts.append((trouble.kill_now_and_then, (served, chosen.kill, stop, 7)))
        threads = [Thread(target=act, args=given, daemon=True) for act, given in acts]
        for thread in threads:
            thread.start()
        _watch(seen, minutes * 60, served)
        stop.set()
        for thread in threads:
            thread.join(90)
        served.wait()
        served.end()
    seen.lost, seen.twice = endure_work.lost(seen.stored)
    seen.orphans, seen.killed = served.orphans, served.killed
    return _told(seen, users, minutes)


@dataclass
class SeenAnswers:
    """What the users met: times by doing, what went wrong, and the server's memory."""

    times: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    wrong: Counter[str] = field(default_factory=Counter)
    memory: list[tuple[float, float]] = field(default_factory=list)
    stored: dict[str, str] = field(default_factory=dict)
    retried: int = 0
    lost: int = 0
    twice: int = 0
    orphans: int = 0
    killed: dict[str, int] = field(default_factory=dict)
    lock: Any = field(default_factory=Lock)

    def note(self, what: str, ms: float | None, status: int, expected: tuple[int, ...]) -> None:
        """One answer, with how long it took where that says something."""
        with self.lock:
            if ms is not None:
                self.times[what].append(ms)
            if status not in expected:
                self.wrong[f"{what}: {status}"] += 1


class User:
    """One person's link: asks, and asks once more on a new link where the old one was closed."""

    def __init__(self, port: int, session: str) -> None:
        self.port = port
        self.link: http.client.HTTPConnection | None = None
        self.retried = 0
        self.headers = {
            "Cookie": f"sessionid={session}; csrftoken={SECRET}",
            "X-CSRFToken": SECRET,
            "Content-Type": "application/x-www-form-urlencoded",
        }

    def ask(
        self, verb: str, path: str, fields: dict[str, Any] | None = None, part: str = ""
    ) -> tuple[int, bytes, Any]:
        """The status, the body and the headers of an answer; asked again for a while where none comes or the server
        is not there, as a browser's outbox does; status 0 where none came at all.
        """
        body = urlencode(fields or {}, doseq=True) if verb == "POST" else None
        until = time.monotonic() + _PATIENCE
        for tried in count():
            try:
                self.link = self.link or http.client.HTTPConnection(
                    "127.0.0.1", self.port, timeout=60
                )
                self.link.request(verb, path, body, {**self.headers, "X-Part": part})
                answer = self.link.getresponse()
                told = answer.status, answer.read(), answer.headers
                if told[0] not in (502, 503, 504) or time.monotonic() > until:
                    return told
            except (OSError, http.client.HTTPException):
                if self.link:
                    self.link.close()
                self.link = None
                if time.monotonic() > until:
                    return 0, b"", {}
            self.retried += 1
            time.sleep(0.2 if tried else 0.0)
        raise AssertionError


def _work(port: int, person: Any, pause: float, seen: SeenAnswers, stop: Event) -> None:
    """One user's hour: what they do next is drawn, what they store has a key of its own."""
    chance, user = random.Random(person.session), User(port, person.session)
    doings: Iterator[tuple[str, Callable[[User], tuple[int, Any, Any]], tuple[int, ...]]]
    doings = person.doings(chance)
    while not stop.is_set():
        what, act, expected = next(doings)
        begun = time.perf_counter()
        again = user.retried
        status = act(user)[0]
        # What had to wait for a server that was started again says nothing of how quick it is.
        took = (time.perf_counter() - begun) * 1000 if user.retried == again else None
        seen.note(what, took, status, expected)
        seen.retried += user.retried - again
    with seen.lock:
        seen.stored |= person.stored
        stop.wait(pause * chance.uniform(0.3, 1.7))


def _watch(seen: SeenAnswers, seconds: float, served: "trouble.Served") -> None:
    """The memory of the web server's processes every ten seconds, and a line a minute."""
    begun = time.monotonic()
    while (spent := time.monotonic() - begun) < seconds:
        seen.memory.append((spent, resident(served)))
        if len(seen.memory) % 6 == 1:
            answers = sum(map(len, list(seen.times.values())))
            print(f"{spent / 60:5.1f} min  {answers:7} answers  {seen.wrong.total()} wrong  {seen.memory[-1][1]:.0f} MB", flush=True)  # fmt: skip
        time.sleep(min(_SAMPLE, max(seconds - spent, 0.1)))


def resident(served: "trouble.Served") -> float:
    """What the web processes hold in memory, MB: their own, and their share of what they have together."""
    total = 0
    found = served.processes()
    for pid in [*found.get("web", []), *found.get("copy", [])]:
        try:
            rollup = Path(f"/proc/{pid}/smaps_rollup").read_text()
            total += next(int(r.split()[1]) for r in rollup.splitlines() if r.startswith("Pss:"))
        except (OSError, StopIteration, ValueError):
            continue
    return total / 1000


def _told(seen: SeenAnswers, users: int, minutes: float) -> int:
    """Print the table; 1 where something failed or memory grew after the warm-up."""
    print(f"\n{users} users, {minutes:g} min\n{'what':<34}{'answers':>9}{'median ms':>11}{'p95 ms':>9}")  # fmt: skip
    for what, times in sorted(seen.times.items()):
        ordered = sorted(times)
        tail = ordered[min(int(len(ordered) * 0.95), len(ordered) - 1)]
        print(f"{what:<34}{len(times):>9}{statistics.median(ordered):>11.0f}{tail:>9.0f}")
    after = [mb for at, mb in seen.memory if at >= minutes * 60 * _WARM] or [0.0]
    third = max(len(after) // 3, 1)
    first, last = statistics.median(after[:third]), statistics.median(after[-third:])
    grew = last > first * _GROWTH
    print(f"\nmemory of the web processes after warm-up: {first:.0f} MB, at the end {last:.0f} MB" + (" — GROWS" if grew else ""))  # fmt: skip
    if seen.killed:
        print("killed: " + ", ".join(f"{name} {n}" for name, n in sorted(seen.killed.items())))
        print(f"asked again while something was started again: {seen.retried}")
    print(
        f"entries confirmed: {len(seen.stored)}, lost {seen.lost}, stored twice {seen.twice}; orphans: {seen.orphans}"
    )
    print(f"wrong answers: {seen.wrong.total()}")
    for what, n in seen.wrong.most_common(20):
        print(f"  {n} × {what}")
    bad = seen.wrong or grew or seen.lost or seen.twice or seen.orphans or not seen.times
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
