"""The read API: what it answers, what it refuses, its description by a validator of OpenAPI."""

import json
import re
from datetime import timedelta

from django.db import connection
from django.test import Client, TestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from openapi_spec_validator import validate

from brunt_core.errors import InputError
from brunt_web.notebooks.actions import tokens as acts
from brunt_web.notebooks.models import Token
from brunt_web.people.actions.seats import open_to, sit_down
from brunt_web.testing.actions.change_test import exclude
from tests.support.reading import words
from tests.support.workshop import BACKEND, NOW, campaign, fill, person, turns_of

PLA, ASA = "Fernhall PLA", "Tarn ASA"
LISTS = ("campaigns", "materials", "procedures", "properties", "tests", "results", "histories")


def said(text):
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", "", text))


def refuse(text):
    raise AssertionError(f"{text} is no JSON")


class Read(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person("marion")
        cls.one = campaign(cls.user)
        fill(
            cls.one, cls.user, {PLA: ["500 N", "510 N", ">600 N"], ASA: ["300 N", "301 N", "302 N"]}
        )
        fill(cls.one, cls.user, {PLA: ["250 N"]}, "upright")
        cls.token, cls.secret = acts.make_token(cls.user, cls.one.workshop, timezone.now(), "Mine")

    def get(self, path, status=200, secret=None, **query):
        answer = Client().get(f"/api/v1/{path}", query, headers={"Authorization": f"Bearer {secret or self.secret}"})  # fmt: skip
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return json.loads(answer.content, parse_constant=refuse)


class Answers(Read):
    def test_results_are_flat_typed_and_bounded(self):
        rows = self.get("results", campaign=self.one.pk, property="tensile_strength")
        self.assertEqual(rows["count"], 6)
        held = next(r for r in rows["items"] if r["kind"] == "at_least")
        self.assertEqual((held["upper"], held["unit"], held["outcome"]), (None, "MPa", "held"))
        self.assertAlmostEqual(held["value"], 60.0)
        self.assertAlmostEqual(held["lower"], 60e6, delta=1)
        self.assertEqual({r["material"] for r in rows["items"]}, {PLA, ASA})

    def test_filters(self):
        pla = self.one.conditions.get(label=PLA)
        flat = self.one.procedures.get(orientation="flat")
        for query, count in (
            ({"condition": pla.pk}, 4), ({"material": pla.material_id}, 4), ({"procedure": flat.pk}, 6),
            ({"specimen": turns_of(self.one)[0].code.lower()}, 1), ({"since": "2026-03-02"}, 7),
            ({"since": "2026-03-03"}, 0), ({"until": "2026-03-01"}, 0), ({"property": "no_such"}, 0),
        ):  # fmt: skip
            with self.subTest(query):
                self.assertEqual(self.get("results", **query)["count"], count)
        exclude(turns_of(self.one, state="broken")[0].test, "a void", self.user, NOW)
        self.assertEqual(self.get("results")["count"], 6)
        rows = self.get("results", excluded="true")
        self.assertEqual(rows["count"], 7)
        self.assertEqual([r["excluded"] for r in rows["items"] if r["excluded"]], ["a void"])

    def test_pages(self):
        seen = [r["specimen"] for off in (0, 3, 6) for r in self.get("results", limit=3, offset=off)["items"]]  # fmt: skip
        self.assertEqual(seen, [r["specimen"] for r in self.get("results")["items"]])
        self.assertEqual(len(seen), 7)
        self.assertEqual(self.get("results", limit=100_000)["count"], 7)
        for bad in ({"limit": 0}, {"offset": -1}, {"limit": "x"}, {"campaign": "x"}, {"since": "yesterday"}, {"campaign": 10**30}):  # fmt: skip
            with self.subTest(bad):
                self.get("results", 422, **bad)

    def test_every_list_answers(self):
        for name in LISTS:
            with self.subTest(name):
                found = self.get(name)
                self.assertGreater(found["count"], 0)
                self.assertEqual(len(found["items"]), min(found["count"], 100))
        self.assertEqual(self.get("properties", q="tensile_strength")["count"], 1)
        self.assertEqual(self.get(f"campaigns/{self.one.pk}/conditions", q="tarn")["count"], 1)
        self.assertEqual(self.get("materials", q="fern", family="pla")["count"], 1)
        found = self.get(f"campaigns/{self.one.pk}/conditions")
        self.assertEqual(
            [c["levels"] for c in found["items"]], [{"Material": PLA}, {"Material": ASA}]
        )

    def test_tests_hold_what_was_typed(self):
        rows = self.get("tests", campaign=self.one.pk)
        self.assertEqual(rows["count"], 12)
        texts = {r["text"] for t in rows["items"] if t["test"] for r in t["test"]["readings"]}
        self.assertTrue({"500 N", ">600 N"} <= texts)

    def test_the_ranking_is_that_of_compare(self):
        found = self.get(f"campaigns/{self.one.pk}/ranking")
        self.assertEqual((found["unit"], found["procedure"]), ("MPa", "Tension, flat"))
        self.assertEqual([r["condition"] for r in found["rows"]], [PLA, ASA])
        self.assertAlmostEqual(found["rows"][1]["mean"], 30.1)
        self.client.force_login(self.user, backend=BACKEND)
        shown = words(self.client.get(f"/campaigns/{self.one.pk}/compare/"))
        for sentence in found["summary"]:
            self.assertIn(sentence.split(". ")[0].rstrip("."), said(shown))
        up = self.one.procedures.get(orientation="upright")
        self.assertEqual(
            len(self.get(f"campaigns/{self.one.pk}/ranking", procedure=up.pk)["rows"]), 1
        )
        self.get(f"campaigns/{self.one.pk}/ranking", 404, procedure=999_999)
        self.get("campaigns/999999/ranking", 404)

    def test_described_as_a_validator_accepts(self):
        answer = Client().get("/api/v1/openapi.json")
        spec = json.loads(answer.content)
        validate(spec)
        self.assertIn("/api/v1/results", spec["paths"])
        self.assertEqual({m for p in spec["paths"].values() for m in p}, {"get"})
        params = {p["name"] for p in spec["paths"]["/api/v1/results"]["get"]["parameters"]}
        self.assertTrue({"limit", "offset", "campaign", "property", "since"} <= params)

    def test_the_same_few_queries_for_any_number(self):
        for name in ("results", "tests", "campaigns", "histories"):
            with CaptureQueriesContext(connection) as few:
                self.get(name, limit=1)
            with CaptureQueriesContext(connection) as more:
                self.get(name, limit=100)
            self.assertLessEqual(len(more), len(few) + 1, name)


class Refusals(Read):
    def test_without_a_token_that_opens(self):
        for secret in ("x", "brunt_" + "A" * 43, "برج"):
            with self.subTest(secret):
                answer = Client().get(
                    "/api/v1/results", headers={"Authorization": f"Bearer {secret}"}
                )
                self.assertEqual(answer.status_code, 401)
        self.assertEqual(Client().get("/api/v1/results").status_code, 401)
        seated = Client()
        seated.force_login(self.user, backend=BACKEND)
        self.assertEqual(seated.get("/api/v1/results").status_code, 401)

    def test_revoked_ended_left_and_shut_out(self):
        acts.revoke_token(self.token, timezone.now())
        self.assertIn("was revoked on", self.get("results", 401)["detail"])
        Token.objects.update(revoked_at=None, until=timezone.localdate() - timedelta(days=1))
        self.assertIn("ended on", self.get("results", 401)["detail"])
        Token.objects.update(until=None)
        self.user.is_active = False
        self.user.save()
        self.assertIn("no longer in that workshop", self.get("results", 401)["detail"])

    def test_another_s_workshop_stays_shut(self):
        other = person("odo")
        _, secret = acts.make_token(other, other.seat.workshop, timezone.now(), "His")
        self.assertEqual(self.get("results", secret=secret)["count"], 0)
        self.get(f"campaigns/{self.one.pk}/ranking", 404, secret=secret)
        self.assertEqual(self.get("results", secret=secret, campaign=self.one.pk)["count"], 0)
        open_to(other, self.one.workshop)
        sit_down(other, self.one.workshop_id)
        self.assertEqual(self.get("results", secret=secret)["count"], 0)

    def test_nothing_can_be_written(self):
        for name in LISTS:
            for verb in ("post", "put", "patch", "delete"):
                answer = getattr(Client(), verb)(f"/api/v1/{name}", headers={"Authorization": f"Bearer {self.secret}"})  # fmt: skip
                self.assertEqual(answer.status_code, 405, (verb, name))

    def test_only_a_digest_is_kept(self):
        row = Token.objects.values().get()
        self.assertNotIn(self.secret, str(row))
        self.assertTrue(self.secret.endswith(row["tail"]))
        for bad in (
            {"name": " "},
            {"name": "x", "until": timezone.localdate() - timedelta(days=1)},
        ):
            with self.assertRaises(InputError):
                acts.make_token(self.user, self.one.workshop, timezone.now(), **bad)

    def test_the_page_shows_it_once_and_nobody_else_revokes_it(self):
        self.client.force_login(self.user, backend=BACKEND)
        made = self.client.post("/tokens/", {"name": "Plots"})
        secret = made.context["secret"]
        self.assertContains(made, secret)
        self.assertEqual(made["Cache-Control"], "no-store")
        self.assertNotIn(secret, words(self.client.get("/tokens/")))
        self.assertEqual(self.client.post("/tokens/", {"name": ""}).status_code, 422)
        self.assertEqual(self.get("campaigns", secret=secret)["count"], 1)
        plots = Token.objects.get(name="Plots")
        stranger = Client()
        stranger.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(stranger.post(f"/tokens/{plots.pk}/revoke/").status_code, 404)
        self.client.post(f"/tokens/{plots.pk}/revoke/")
        self.get("campaigns", 401, secret=secret)
