"""Every form of the main pages, filled with junk: refused with a sentence, never an error of the server's own."""

import re
import struct
import zlib
from html import unescape
from html.parser import HTMLParser
from random import Random

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import TestCase

from tests.support.media import own_media
from tests.support.workshop import BACKEND, campaign, fill, person

JUNK = [
    *("", "0", "-1", "nan", "-inf", "1e300 N", "1e-300", "1e999", "9" * 25, "5" * 400, "x" * 9000),
    *("\x00", "a\x00b", "²", "١٢٫٥", "\u202eabc", "[[[[1", '{"a":' * 50, "null", "=1+1", "1,5"),
    *("5 kgf; 6", "> 5 N", "5..6 mm", "1/8 in", "1e9 mm", "2026-13-45", "0000-01-01T00:00"),
]
LEFT_ALONE = re.compile("sign-out|leave/|password|end-sessions|invite|tokens")


class Forms(HTMLParser):
    """The forms of a page: where each goes, how, and what it would send as it stands."""

    def __init__(self, body: str) -> None:
        super().__init__()
        self.found: list[tuple[str, str, dict[str, str]]] = []
        self.by_id: dict[str, dict[str, str]] = {}
        self.open: dict[str, str] | None = None
        self.last = ""
        self.feed(body)

    def handle_starttag(self, tag, attrs):
        has = {k: v or "" for k, v in attrs}
        if tag == "form":
            self.open = {}
            self.by_id[has.get("id", "")] = self.open
            self.found.append((has.get("action", ""), has.get("method", "get").lower(), self.open))
        fields = self.by_id.get(has["form"]) if "form" in has else self.open
        if fields is None:
            return
        if tag == "button" and "formaction" in has:
            self.found.append((has["formaction"], "post", fields))
        if tag in ("input", "textarea", "select") and has.get("type") != "file" and "name" in has:
            self.last = has["name"]
            fields.setdefault(self.last, has.get("value", ""))
        if tag == "option" and self.last in fields:
            fields[self.last] = fields[self.last] or has.get("value", "")

    def handle_endtag(self, tag):
        if tag == "form":
            self.open = None


class Junk(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.campaign = campaign(cls.user)
        label = cls.campaign.conditions.first().label
        fill(cls.campaign, cls.user, {label: ["58 kgf", "> 60 kgf", "61.5"]})
        cls.code = cls.campaign.specimens.order_by("pk").first().code

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)
        self.client.raise_request_exception = False

    def pages(self):
        base, one = f"/campaigns/{self.campaign.pk}/", f"/specimens/{self.code}/"
        return [
            *(base + p for p in ("ask/", "ask/edit/", "print/", "treat/", "measure/", "compare/")),
            *(base + p for p in ("decide/", "decide/new/", "bring-in/", "report/", "labels/")),
            *(one, f"{one}bench/", f"{one}bench/?correct=1", f"{one}curve/", "/campaigns/shapes/"),
            *("/", "/library/", "/library/add/", "/library/drying/", "/library/lots/blend/"),
            *("/library/parts/new/", "/library/types/tension-v/", "/library/recipes/new/"),
            *("/library/procedures/", "/library/recipes/new/?kind=resin", "/people/", "/packages/"),
            *(
                "/campaigns/new/?shape=grid",
                "/checks/",
                "/all-campaigns/",
                "/day/",
                "/changes/",
                "/account/",
            ),
            *(f"/library/rigs/{self.campaign.procedures.first().rig_id}/", "/workshop/"),
            f"/library/procedures/{self.campaign.procedures.first().pk}/",
        ]

    def test_no_form_ends_in_an_error_of_the_servers_own(self):
        forms = {}
        for page in self.pages():
            answer = self.client.get(page, follow=True)
            if "html" in answer.get("Content-Type", ""):
                for action, method, fields in Forms(answer.content.decode()).found:
                    to = unescape(action) or page
                    if not LEFT_ALONE.search(to):
                        forms.setdefault((re.sub(r"\d+", "#", to), method), (to, fields))
        self.assertGreater(len(forms), 40)
        random, wrong = Random(20), []
        for to, fields in [one for one in forms.values() for _ in range(6)]:
            sent = {k: v for k, v in fields.items() if k != "csrfmiddlewaretoken"}
            for name in random.sample(sorted(sent), min(len(sent), random.randint(1, 3))):
                sent[name] = random.choice(JUNK)
            with transaction.atomic():
                answer = self.client.post(to, sent)
                transaction.set_rollback(True)
            if answer.status_code >= 500:
                wrong.append((to, sent))
        self.assertEqual(wrong, [])

    def test_a_size_that_makes_no_specimen_beside_a_name_too_long(self):
        sizes = {"overall": "63.5", "wide": "1.5", "narrow": "3.18", "name": "x" * 300}
        for to in ("own", "drawn"):
            answer = self.client.post(f"/library/types/tension-v/{to}/", sizes)
            self.assertEqual(answer.status_code, 422, to)

    def test_an_acceptance_withdrawn_by_a_key_too_long(self):
        answer = self.client.post(
            f"/campaigns/{self.campaign.pk}/ask/withdraw/", {"key": "5" * 400}
        )
        self.assertContains(answer, "at most 160", status_code=422)


def bomb() -> bytes:
    """A picture of 900 million pixels in some hundred bytes: a PNG that says so and holds almost nothing."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    head = struct.pack(">IIBBBBB", 30_000, 30_000, 1, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(b"\x00" * 64))
        + chunk(b"IEND", b"")
    )


class Files(TestCase):
    """Files that are not what they say: bombs, deep nesting, infinities, NULs, half an archive."""

    JUNK = {
        "bomb.png": bomb(),
        "empty": b"",
        "nul.csv": b"material;load\n\x00\x00;5\n",
        "inf.csv": b"displacement;force\n0;0\n1;inf\n2;nan\n3;1e999\n",
        "deep.json": b"[" * 100_000,
        "long.csv": b"a;b\n" + b"x" * 3_000_000 + b";1\n",
        "half.zip": b"PK\x03\x04" + b"\x00" * 40,
        "half.xlsx": b"PK\x05\x06" + b"\x00" * 18,
        "latin.txt": bytes(range(256)) * 40,
        "model.stl": b"solid x\nfacet normal nan inf 0\nouter loop\nvertex inf 0 0\nvertex nan 0 0\nvertex 1e999 0 0\nendloop\nendfacet\nendsolid",
        "binary.stl": b"\x00" * 80 + b"\xff\xff\xff\x7f" + b"\x00" * 100,
    }

    def setUp(self):
        own_media(self)
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)
        self.client.raise_request_exception = False
        self.campaign = campaign(self.user)
        self.code = self.campaign.specimens.order_by("pk").first().code

    def test_no_file_ends_in_an_error_of_the_servers_own(self):
        base = f"/campaigns/{self.campaign.pk}/"
        places = {
            f"/specimens/{self.code}/photo/": ("photo", {}),
            f"/specimens/{self.code}/curve/": ("curve", {}),
            f"{base}bring-in/preview/": ("file", {}),
            f"{base}bring-in/store/": ("file", {"rows": "[" * 9000}),
            "/library/recipes/gcode/": ("gcode", {"kind": "filament"}),
            "/library/parts/new/": ("mesh", {"name": "Odd", "unit": "mm"}),
            "/packages/in/": ("file", {}),
            "/packages/": ("file", {}),
        }
        for address, (name, more) in places.items():
            for called, content in self.JUNK.items():
                sent = {**more, name: SimpleUploadedFile(called, content)}
                with self.subTest(address=address, file=called), transaction.atomic():
                    answer = self.client.post(address, sent)
                    self.assertLess(answer.status_code, 500)
                    transaction.set_rollback(True)
