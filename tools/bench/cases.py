"""What ``bench`` measures. Runs inside Django, on a scratch database."""

import re
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import numpy as np
from django.contrib.auth import get_user_model
from django.test import Client

from brunt_core.curves.reading import read_curve
from brunt_core.curves.reduction import reduce_curve, thinned_for_drawing
from brunt_core.identifiers import specimen_code
from brunt_core.observations import Observation
from brunt_core.printing.gcode import read_gcode
from brunt_core.specimens import mesh
from brunt_core.specimens.types import TYPES
from brunt_core.statistics.ranking import rank
from brunt_core.statistics.summaries import summarise_many
from brunt_web.campaigns.actions.make import mark_as_made
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.queries import ready
from brunt_web.demonstration.load import load_demo
from brunt_web.library.models import Material, Procedure
from brunt_web.people.actions.seats import ensure_seat
from brunt_web.people.models import Workshop
from brunt_web.printing.labels import code_svg
from brunt_web.testing.actions.record_test import Entry, record_test
from tools.bench import load as bench_load
from tools.bench import many as bench_many

Case = tuple[str, Callable[[], object], Callable[[], str]]


last: list[Any] = []


def queries(answer: Any) -> str:
    """The number of queries the server says an answer took."""
    found = re.search(r"(\d+) queries", answer["Server-Timing"])
    return f"{found.group(1)} queries" if found else ""


def prepared() -> tuple[Any, Client, Campaign]:
    """The demo, the one who asks, signed in, and a campaign with many specimens waiting at the bench."""
    load_demo(datetime.now(UTC))
    user = get_user_model().objects.get(username="bench-lead")
    client = Client()
    client.force_login(user, backend="brunt_web.people.backend.SeatBackend")
    return user, client, _big(user, conditions=24, replicates=20)


def cases() -> Iterator[Case]:
    """Each measurement: its name, what to run, and a note made afterwards."""
    user, client, big = prepared()
    last[:] = user, client, big
    demo = Campaign.objects.get(question__startswith="Which plain filament")
    yield _page(client, "health check (the measure)", "/health/")
    yield _page(client, "compare, demo, 40 specimens", f"/campaigns/{demo.pk}/compare/")
    yield _page(client, "compare, upright ÷ flat", f"/campaigns/{demo.pk}/compare/?view=ratio")
    yield _page(client, "rack, demo", f"/campaigns/{demo.pk}/")
    waiting = ready(demo).select_related("specimen").first()
    assert waiting is not None
    yield _page(client, "bench, one specimen", f"/specimens/{waiting.code}/bench/")
    yield _attempt(client, waiting.code)
    yield _store(client, big)
    yield _page(
        client, "compare, 24 conditions × 20 = 480 specimens", f"/campaigns/{big.pk}/compare/"
    )
    yield _page(client, "rack, 480 specimens", f"/campaigns/{big.pk}/")
    yield _replan(client, big)
    yield from _plate()
    yield _gcode()
    yield _curve()
    yield _ranking(4, 5)
    yield _ranking(80, 5)
    yield _ranking(200, 5)
    yield from _many_groups()
    yield from bench_many.cases(user, client)


def load() -> Iterator[tuple[str, list[float], str, int]]:
    """Eight testers entering at once on a real server: (what, milliseconds, note, how many failed)."""
    user = get_user_model().objects.get(username="bench-lead")
    shop = Workshop.objects.get(seats__user=user)
    sessions = [_session(shop, i) for i in range(bench_load.TESTERS)]
    with bench_load.server() as port:
        for words, pause in (("a reading every 2 s", 2.0), ("no pause", 0.0)):
            goal = "goal p95 < 100 ms" if pause else "saturated: as fast as it goes"
            codes = _fresh_codes(user, shop)
            found = bench_load.eight_testers(port, sessions, codes, pause)
            wrong = len(found.failed)
            yield f"8 testers, {words}: Enter to next ready", found.ready, goal, wrong
            yield f"8 testers, {words}: Enter to stored", found.stored, "behind the next one", 0
            yield f"8 testers, {words}: answer to a key", found.answered, "the last key", 0


def _session(shop: Workshop, number: int) -> str:
    person, _ = get_user_model().objects.get_or_create(username=f"tester-{number}")
    ensure_seat(person, shop)
    client = Client()
    client.force_login(person, backend="brunt_web.people.backend.SeatBackend")
    return client.cookies["sessionid"].value


def _fresh_codes(user: Any, shop: Workshop) -> list[str]:
    """A campaign nobody has tested in, and a first specimen for each tester."""
    materials = list(Material.objects.filter(workshop=shop)[:10])
    procedures = list(Procedure.objects.filter(workshop=shop, name="Tension, flat"))
    draft = of_materials(f"Load {uuid4()}", materials, procedures, 20, 3)
    campaign = plan_campaign(shop, user, draft)
    _made(campaign, user)
    return list(campaign.specimens.values_list("code", flat=True)[: bench_load.TESTERS])


def _page(client: Client, name: str, address: str) -> Case:
    last = {}

    def run() -> None:
        last["answer"] = client.get(address)
        assert last["answer"].status_code == 200, last["answer"].status_code

    return name, run, lambda: queries(last["answer"])


def _attempt(client: Client, code: str) -> Case:
    def run() -> None:
        answer = client.post(
            f"/specimens/{code}/bench/try/",
            {"force": "58.4 kgf", "width": "5.02", "thickness": "2.01"},
        )
        assert answer.status_code == 200

    return "bench, answer while typing", run, lambda: "each key stroke"


def _store(client: Client, campaign: Campaign) -> Case:
    codes = iter(ready(campaign).values_list("specimen__code", flat=True))

    def run() -> None:
        answer = client.post(
            f"/specimens/{next(codes)}/bench/",
            {
                "force": "500 N",
                "width": "5",
                "thickness": "2",
                "outcome": "broke",
                "key": str(uuid4()),
            },
            headers={"X-Part": "bench"},
        )
        assert answer.status_code == 200

    return "bench, Enter to next specimen ready", run, lambda: "in a campaign of 480"


def _big(user: Any, conditions: int, replicates: int) -> Campaign:
    workshop = Workshop.objects.get(seats__user=user)
    materials = [
        Material.objects.create(workshop=workshop, name=f"Lot {i}", family="pla")
        for i in range(conditions)
    ]
    procedures = list(Procedure.objects.filter(workshop=workshop, name="Tension, flat"))
    campaign = plan_campaign(
        workshop, user, of_materials("Large", materials, procedures, replicates, 3)
    )
    _made(campaign, user)
    shown = ("specimen", "condition__material", "procedure__rig", "campaign")
    for i, turn in enumerate(campaign.turns.select_related(*shown).order_by("-run_order")[:300]):
        record_test(
            turn,
            user,
            Entry(
                uuid4(),
                datetime.now(UTC),
                {"force": f"{480 + i % 50}", "width": "5", "thickness": "2"},
            ),
        )
    return campaign


def _made(campaign: Campaign, user: Any) -> None:
    for condition in campaign.conditions.all():
        mark_as_made(campaign, condition, user, datetime.now(UTC), "printed elsewhere")


def _replan(client: Client, campaign: Campaign) -> Case:
    materials = [c.material_id for c in campaign.conditions.all()]
    form = {
        "question": "Large",
        "materials": materials,
        "procedures": [p.pk for p in campaign.procedures.all()],
        "replicates": "20",
        "wanted": "5",
    }

    def run() -> None:
        assert client.post("/campaigns/new/preview/", form).status_code == 200

    return "ask: one change to 24 conditions × 20 replicates", run, lambda: "goal under 1000 ms"


def _plate() -> Iterator[Case]:
    """Sixty marked specimens, beside the mesh library's own write of the same meshes."""
    import trimesh

    codes = [specimen_code(i) for i in range(60)]

    def made() -> list[tuple[str, Any, tuple[float, float]]]:
        return [
            (
                c,
                mesh.oriented(mesh.marked(TYPES["tension-1ba"], c), "flat"),
                (15.0 * (i % 8), 80.0 * (i // 8)),
            )
            for i, c in enumerate(codes)
        ]

    ready = made()

    def library() -> None:
        scene = trimesh.Scene()
        for name, body, (x, y) in ready:
            at = trimesh.transformations.translation_matrix((x, y, 0))
            scene.add_geometry(body.copy(), node_name=name, geom_name=name, transform=at)
        assert len(scene.export(file_type="3mf")) > 1000

    def run() -> None:
        assert len(mesh.three_mf(made())) > 1000

    yield "print: the mesh library's own 3MF of 60 bodies (the measure)", library, lambda: ""
    yield (
        "print: plate of 60 marked specimens as 3MF",
        run,
        lambda: "goal at most 3 × the write above",
    )
    yield (
        "print: 600 codes for labels",
        lambda: [code_svg(c) for c in (codes * 10)],
        lambda: "goal under 1000 ms",
    )


def _gcode() -> Case:
    lines = [
        f"G1 X{i % 200}.123 Y{i % 180}.456 E{0.0123 * (i % 9):.4f} F3000\n" for i in range(100_000)
    ]

    def run() -> None:
        read_gcode(lines)

    return "recipe: 100 000 lines of G-code", run, lambda: f"{sum(map(len, lines)) / 1e6:.1f} MB"


def _curve() -> Case:
    rows = (f"{i / 20000:.5f};{min(i / 100, 600 + i % 7 / 50):.3f}" for i in range(100_000))
    text = "Travel [mm];Load [N]\n" + "\n".join(rows).replace(".", ",")

    def run() -> None:
        curve = read_curve(text)
        assert reduce_curve(curve, 0.025).yield_load and len(thinned_for_drawing(curve)) < 3000

    return "curve: 100 000 points read, reduced, drawn", run, lambda: "goal under 1000 ms"


def _many_groups() -> Iterator[Case]:
    """Ten thousand groups summarised, beside one plain pass of NumPy over the same readings."""
    values = np.random.default_rng(1).normal(50, 2, 50_000)
    sizes = np.full(10_000, 5)
    starts = np.arange(0, 50_000, 5)

    def plain() -> None:
        mean = np.add.reduceat(values, starts) / 5
        off = values - np.repeat(mean, 5)
        np.sqrt(np.add.reduceat(off * off, starts) / 4)

    yield "NumPy: means and varies of 10 000 groups (the measure)", plain, lambda: "one pass"
    yield (
        "core: 10 000 groups summarised, with intervals",
        lambda: summarise_many(values, sizes),
        lambda: "goal at most 3 × the pass above",
    )


def _ranking(groups: int, size: int) -> Case:
    data = {
        f"g{i}": [Observation.exact(50 + i % 7 + 0.3 * k) for k in range(size)]
        for i in range(groups)
    }
    return (
        f"core: rank {groups} groups of {size}, all pairs",
        lambda: rank(data),
        lambda: f"{groups * (groups - 1) // 2} pairs",
    )
