"""``endure``: many users at mixed work for an hour on a real server: errors, times, and whether memory stays flat."""

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
from pathlib import Path
from threading import Event, Lock, Thread
from typing import Any
from urllib.parse import urlencode

from brunt_command import beside, cluster
from brunt_command.bench_load import SECRET, server
from brunt_command.places import PYTHON, ROOT

_SAMPLE, _WARM, _GROWTH = 10.0, 0.3, 1.10


def main() -> int:
    """Build a scratch workshop, let the users work, print what was seen; 1 where anything failed or memory grew."""
    parser = argparse.ArgumentParser(prog="./brunt endure", description=main.__doc__)
    parser.add_argument("--users", type=int, default=20)
    parser.add_argument("--minutes", type=float, default=60.0)
    parser.add_argument("--pause", type=float, default=3.0, help="seconds between two of a user's doings, on average")  # fmt: skip
    chosen = parser.parse_args()
    cluster.remove("endure")
    try:
        return _endure(chosen.users, chosen.minutes, chosen.pause)
    finally:
        cluster.remove("endure")


def _endure(users: int, minutes: float, pause: float) -> int:
    os.environ |= {
        "DATABASE_URL": cluster.start("endure"),
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
    from brunt_command import endure_work

    print("Making the workshop …", flush=True)
    people = endure_work.people(users)
    seen, stop = Seen(), Event()
    with server() as port:
        worker = beside.begin_worker(dict(os.environ))
        try:
            threads = [
                Thread(target=_work, args=(port, p, pause, seen, stop), daemon=True) for p in people
            ]
            for thread in threads:
                thread.start()
            _watch(seen, minutes * 60)
            stop.set()
            for thread in threads:
                thread.join(60)
        finally:
            beside.end(worker, beside.WORKER, patience=8)
    return _told(seen, users, minutes)


@dataclass
class Seen:
    """What the users met: times by doing, what went wrong, and the server's memory."""

    times: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    wrong: Counter[str] = field(default_factory=Counter)
    memory: list[tuple[float, float]] = field(default_factory=list)
    lock: Any = field(default_factory=Lock)

    def note(self, what: str, ms: float, status: int, expected: tuple[int, ...]) -> None:
        """One answer."""
        with self.lock:
            self.times[what].append(ms)
            if status not in expected:
                self.wrong[f"{what}: {status}"] += 1


class User:
    """One person's link: asks, and asks once more on a new link where the old one was closed."""

    def __init__(self, port: int, session: str) -> None:
        self.port = port
        self.link: http.client.HTTPConnection | None = None
        self.headers = {
            "Cookie": f"sessionid={session}; csrftoken={SECRET}",
            "X-CSRFToken": SECRET,
            "Content-Type": "application/x-www-form-urlencoded",
        }

    def ask(
        self, verb: str, path: str, fields: dict[str, Any] | None = None, part: str = ""
    ) -> tuple[int, bytes, Any]:
        """The status, the body and the headers of an answer; status 0 where none came."""
        body = urlencode(fields or {}, doseq=True) if verb == "POST" else None
        for _ in range(2):
            try:
                self.link = self.link or http.client.HTTPConnection(
                    "127.0.0.1", self.port, timeout=60
                )
                self.link.request(verb, path, body, {**self.headers, "X-Part": part})
                answer = self.link.getresponse()
                return answer.status, answer.read(), answer.headers
            except (OSError, http.client.HTTPException):
                if self.link:
                    self.link.close()
                self.link = None
        return 0, b"", {}


def _work(port: int, person: Any, pause: float, seen: Seen, stop: Event) -> None:
    """One user's hour: what they do next is drawn, what they store has a key of its own."""
    chance, user = random.Random(person.session), User(port, person.session)
    doings: Iterator[tuple[str, Callable[[User], tuple[int, Any, Any]], tuple[int, ...]]]
    doings = person.doings(chance)
    while not stop.is_set():
        what, act, expected = next(doings)
        begun = time.perf_counter()
        status = act(user)[0]
        seen.note(what, (time.perf_counter() - begun) * 1000, status, expected)
        stop.wait(pause * chance.uniform(0.3, 1.7))


def _watch(seen: Seen, seconds: float) -> None:
    """The memory of the web server's processes every ten seconds, and a line a minute."""
    begun = time.monotonic()
    while (spent := time.monotonic() - begun) < seconds:
        seen.memory.append((spent, resident()))
        if len(seen.memory) % 6 == 1:
            count = sum(map(len, seen.times.values()))
            print(f"{spent / 60:5.1f} min  {count:7} answers  {seen.wrong.total()} wrong  {seen.memory[-1][1]:.0f} MB", flush=True)  # fmt: skip
        time.sleep(min(_SAMPLE, max(seconds - spent, 0.1)))


def resident() -> float:
    """What this run's web processes hold in memory, MB: their own, and their share of what they have together."""
    total = 0
    for path in Path("/proc").glob("[0-9]*"):
        try:
            words = (path / "cmdline").read_bytes()
            if b"brunt_web.wsgi" in words and _ours(path):
                rollup = (path / "smaps_rollup").read_text()
                total += next(int(r.split()[1]) for r in rollup.splitlines() if r.startswith("Pss:"))  # fmt: skip
        except (OSError, StopIteration, ValueError):
            continue
    return total / 1000


def _ours(path: Path) -> bool:
    """Whether it was started by this process, itself or by its master."""
    parent = int((path / "stat").read_text().rpartition(")")[2].split()[1])
    if parent == os.getpid():
        return True
    above = Path(f"/proc/{parent}/stat").read_text().rpartition(")")[2].split()[1]
    return int(above) == os.getpid()


def _told(seen: Seen, users: int, minutes: float) -> int:
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
    print(f"wrong answers: {seen.wrong.total()}")
    for what, n in seen.wrong.most_common(20):
        print(f"  {n} × {what}")
    return 1 if seen.wrong or grew or not seen.times else 0


if __name__ == "__main__":
    sys.exit(main())
