"""Five thousand requests that nobody would send, on the demo's data: none may end in an error of the server's own.

The seed is stored here; another is tried with ``BRUNT_FUZZ_SEED=7 ./brunt test tests.web.test_fuzz``.
"""

import os
import re
from collections import Counter, defaultdict
from html import unescape
from random import Random
from urllib.parse import urlencode

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import transaction
from django.test import Client, TestCase, tag
from django.urls import URLPattern, get_resolver

from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.notebooks import reading
from tests.support.media import own_media
from tests.support.workshop import BACKEND
from tests.web.test_junk import JUNK, LEFT_ALONE, Forms, bomb

SEED = int(os.environ.get("BRUNT_FUZZ_SEED", "2026"))
REQUESTS, PARTS = 5000, 10
MORE_JUNK = [
    *("true", "[]", "{}", '{"a": [1, NaN]}', "-0", "0x10", "1e-400", "٣", "½", "%00", "../../etc/passwd"),
    *("9999-12-31T23:59", "1970-01-01", "25:61", "😀" * 40, "a" * 81, "\ud7ff", "<b>&amp;", "';--", "{{ x }}"),
    *("1 250 N", "± 3 mm", "2h30m", "-273.16 °C", "1e308", "9" * 400, "\t\n", "\u2028", "NaN", "Infinity"),
]  # fmt: skip
ODD_PARTS = ["0", "-1", "1", "999999999999999999999", "A2-229", "ZZ-ZZZ", "x", "%00", "..", "1e9", "AA-2228", "é", "١"]  # fmt: skip
HEADERS = [{}, {}, {"X-Part": "bench"}, {"HX-Request": "true"}, {"Accept": "application/json"}, {"X-Part": "outbox"}]  # fmt: skip


def patterns(resolver=None, before=""):
    """Every address of the application with its named parts: (text with {name}, names)."""
    for entry in (resolver or get_resolver()).url_patterns:
        route = before + str(entry.pattern)
        if not isinstance(entry, URLPattern):
            yield from patterns(entry, route)
            continue
        if not LEFT_ALONE.search(route) and "admin" not in route:
            text = re.sub(r"\(\?P<(\w+)>[^)]*\)|<(?:\w+:)?(\w+)>", lambda m: f"{{{m[1] or m[2]}}}", route)  # fmt: skip
            yield re.sub(r"[\^$\\]|\?$", "", text)


def kind_of(address):
    """An address without its numbers and IDs."""
    return re.sub(r"\d+|[A-Z0-9]{2}-[A-Z0-9]{3,4}", "#", address)


class Fuzz:
    """The requests, in parts; with ``--long`` only, since the demo is loaded for them."""

    @classmethod
    def setUpTestData(cls):
        own_media(cls)
        with open(os.devnull, "w") as nowhere:
            call_command("load_demo", stdout=nowhere)
        cls.user = get_user_model().objects.get(username="bench-lead")
        cls.campaigns = [str(pk) for pk in Campaign.objects.values_list("pk", flat=True)]
        turns = Turn.objects.select_related("specimen").order_by("?")[:80]
        cls.codes = [t.specimen.code for t in turns]
        cls.turns = [t.at for t in turns]
        cls.routes = sorted({*patterns(), *patterns(reading.RESOLVER, "api/v1/")})
        cls.known = cls.forms()

    def setUp(self):
        own_media(self)
        self.client.force_login(self.user, backend=BACKEND)
        self.client.raise_request_exception = False

    @classmethod
    def address(cls, random, junk, route=""):
        """An address with parts that are there, or one of them odd."""
        route = route or random.choice(cls.routes)
        names = re.findall(r"\{(\w+)\}", route)
        odd = random.choice(names) if names and junk else ""
        given = defaultdict(lambda: str(random.randint(1, 9)))
        for name in names:
            if name in ("code", "specimen"):
                given[name] = random.choice(cls.codes)
            elif name in ("at", "turn", "name"):
                given[name] = random.choice(cls.turns)
            elif name == "pk" and route.startswith("campaigns"):
                given[name] = random.choice(cls.campaigns)
            if name == odd:
                given[name] = random.choice(ODD_PARTS)
        return "/" + route.format_map(given)

    @classmethod
    def forms(cls):
        """The forms of every kind of page that links lead to, with what each would send as it stands."""
        found, client, seen, ahead = defaultdict(list), Client(), Counter(), ["/", "/library/", "/people/"]  # fmt: skip
        client.force_login(cls.user, backend=BACKEND)
        while ahead:
            page = ahead.pop(0)
            answer = client.get(page)
            if answer.status_code != 200 or answer.streaming or "html" not in answer.get("Content-Type", ""):  # fmt: skip
                continue
            body = answer.content.decode(errors="replace")
            for to in map(unescape, re.findall(r'href="(/[^"#?]*)', body)):
                if seen[kind_of(to)] < 2 and to not in ahead and not LEFT_ALONE.search(to):
                    seen[kind_of(to)] += 1
                    ahead.append(to)
            for action, _, fields in Forms(body).found:
                to = unescape(action) or page
                if to.startswith("/") and not LEFT_ALONE.search(to) and len(found[kind_of(to)]) < 2:
                    found[kind_of(to)].append((to, {k: v for k, v in fields.items() if k != "csrfmiddlewaretoken"}))  # fmt: skip
        return [form for kind in found.values() for form in kind]

    def file(self, random):
        """Something sent as a file: junk, the head of a kind of file, a bomb."""
        head = random.choice(
            [
                b"",
                b"PK\x03\x04",
                b"\x89PNG\r\n\x1a\n",
                b"\xff\xd8\xff",
                b"\xff\xfe",
                b"; layer_height = 0.2\nG1 X1 E1\n",
                b"a;b\n1;2\n",
                bomb(),
            ]  # fmt: skip
        )
        name = random.choice(["a.csv", "a.xlsx", "a.png", "a.gcode", "a.zip", "x" * 300 + ".jpg", "", "..\\a.stl"])  # fmt: skip
        return SimpleUploadedFile(name or "-", head + random.randbytes(random.choice([0, 8, 4000])))

    def ask(self, random, forms, names):
        """One request; returns what it was and how it was answered."""
        kind = random.random()
        headers = random.choice(HEADERS)
        if kind < 0.45:
            query = {random.choice(names): random.choice(JUNK + MORE_JUNK) for _ in range(random.randint(0, 3))}  # fmt: skip
            to = self.address(random, junk=random.random() < 0.6)
            to += "?" + urlencode(query, errors="replace") if query else ""
            return (to, None), self.client.get(to, headers=headers)
        to, fields = random.choice(forms)
        sent = dict(fields)
        if kind > 0.85:
            to = self.address(random, junk=False)
            sent |= {random.choice(names): random.choice(JUNK + MORE_JUNK) for _ in range(3)}
        for name in random.sample(sorted(sent), min(len(sent), random.randint(0, 3))):
            sent[name] = random.choice(JUNK + MORE_JUNK)
        if random.random() < 0.15:
            sent[random.choice(["file", "photo", "gcode", "curve", "mesh", "log"])] = self.file(random)  # fmt: skip
        return (to, sent), self.client.post(to, sent, headers=headers)

    def part(self, number):
        random, wrong = Random(f"{SEED}-{number}"), []
        names = sorted({n for _, fields in self.known for n in fields})
        for _ in range(REQUESTS // PARTS):
            with transaction.atomic():
                asked, answer = self.ask(random, self.known, names)
                if answer.streaming:
                    b"".join(answer.streaming_content)
                transaction.set_rollback(True)
            if answer.status_code >= 500:
                wrong.append((answer.status_code, *asked))
        self.assertEqual(wrong, [], f"seed {SEED}, part {number}")


def _part(number):
    def run(self):
        self.part(number)

    run.__doc__ = f"Part {number} of the requests."
    return run


@tag("long")
class Everything(Fuzz, TestCase):
    def test_there_are_forms_of_every_kind(self):
        self.assertGreater(len(self.known), 100)
        self.assertGreater(len(self.routes), 200)


for _number in range(PARTS):
    setattr(Everything, f"test_part_{_number}", _part(_number))
