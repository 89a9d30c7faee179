"""Pages: who may see them, what they say, how they take bad input."""

import json
import re
from uuid import uuid4

from django.core.management import call_command
from django.test import Client, TestCase, override_settings

from brunt_web.campaigns.models import Campaign
from brunt_web.testing.models import Test
from tests.support.workshop import BACKEND, campaign, entry, fill, person, put


class Pages(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.campaign = campaign(cls.user)
        cls.specimen = cls.campaign.specimens.order_by("procedure_id", "turns__run_order").first()

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def addresses(self):
        c, s = self.campaign.pk, self.specimen.code
        return [
            "/",
            "/campaigns/shapes/",
            "/campaigns/new/?shape=grid",
            f"/campaigns/{c}/print/",
            f"/campaigns/{c}/labels/",
            f"/campaigns/{c}/",
            f"/campaigns/{c}/ask/",
            f"/campaigns/{c}/treat/",
            f"/campaigns/{c}/measure/",
            f"/campaigns/{c}/compare/",
            f"/campaigns/{c}/import-data/",
            f"/specimens/{s}/",
            f"/specimens/{s}/bench/",
            "/library/",
            f"/campaigns/{c}/results.csv",
            "/line/?q=58",
            "/library/types/",
            "/library/types/tension-1ba/",
            "/library/recipes/new/",
            "/library/add/",
            "/library/drying/",
            "/people/",
            "/account/",
            "/library/lots/blend/",
            "/library/parts/new/",
            "/library/procedures/",
            f"/specimens/{s}/print.stl",
        ]

    def test_all_open_and_need_a_seat(self):
        stranger = Client()
        other = Client()
        other.force_login(person("other"), backend=BACKEND)
        for address in self.addresses():
            with self.subTest(address):
                self.assertEqual(self.client.get(address).status_code, 200)
                self.assertEqual(stranger.get(address).status_code, 302)
                if f"/campaigns/{self.campaign.pk}/" in address or self.specimen.code in address:
                    self.assertEqual(other.get(address).status_code, 404)
        self.assertEqual(stranger.get("/health/").status_code, 200)

    def test_headers_are_strict(self):
        answer = self.client.get("/")
        self.assertIn("script-src 'self'", answer["Content-Security-Policy"])
        self.assertNotIn("unsafe", answer["Content-Security-Policy"])
        self.assertNotRegex(answer.content.decode(), r"<script(?![^>]*src=)|style=|onclick=")

    def test_unknown_addresses_say_so(self):
        for address in ("/nowhere/", "/campaigns/99999/", "/specimens/A2-22T/"):
            answer = self.client.get(address)
            self.assertEqual(answer.status_code, 404)
            self.assertContains(answer, "Page not found", status_code=404)

    def test_stale_form_is_explained(self):
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.user, backend=BACKEND)
        answer = strict.post("/library/materials/new/", {"name": "X"})
        self.assertContains(answer, "Form out of date", status_code=403)

    def test_what_a_dead_session_sent_is_kept_and_sent_after_signing_in(self):
        self.user.set_password("seven wet ropes")
        self.user.save()
        self.client.logout()
        sent = {"name": "Fernhall XYZ", "family": "pla", "form": "filament"}
        answer = self.client.post("/library/materials/new/", sent)
        self.assertContains(answer, "nothing is lost", status_code=401)
        sealed = re.search(r'name="kept" value="([^"]+)"', answer.content.decode())[1]
        signing_in = {"username": self.user.username, "kept": sealed}
        wrong = self.client.post("/sign-in/", signing_in | {"password": "not it"})
        self.assertContains(wrong, "do not match", status_code=422)
        self.assertContains(wrong, sealed, status_code=422)
        right = self.client.post("/sign-in/", signing_in | {"password": "seven wet ropes"})
        self.assertContains(right, 'action="/library/materials/new/"')
        self.assertContains(right, 'name="name" value="Fernhall XYZ"')
        self.assertFalse(self.user.seat.workshop.materials.filter(name="Fernhall XYZ").exists())
        self.client.logout()
        forged = signing_in | {"password": "seven wet ropes", "kept": sealed[:-2] + "xx"}
        self.assertRedirects(self.client.post("/sign-in/", forged), "/")

    def test_a_script_is_told_that_the_session_is_dead(self):
        self.client.logout()
        for headers in ({"X-Part": "outbox"}, {"HX-Request": "true"}, {"Sec-Fetch-Mode": "cors"}):
            answer = self.client.post("/library/materials/new/", {"name": "X"}, headers=headers)
            self.assertEqual((answer.status_code, answer["X-Signed-Out"]), (401, "1"))
        secret = {"old": "seven wet ropes", "new": "eight wet ropes"}
        for address, sent in (("/library/materials/new/", {}), ("/account/password/", secret)):
            answer = self.client.post(address, sent)
            self.assertRedirects(answer, "/sign-in/?next=/", fetch_redirect_response=False)
        self.assertRedirects(
            self.client.get("/library/"), "/sign-in/?next=/library/", fetch_redirect_response=False
        )

    def test_an_address_of_a_form_opened_as_a_page_says_so(self):
        answer = self.client.get("/library/materials/new/")
        self.assertContains(answer, "receives forms", status_code=405)
        self.assertEqual(answer["Allow"], "POST")

    def test_new_campaign_keeps_what_was_typed(self):
        bad = {
            "question": "Long question",
            "replicates": "many",
            "new-0-name": "Weir PP",
            "new-0-family": "",
        }
        answer = self.client.post("/campaigns/new/", bad)
        for text in ("Long question", "Weir PP", "Choose its family", "many"):
            self.assertContains(answer, text, status_code=422)
        base = {
            "question": "Q?",
            "materials": [m.pk for m in self.user.seat.workshop.materials.all()],
            "replicates": "3",
            "procedures": [p.pk for p in self.campaign.procedures.all()],
        }
        for wrong, sentence in (
            ({"replicates": "many"}, "is not a number"),
            ({"replicates": "2.5"}, "a whole number"),
            ({"procedures": []}, "Choose at least one"),
            ({"question": " "}, "Write the question"),
            (
                {"f-0-kind": "setting", "f-0-setting": "walls", "f-0-levels": "2; x"},
                "is not a number",
            ),
            (
                {"f-0-kind": "setting", "f-0-setting": "layer_height", "f-0-levels": "0.2; 20"},
                "is outside",
            ),
            ({"f-0-kind": "age", "f-0-levels": "1 d; 1 d"}, "listed twice"),
            ({"cv": "900"}, "between 0 and 200"),
            ({"f-0-kind": "setting", "f-0-levels": "1; 2"}, "Choose which setting"),
        ):
            self.assertContains(
                self.client.post("/campaigns/new/", base | wrong), sentence, status_code=422
            )
        self.assertEqual(Campaign.objects.count(), 1)

    def test_new_campaign_with_new_materials(self):
        procedures = [str(p.pk) for p in self.campaign.procedures.all()]
        good = {
            "question": "Which PP?",
            "replicates": 4,
            "procedures": procedures,
            "new-0-name": "Weir PP",
            "new-0-family": "pp",
            "new-1-name": "Weir PC",
            "new-1-family": "pc",
        }
        answer = self.client.post("/campaigns/new/", good, follow=True)
        self.assertContains(answer, "16 specimens have their IDs")
        self.assertContains(
            self.client.post(
                "/campaigns/new/preview/",
                good | {"new-0-name": "Other PP", "new-1-name": "Other PC"},
            ),
            "<strong>16</strong>",
        )

    def test_bench_shows_the_working_and_the_slip(self):
        address = f"/specimens/{self.specimen.code}/bench/"
        answer = self.client.post(
            address + "try/", {"force": "58.4", "width": "5", "thickness": "2", "outcome": "broke"}
        )
        for text in ("58.40 N / 10.00 mm²", "reads like kgf", "58.4 kgf"):
            self.assertContains(answer, text)
        self.assertContains(
            self.client.post(address + "try/", {"force": "58.4 psi"}),
            "is a stress; a force is needed",
        )

    def test_bench_stores_and_goes_on(self):
        address = f"/specimens/{self.specimen.code}/bench/"
        form = {
            "force": "abc",
            "width": "5",
            "thickness": "2",
            "outcome": "broke",
            "key": str(uuid4()),
        }
        refused = self.client.post(address, form)
        self.assertContains(refused, 'value="abc"', status_code=422)
        part = self.client.post(address, {**form, "force": "612 N"}, headers={"X-Part": "bench"})
        self.assertNotIn(self.specimen.code, part["X-Address"])
        again = self.client.post(address, {**form, "force": "612 N"}, headers={"X-Part": "bench"})
        self.assertEqual((again.status_code, Test.objects.count()), (200, 1))
        self.assertContains(self.client.get(f"/specimens/{self.specimen.code}/"), "61.2")

    def test_exclusion_on_the_page(self):
        fill(
            self.campaign,
            self.user,
            {"Fernhall PLA": ["500", "510", "900"], "Tarn ASA": ["400", "410", "405"]},
        )
        odd = Test.objects.get(readings__text="900").turn.specimen
        self.assertEqual(
            self.client.post(f"/specimens/{odd.code}/leave-out/", {"reason": ""}).status_code, 422
        )
        self.client.post(f"/specimens/{odd.code}/leave-out/", {"reason": "read twice"})
        page = self.client.get(f"/campaigns/{self.campaign.pk}/compare/")
        for text in ("1 excluded", "63.7 with all", "read twice"):
            self.assertContains(page, text)

    def test_compare_switches_live_in_the_address(self):
        fill(
            self.campaign,
            self.user,
            {"Fernhall PLA": ["500", "510", "505"], "Tarn ASA": ["400", "410", "405"]},
        )
        fill(
            self.campaign,
            self.user,
            {"Fernhall PLA": ["250", "270", "260"], "Tarn ASA": ["> 200", "> 210", "> 205"]},
            "upright",
        )
        base = f"/campaigns/{self.campaign.pk}/compare/"
        self.assertContains(self.client.get(base), "Fernhall PLA leads, 1.2")
        asa = self.campaign.conditions.get(label="Tarn ASA").pk
        self.assertContains(
            self.client.get(f"{base}?show=reference&reference={asa}"), "% of Tarn ASA"
        )
        ratio = self.client.get(f"{base}?view=ratio").content.decode()
        self.assertIn("Upright ÷ flat", ratio)
        self.assertIn("bound only, no interval", ratio)
        self.assertContains(
            self.client.get(f"{base}?view=nonsense&show=x&reference=-1&working=zzz"),
            "Tension, flat",
        )
        self.assertContains(self.client.get(f"{base}?working={asa}"), "working")

    def test_queries_do_not_grow(self):
        self.client.get("/treatments/")  # the workshop's zone is looked up now and believed a while
        counts = []
        for load in ("500", "510"):
            for specimen in self.campaign.specimens.filter(spent=False)[:5]:
                put(specimen, self.user, entry(load))
            for page in ("compare/", ""):
                said = self.client.get(f"/campaigns/{self.campaign.pk}/{page}")["Server-Timing"]
                counts.append(int(re.search(r"(\d+) queries", said).group(1)))
        self.assertEqual(counts[:2], counts[2:])
        self.assertLessEqual(max(counts), 15)

    def test_the_line(self):
        def ask(q):
            return json.loads(self.client.get("/line/", {"q": q}).content)

        self.assertEqual(ask(self.specimen.code.lower().replace("-", ""))["kind"], "goto")
        self.assertEqual(ask("58.4 kg")["kind"], "reading")
        self.assertIn("kilogram-force", ask("58.4 kg")["says"])
        self.assertIn("Did you mean", ask(self.specimen.code[:-1])["says"])
        self.assertEqual(ask("note wet spool")["value"], "wet spool")
        for q in ("", "what?", "12 flurbs"):
            self.assertEqual(ask(q)["kind"], "refused")


class Demo(TestCase):
    def test_loads_once_and_signs_in_by_one_press(self):
        call_command("load_demo", stdout=open("/dev/null", "w"))
        call_command("load_demo")
        self.assertEqual(Campaign.objects.count(), 11)
        answer = self.client.post("/sign-in/demo/", follow=True)
        self.assertContains(answer, "vent-crank arm")
        guest = Client()
        page = guest.get("/library/", follow=True)
        self.assertContains(page, 'name="next" value="/library/"', count=2)
        back = guest.post("/sign-in/demo/", {"next": "/library/"})
        self.assertRedirects(back, "/library/")
        away = Client().post("/sign-in/demo/", {"next": "https://elsewhere.example/"})
        self.assertRedirects(away, "/", fetch_redirect_response=False)
        wrong = Client().post("/sign-in/", {"username": "bench-lead", "password": "x"})
        self.assertContains(wrong, "do not match an account", status_code=422)
        self.assertContains(wrong, '<details class="more" open>', status_code=422)

    @override_settings(DEMO=False)
    def test_no_one_press_outside_the_demo(self):
        self.assertEqual(self.client.post("/sign-in/demo/").status_code, 404)

    def test_too_many_tries(self):
        for _ in range(9):
            answer = self.client.post("/sign-in/", {"username": "nobody", "password": "x"})
        self.assertContains(answer, "Too many attempts", status_code=429)
