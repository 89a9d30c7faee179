"""The goals of speed as ratios, each against something measured in the same run. Runs inside Django, on a scratch database."""

import http.client
import io
import os
import resource
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import urlencode
from uuid import uuid4

import numpy as np
from django.conf import settings
from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.test import Client
from django.urls import include, path

from brunt_command.cluster import cluster_port
from brunt_command.places import PYTHON, ROOT
from brunt_command.serving import server_command
from brunt_core.curves.reading import read_curve
from brunt_core.curves.reduction import reduce_curve
from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.campaigns.queries import ready
from tools.bench import many as bench_many

_FORM = "application/x-www-form-urlencoded"
Run = Callable[[], object]
ROUNDS = 15


@dataclass(frozen=True)
class Goal:
    """A measurement with its measure: median milliseconds of both, and the ratio that is the goal."""

    name: str
    ms: float
    base: float
    goal: float

    @property
    def ratio(self) -> float:
        """Times the measure."""
        return self.ms / self.base


# -- a view that writes one row, behind the same middleware -----------------------------------------


def bare(request: HttpRequest) -> HttpResponse:
    """Write one row and nothing else."""
    with connection.cursor() as cursor:
        cursor.execute("INSERT INTO bench_bare (text) VALUES (%s)", ["58.4 kgf"])
    return HttpResponse(status=204)


urlpatterns = [path("bench-bare/", bare), path("", include("brunt_web.urls"))]


def median(run: Run, rounds: int = ROUNDS) -> float:
    """Median milliseconds of a run, after one that does not count."""
    run()
    times = []
    for _ in range(rounds):
        begun = time.perf_counter()
        run()
        times.append((time.perf_counter() - begun) * 1000)
    return sorted(times)[len(times) // 2]


def goals(user: Any, client: Client, campaign: Campaign) -> Iterator[Goal]:
    """Every goal, one after the other; ``campaign`` is one with many specimens waiting at the bench."""
    settings.ROOT_URLCONF = __name__
    yield from _bench(client, campaign)
    one = Campaign.objects.filter(question="Heavy").first() or bench_many.heavy(user)
    yield from _heavy(client, one)
    yield from _start_page(client, one)
    yield from _others(client, one, campaign)
    yield _curves()
    yield _cold()
    yield _warm_start()


def _asks(client: Client, address: str) -> Run:
    def run() -> None:
        answer = client.get(address)
        assert answer.status_code == 200, (address, answer.status_code)

    return run


def _bench(client: Client, campaign: Campaign) -> Iterator[Goal]:
    with connection.cursor() as cursor:
        cursor.execute("CREATE TABLE IF NOT EXISTS bench_bare (id bigserial PRIMARY KEY, text text)")  # fmt: skip
    base = median(lambda: client.post("/bench-bare/"), 40)
    codes = list(ready(campaign).values_list("specimen__code", flat=True)[:200])
    fields = {"force": "500 N", "width": "5", "thickness": "2", "outcome": "broke", "kept": "1"}
    left = iter(codes[1:])

    def sent(path: str, part: str = "", key: bool = False) -> Run:
        def run() -> None:
            code = next(left) if key else codes[0]
            more = {"key": str(uuid4())} if key else {}
            body = urlencode({**fields, **more})  # as the page sends it
            answer = client.post(f"/specimens/{code}/bench/{path}", body, _FORM, headers={"X-Part": part})  # fmt: skip
            assert answer.status_code in (200, 204), (path, answer.status_code)

        return run

    yield Goal("bench: answer to a key (try)", median(sent("try/"), 40), base, 2)
    yield Goal("bench: store", median(sent("", "outbox", key=True), 40), base, 2)
    yield Goal("bench: the next, fetched ahead", median(sent("ahead/"), 40), base, 2)
    queue = f"/specimens/{codes[-1]}/bench/queue/"
    yield Goal("bench: the queue", median(_asks(client, queue), 40), base, 2)


def _heavy(client: Client, one: Campaign) -> Iterator[Goal]:
    base = median(lambda: bench_many.fetch(one))
    for name, last in (("rack", ""), ("ranking_chart", "compare/"), ("profile", "compare/profile/"), ("campaign_summary", "compare/summary/")):  # fmt: skip
        page = _asks(client, f"/campaigns/{one.pk}/{last}")
        yield Goal(f"heavy campaign, 24 × 3 × 20: {name}", median(page), base, 3)


def _start_page(client: Client, one: Campaign) -> Iterator[Goal]:
    """Twenty thousand specimens in fourteen campaigns of the heavy one's size."""
    shop = one.workshop
    for number in range(13):
        bench_many.copy_of(one, f"Heavy {number}")
    count = Specimen.objects.filter(workshop=shop).count()
    assert count > 18_000, count

    def rows() -> None:
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT t.campaign_id, t.condition_id, t.procedure_id, t.state, s.code, s.made FROM campaigns_turn t "
                "JOIN campaigns_specimen s ON s.id = t.specimen_id WHERE s.workshop_id = %s",
                [shop.pk],
            )
            assert len(cursor.fetchall()) >= count

    base, page = median(rows, 7), _asks(client, "/")
    yield Goal(f"start page, {count} specimens", median(page, 7), base, 3)


def _others(client: Client, one: Campaign, campaign: Campaign) -> Iterator[Goal]:
    """Every main page, made again, with ten thousand and with a million results elsewhere."""
    code = ready(campaign).values_list("specimen__code", flat=True)[0]
    pages = {
        "start page": "/",
        "rack": f"/campaigns/{one.pk}/",
        "ask": f"/campaigns/{campaign.pk}/ask/",
        "print": f"/campaigns/{campaign.pk}/print/",
        "ranking_chart": f"/campaigns/{one.pk}/compare/",
        "profile": f"/campaigns/{one.pk}/compare/profile/",
        "campaign_summary": f"/campaigns/{one.pk}/compare/summary/",
        "specimen": f"/specimens/{code}/",
        "bench": f"/specimens/{code}/bench/",
        "library": "/library/",
        "schedule": "/day/",
        "changes": "/changes/",
    }
    bench_many.crowd(one, 10_000)
    before = {name: median(_asks(client, address)) for name, address in pages.items()}  # fmt: skip
    bench_many.crowd(one, 1_000_000)
    for name, address in pages.items():
        yield Goal(f"{name}, a million results elsewhere to ten thousand", median(_asks(client, address)), before[name], 1.2)  # fmt: skip


def _curves() -> Goal:
    """Two hundred curves of 5000 points read and reduced, beside the faster of two kept readers of CSV."""
    import pandas

    x = np.linspace(0, 0.05, 5000)
    texts = []
    for i in range(200):
        load = 600 * (1 - np.exp(-x / (0.01 + i * 1e-5)))
        lines = "\n".join(f"{a:.6f},{b:.4f}" for a, b in zip(x * 100, load, strict=True))
        texts.append(f"Travel [mm],Load [N]\n{lines}")

    def reduced() -> None:
        for text in texts:
            reduce_curve(read_curve(text), 0.025)

    def plain_pandas() -> None:
        for text in texts:
            pandas.read_csv(io.StringIO(text))

    def plain_numpy() -> None:
        for text in texts:
            np.loadtxt(io.StringIO(text), delimiter=",", skiprows=1)

    base = min(median(plain_pandas, 3), median(plain_numpy, 3))
    return Goal("200 curves × 5000 points read and reduced", median(reduced, 3), base, 1.5)


def _cold() -> Goal:
    """The command line without anything warm, beside the import of one library; processor time of both."""
    compute = ["-m", "brunt_command", "compute", "tension", "force=2.4 kN", "width=10 mm", "thickness=4 mm"]  # fmt: skip
    return Goal("./brunt compute, cold", _spent(compute), _spent(["-c", "import scipy.stats"]), 0.4)


def _spent(arguments: list[str]) -> float:
    times = []
    for _ in range(5):
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        subprocess.run([str(PYTHON), *arguments], check=True, cwd=ROOT, capture_output=True)
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        times.append((after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime) * 1000)
    return sorted(times)[2]


_EMPTY = """
import django
from django.conf import settings
from django.core.wsgi import get_wsgi_application
from django.http import HttpResponse
from django.urls import path
urlpatterns = [path("", lambda request: HttpResponse("here"))]
settings.configure(ROOT_URLCONF=__name__, SECRET_KEY="x", ALLOWED_HOSTS=["*"])
application = get_wsgi_application()
"""


def _warm_start() -> Goal:
    """From the server's command to its first page, beside the same server with an empty Django."""
    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / "empty_site.py").write_text(_EMPTY)

        def empty() -> float:
            port = cluster_port()
            command = [sys.executable, "-m", "brunt_web.serve", "--app", "empty_site", "--port", str(port)]  # fmt: skip
            return _until_up(command, port, "/", folder)

        def own() -> float:
            port = cluster_port()
            return _until_up(server_command(port), port, "/sign-in/", str(ROOT))

        ms, base = (sorted(run() for _ in range(6))[2] for run in (own, empty))
        return Goal("server's start to its first page", ms, base, 2.5)


def _until_up(command: list[str], port: int, page: str, folder: str) -> float:
    """Milliseconds to the first page; that the server then ends is not counted."""
    begun = time.perf_counter()
    process = subprocess.Popen(
        command, cwd=folder, env=dict(os.environ), stderr=subprocess.DEVNULL, start_new_session=True
    )
    try:
        for _ in range(3000):
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}{page}", timeout=5) as answer:
                    answer.read()
                    return (time.perf_counter() - begun) * 1000
            # Also what looks like an answer and is none: a link that met itself on its own port.
            except (OSError, http.client.HTTPException):
                time.sleep(0.01)
        raise RuntimeError("the server did not come up")
    finally:
        process.terminate()
        process.wait(20)


def told(found: Iterable[Goal]) -> Iterator[str]:
    """The table, a line as soon as it is measured, with what is reached."""
    yield f"{'goal':<62}{'ms':>9}{'measure':>9}{'ratio':>8}{'goal':>7}"
    for g in found:
        mark = "reached" if g.ratio <= g.goal else "not reached"
        yield f"{g.name:<62}{g.ms:>9.1f}{g.base:>9.1f}{g.ratio:>8.2f}{g.goal:>7g}  {mark}"
