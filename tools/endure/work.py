"""What the users of ``endure`` do. Runs inside Django, on a scratch database."""

import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

from django.contrib.auth import get_user_model
from django.test import Client

from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.demonstration.load import load_demo
from brunt_web.library.models import Material, Procedure
from brunt_web.people.actions.seats import ensure_seat
from brunt_web.people.models import Workshop
from brunt_web.testing.models import Reading
from tools.bench.cases import _made

Act = Callable[[Any], tuple[int, Any, Any]]
Doing = tuple[str, Act, tuple[int, ...]]
_READ = (200,)
_STORED = (200, 204)


@dataclass
class Person:
    """A user: the session, the specimens that are theirs to test, and what there is to look at."""

    session: str
    codes: list[str]
    pages: list[str]
    stored: dict[str, str] = field(default_factory=dict)

    def doings(self, chance: random.Random) -> Iterator[Doing]:
        """What is done next, for ever: two in five are at the bench, as in a workshop."""
        codes = iter(self.codes)
        while True:
            kind = chance.random()
            if kind < 0.4:
                code = next(codes, "")
                yield from self._tested(code, chance) if code else [self._look(chance)]
            elif kind < 0.85:
                yield self._look(chance)
            elif kind < 0.95:
                yield self._note(chance)
            else:
                yield self._plan(chance)

    def _tested(self, code: str, chance: random.Random) -> Iterator[Doing]:
        load = f"{chance.uniform(45, 60):.1f} kgf"
        fields = {"force": load, "width": "5.02", "thickness": "2.01", "outcome": "broke"}
        base = f"/specimens/{code}/bench/"
        yield "bench: open", lambda user: user.ask("GET", base), _READ
        yield "bench: answer to a key", lambda user: user.ask("POST", f"{base}try/", fields), _READ
        sent = {**fields, "key": str(uuid4()), "kept": "1"}
        yield "bench: store", lambda user: self._sent(user, base, sent), _STORED
        if chance.random() < 0.1:
            yield "bench: the same once more", lambda user: user.ask("POST", base, sent, "outbox"), _STORED  # fmt: skip

    def _sent(self, user: Any, base: str, sent: dict[str, str]) -> tuple[int, Any, Any]:
        """Stored, and remembered where it was confirmed."""
        told: tuple[int, Any, Any] = user.ask("POST", base, sent, "outbox")
        if told[0] in _STORED:
            self.stored[sent["key"]] = sent["force"]
        return told

    def _look(self, chance: random.Random) -> Doing:
        page = chance.choice(self.pages)
        name = "look: " + (page.strip("/").split("/")[-1] if "/campaigns/" in page else page)
        if name[6:].isdigit():
            name = "look: rack"
        return name, lambda user: user.ask("GET", page), _READ

    def _note(self, chance: random.Random) -> Doing:
        code = chance.choice(self.codes)
        words = {"words": f"seen at {datetime.now(UTC):%H:%M:%S}"}
        return "note on a specimen", lambda user: user.ask("POST", f"/specimens/{code}/note/", words), (302,)  # fmt: skip

    def _plan(self, chance: random.Random) -> Doing:
        found = [p for p in self.pages if p.endswith("/ask/")]
        return "look: ask", lambda user: user.ask("GET", chance.choice(found)), _READ


def people(count: int) -> list[Person]:
    """The demo, a large campaign that is theirs to test, and so many users."""
    load_demo(datetime.now(UTC))
    lead = get_user_model().objects.get(username="bench-lead")
    shop = Workshop.objects.get(seats__user=lead)
    materials = list(Material.objects.filter(workshop=shop)[:12])
    procedures = list(Procedure.objects.filter(workshop=shop, name="Tension, flat"))
    own = []
    for i in range(4):
        one = plan_campaign(
            shop, lead, of_materials(f"Endure {i + 1}", materials, procedures, 60, 3)
        )
        _made(one, lead)
        own.append(one)
    turns = Turn.objects.filter(campaign__in=own).order_by("run_order", "id")
    codes = [t.specimen.code for t in turns.select_related("specimen")]
    pages = [
        "/",
        "/day/",
        "/library/",
        "/changes/",
        "/people/",
        "/all-campaigns/",
        "/due/",
        "/jobs/",
    ]
    for pk in Campaign.objects.filter(workshop=shop).values_list("pk", flat=True):
        pages += [f"/campaigns/{pk}/{last}" for last in ("", "ask/", "print/", "treat/", "compare/", "compare/profile/", "compare/summary/")]  # fmt: skip
    return [Person(_session(shop, i), codes[i::count], pages) for i in range(count)]


def _session(shop: Workshop, number: int) -> str:
    user, _ = get_user_model().objects.get_or_create(username=f"endure-{number}")
    ensure_seat(user, shop)
    client = Client()
    client.force_login(user, backend="brunt_web.people.backend.SeatBackend")
    return client.cookies["sessionid"].value


def stranger() -> str:
    """The session of a tester in a workshop of their own, whose odd requests change nothing of the others."""
    shop = Workshop.objects.create(name="The stranger's")
    return _session(shop, 999)


def paths() -> list[str]:
    """Addresses of every kind, as they are written here."""
    turn = Turn.objects.select_related("specimen").first()
    assert turn is not None
    one, code = turn.campaign_id, turn.specimen.code
    found = [
        f"/campaigns/{one}/{last}"
        for last in ("", "compare/", "decide/", "results.csv", "report/", "import-data/")
    ]
    found += [
        f"/specimens/{code}/{last}"
        for last in ("", "bench/", "bench/try/", "curve/", "note/", "label/")
    ]
    return [
        *found,
        "/",
        "/sign-in/",
        "/library/",
        "/packages/",
        "/account/",
        "/read/x/",
        "/health/",
        "/api/v1/campaigns/",
    ]


def lost(stored: dict[str, str]) -> tuple[int, int]:
    """Of the entries that were confirmed, how many are not there as typed, and how many more than once."""
    found: dict[str, list[str]] = {}
    rows = Reading.objects.filter(key="force", test__entry_key__in=list(stored))
    for key, text in rows.values_list("test__entry_key", "text"):
        found.setdefault(str(key), []).append(text)
    missing = sum(found.get(key, [""])[0] != text for key, text in stored.items())
    return missing, sum(len(texts) > 1 for texts in found.values())
