"""The report of a campaign, its words, and the links it is read by."""

import hashlib
import io
import json
import re
import zipfile
from datetime import timedelta
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from PIL import Image

from brunt_core.errors import InputError
from brunt_core.methods.registry import methods
from brunt_web.campaigns.models import AcceptedConfounder
from brunt_web.checks.actions.check_standards import make_check_standard
from brunt_web.notebooks.actions.tokens import make_token
from brunt_web.publishing.actions import reports as acts
from brunt_web.publishing.models import Report, ReportLink
from brunt_web.publishing.order import longest_rising
from brunt_web.publishing.report import told_of
from brunt_web.testing.actions import photos
from brunt_web.testing.actions.change_test import exclude
from brunt_web.testing.actions.record_test import Entry
from tests.support.bench import TYPED, bench_of
from tests.support.media import own_media
from tests.support.plans import Shop, factor
from tests.support.reading import words
from tests.support.workshop import BACKEND, NOW, campaign, entry, fill, made, person, put, turns_of

PLA, ASA = "Fernhall PLA", "Tarn ASA"


def said(text):
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", text))


class Reported(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person("marion")
        cls.shop = cls.user.seat.workshop
        cls.one = campaign(cls.user, orientations=("flat",))
        fill(cls.one, cls.user, {PLA: ["500 N", "510 N", ">600 N"], ASA: ["300 N", "305 N"]})
        cls.bars = list(turns_of(cls.one).order_by("condition__position", "specimen__replicate"))
        put(cls.bars[5], cls.user, Entry(uuid4(), NOW, {}, "void", reason="slipped, says marion"))
        exclude(cls.bars[1].test, "a void in the neck", cls.user, NOW)
        cls.one.conditions.first().material.__class__.objects.update(price=42, note="from Dray")

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)
        self.address = f"/campaigns/{self.one.pk}/report/"

    def link(self, **how):
        how = {"name": "", "until": None, "no_money": True, **how}
        return acts.make_link(self.one, self.user, timezone.now(), **how)


class Whole(Reported):
    def test_it_answers_what_readers_ask(self):
        text = said(words(self.client.get(self.address)))
        for told in (
            "Which for the pawl?", "5 mm/min", "not printed here: printed elsewhere", "Test frame, up to 1000 N, reads to 0.1 N",
            "limit of error", "Bar: interval of the mean, 95 %", "σ = F / A", "ISO 527-1", "excluded: a void in the neck",
            "void: slipped, says marion", "Not part of this campaign: heat or another state", "anything printed upright",
            "the test order is unknown", "42.00 €/kg", "peak load 500 N", "Cite as", "SHA-256",
            "life-safety or pressure parts", "6 specimens of 2 conditions; 2 to 3 of each, 1 did not break, 1 void, 1 excluded",
        ):  # fmt: skip
            with self.subTest(told):
                self.assertIn(told, text)

    def test_every_specimen_stands_in_it_and_its_dot_leads_there(self):
        page = self.client.get(self.address).content.decode()
        for turn in self.bars:
            self.assertIn(f'id="t{turn.procedure_id}-{turn.code}"', page)
        for code in (self.bars[0].code, self.bars[2].code):
            self.assertIn(f'href="#t{self.bars[0].procedure_id}-{code}"', page)

    def test_the_digest_is_that_of_the_file_the_link_gives(self):
        link = self.link()
        page = self.client.get(f"/read/{link.token}/").content.decode()
        file = Client().get(f"/read/{link.token}/results.csv").content
        self.assertIn(hashlib.sha256(file).hexdigest(), page)

    def test_one_not_tested_and_one_never_planned(self):
        empty = campaign(self.user, question="Nothing yet?", orientations=("flat",))
        text = said(words(self.client.get(f"/campaigns/{empty.pk}/report/")))
        self.assertIn("No result yet", text)
        self.assertIn("6 tests are still to come", text)
        self.assertNotIn("nan", text.lower().split())

    def test_what_levels_asked_for_stands_in_it(self):
        shop = Shop(person("odo"))
        walls = factor("setting", "2", "4", name="Walls", setting="walls")
        steps = factor("treatment", "none", "annealed 80 °C 1 h", name="Treatment")
        one = made(shop.plan(walls, steps), shop.user)
        AcceptedConfounder.objects.create(campaign=one, key="k", sentence="Two days.", reason="a cold week", by=shop.user)  # fmt: skip
        self.client.force_login(shop.user, backend=BACKEND)
        text = said(words(self.client.get(f"/campaigns/{one.pk}/report/")))
        self.assertIn("Settings that differ", text)
        self.assertIn("Two days. Accepted: a cold week", text)
        self.assertRegex(text, "annealed.* outstanding for 4")
        self.assertNotIn("any treatment", text)

    def test_the_same_few_queries_for_any_number(self):
        told = [told_of(self.one, Report(), True)]
        with CaptureQueriesContext(connection) as few:
            told_of(self.one, Report(), True)
        many = campaign(self.user, replicates=15, orientations=("flat",), question="More?")
        loads = [f"{400 + 7 * i} N" for i in range(15)]
        fill(many, self.user, {PLA: loads, ASA: loads[::-1]})
        with CaptureQueriesContext(connection) as more:
            told.append(told_of(many, Report(), True))
        self.assertLessEqual(len(more), len(few) + 4)
        self.assertEqual(told[1].counts["specimens"], 30)

    def test_order_counts_what_was_moved(self):
        self.assertEqual([longest_rising(x) for x in ([1, 2, 3], [3, 2, 1], [1, 5, 2, 3], [])], [3, 1, 3, 0])  # fmt: skip

    def test_nobody_else_sees_or_changes_it(self):
        self.client.force_login(person("stranger"), backend=BACKEND)
        link = self.link()
        for address in (self.address, self.address + "words/", self.address + "links/", f"/report-links/{link.pk}/revoke/"):  # fmt: skip
            answer = self.client.get(address) if address == self.address else self.client.post(address)  # fmt: skip
            self.assertEqual(answer.status_code, 404, address)
        self.assertIsNone(ReportLink.objects.get(pk=link.pk).revoked_at)


class Words(Reported):
    def post(self, **data):
        return self.client.post(self.address + "words/", {"version": 0, **data}, follow=True)

    def test_kept_shown_and_not_run(self):
        answer = self.post(summary="We <b>liked</b> it.\n\nTwice.", authors="The bench")
        self.assertIn("Saved.", said(words(answer)))
        self.assertContains(answer, "We &lt;b&gt;liked&lt;/b&gt; it.")
        self.assertIn("Cite as The bench (2026)", said(words(answer)))

    def test_the_second_of_two_is_told(self):
        self.post(summary="mine")
        answer = self.post(summary="theirs")
        self.assertEqual(answer.status_code, 409)
        self.assertIn("marion changed the report", said(words(answer)))
        self.assertContains(answer, "theirs", status_code=409)
        self.assertEqual(Report.objects.get().summary, "mine")
        again = re.search(r'name="version" value="(\d+)"', answer.content.decode())
        self.assertEqual(self.post(summary="both", version=again[1]).status_code, 200)
        self.assertEqual(Report.objects.get().summary, "both")

    def test_too_long_is_said(self):
        answer = self.post(summary="x" * 5000)
        self.assertEqual(answer.status_code, 422)
        self.assertFalse(Report.objects.exists())

    def test_only_chosen_photos_are_read(self):
        own_media(self)
        for name in ("one", "two"):
            picture = io.BytesIO()
            Image.new("RGB", (30, 20), "navy").save(picture, "PNG")
            file = SimpleUploadedFile(f"{name}.png", picture.getvalue())
            photos.add_photo(self.bars[0].specimen, self.user, NOW, file, name)
        one, two = self.bars[0].specimen.photos.all()
        self.post(photos=[one.pk])
        link, reader = self.link(), Client()
        self.assertEqual(reader.get(f"/read/{link.token}/photos/{one.pk}.jpg").status_code, 200)
        self.assertEqual(reader.get(f"/read/{link.token}/photos/{two.pk}.jpg").status_code, 404)
        self.assertContains(reader.get(f"/read/{link.token}/"), f"photos/{one.pk}.jpg")


class Links(Reported):
    def test_made_read_revoked(self):
        asked = {"name": "The board", "no_money": "on"}
        first = self.client.post(self.address + "links/", asked)
        self.assertFalse(ReportLink.objects.exists(), "what was written by hand is shown first")
        self.assertIn("slipped, says person 1 name replaced", said(words(first)))
        asked["seen_words"] = first.context["mark"]
        exclude(self.bars[0].test, "berta of the yard saw a bubble", self.user, NOW)
        again = self.client.post(self.address + "links/", asked)
        self.assertFalse(ReportLink.objects.exists(), "something was written meanwhile")
        self.assertIn("berta of the yard", said(words(again)))
        asked["seen_words"] = again.context["mark"]
        made = self.client.post(self.address + "links/", asked, follow=True)
        link = ReportLink.objects.get()
        self.assertIn(f"/read/{link.token}/", made.content.decode())
        reader = Client()
        answer = reader.get(f"/read/{link.token}/")
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(answer["X-Robots-Tag"], "noindex")
        self.assertEqual(answer["Referrer-Policy"], "no-referrer")
        self.assertNotIn("Sign out", said(words(answer)))
        self.client.post(f"/report-links/{link.pk}/revoke/")
        for file in ("", "results.csv", "results.xlsx", "results.json", "package.zip", "photos/1.jpg"):  # fmt: skip
            with self.subTest(file):
                closed = reader.get(f"/read/{link.token}/{file}")
                self.assertEqual(closed.status_code, 410)
                self.assertIn("was revoked on", said(words(closed)))
        self.assertIn("opened 1 time", said(words(self.client.get(self.address))))

    def test_it_ends_after_its_last_day(self):
        today = timezone.localdate()
        link = self.link(until=today)
        self.assertEqual(Client().get(f"/read/{link.token}/").status_code, 200)
        ReportLink.objects.update(until=today - timedelta(days=1))
        closed = Client().get(f"/read/{link.token}/")
        self.assertContains(closed, "This link ended on", status_code=410)
        with self.assertRaises(InputError):
            self.link(until=today - timedelta(days=1))
        answer = self.client.post(self.address + "links/", {"until": "2020-01-01"})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("is in the past", said(words(answer)))

    def test_an_unknown_one_is_not_found(self):
        for token in ("x", "0" * 43, "برج"):
            self.assertEqual(Client().get(f"/read/{token}/").status_code, 404)
        self.assertEqual(Client().get(f"/read/{self.link().token}/results.exe").status_code, 404)
        self.assertEqual(Client().post(f"/read/{self.link().token}/").status_code, 405)

    def every(self, **how):
        """Everything a reader gets by a link, as text."""
        token, reader, found = self.link(**how).token, Client(), {}
        for name in ("", "results.csv", "results.json"):
            found[name or "page"] = reader.get(f"/read/{token}/{name}").content.decode()
        zipped = zipfile.ZipFile(io.BytesIO(b"".join(reader.get(f"/read/{token}/package.zip"))))
        found["package"] = "\n".join(zipped.read(n).decode("utf-8", "replace") for n in zipped.namelist())  # fmt: skip
        return found

    def test_nobody_is_named_and_no_price_told(self):
        put(self.bars[5], self.user, Entry(uuid4(), NOW, {}, "void", reason="slipped, says marion"), replace=True)  # fmt: skip
        for name, text in self.every().items():
            with self.subTest(name):
                self.assertNotIn("marion", text.replace("Bench of marion", ""))
                # A price, and not a moment that ends in 42.00 s.
                self.assertNotRegex(text, r"(?<![:\d])42\.00")
                self.assertNotIn("Dray", text)
        self.assertIn("person 1", said(self.every()["page"]))

    def test_short_names_of_operators_stay_out_too(self):
        other = person("bo", self.shop)
        one = campaign(self.user, replicates=2, orientations=("flat",), question="Who?")
        for bar in turns_of(one):
            put(bar, self.user if bar.condition.label == PLA else other, entry("500 N"))
        self.assertIn(
            "Operator differs", said(words(self.client.get(f"/campaigns/{one.pk}/report/")))
        )
        token = acts.make_link(one, self.user, timezone.now(), "", None, True).token
        page = said(words(Client().get(f"/read/{token}/")))
        self.assertIn("Operator differs and is not a factor", page)
        self.assertNotRegex(page, r"\bbo\b")

    def test_prices_where_they_may_be_told(self):
        found = self.every(no_money=False)
        self.assertIn("42.00 €/kg", said(found["page"]))
        self.assertEqual(json.loads(found["results.json"])["materials"][0]["price_per_kg"], 42.0)
        self.assertIn("42.00", found["package"])

    def test_a_package_without_prices_comes_in(self):
        from brunt_web.packages.gathering import Scope
        from brunt_web.packages.incoming import read_package
        from brunt_web.packages.outgoing import package_of
        from brunt_web.packages.store import store

        acts.keep_words(self.one, self.user, NOW, "Ours.", "Us", [], 0)
        package = package_of(self.shop, [self.one], "x", Scope(money=False))
        shop = store(read_package(package), "Elsewhere")
        self.assertEqual(set(shop.materials.values_list("price", "note")), {(None, "")})
        self.assertEqual(Report.objects.get(campaign__workshop=shop).summary, "Ours.")


class Short(Reported):
    def test_it_says_the_gist(self):
        text = said(words(self.client.get(self.address + "?short=1")))
        self.assertIn("Fernhall PLA", text)
        self.assertNotIn("Every specimen", text)
        self.assertIn("Cite as", text)


class UnlikeMethods(TestCase):
    """What goes out of campaigns of unlike methods (all of them were tried once by hand): report, files, ladder, material, check standard."""

    def test_all_of_it_for_methods_of_every_nature(self):
        user = person("olga")
        self.client.force_login(user, backend=BACKEND)
        _, secret = make_token(user, user.seat.workshop, timezone.now(), "all")
        for key in ("tension", "impact", "drop", "creep", "clamp-retention", "judgement", "measure", "part-break", "mass", "dimensional"):  # fmt: skip
            one = bench_of(user, key, replicates=1)
            good = methods()[key].outcomes[0].key
            for turn in turns_of(one, condition__label=PLA):
                put(turn, user, Entry(uuid4(), NOW, TYPED[key], good))
            pla, procedure = one.conditions.first().material, one.procedures.get()
            files = ("report/", "results.xlsx", "results.json")
            addresses = [f"/campaigns/{one.pk}/{n}" for n in files]
            addresses.append(f"/library/materials/{pla.pk}/")
            if not procedure.ranked_property.ordinal:
                addresses.append(
                    f"/checks/{make_check_standard(one.workshop, user, pla, procedure).pk}/"
                )
            with self.subTest(key):
                for address in addresses:
                    self.assertEqual(self.client.get(address).status_code, 200, address)
                head = {"Authorization": f"Bearer {secret}"}
                for name in (f"campaigns/{one.pk}/ranking", f"results?campaign={one.pk}"):
                    answer = Client().get(f"/api/v1/{name}", headers=head)
                    self.assertEqual(answer.status_code, 200, (name, answer.content[:200]))
                    json.loads(answer.content, parse_constant=self.fail)
