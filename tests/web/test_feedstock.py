"""The feedstock qualification: gates judged, the way back, a recipe; particles from a picture."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from brunt_core.errors import InputError
from brunt_core.feedstock.judges import CHECKS
from brunt_core.feedstock.qualification import QUALIFICATIONS, gate_of, open_gate
from brunt_web.demonstration.flakes import drawn_flakes
from brunt_web.feedstock.actions import pictures, qualifications
from brunt_web.feedstock.models import Attempt, Picture, Qualification
from brunt_web.library.models import Recipe
from tests.support.media import own_media
from tests.support.reading import words
from tests.support.workshop import person
from tests.web.test_bench_actions import Benches

GOOD = {
    "dry": {"weighings": "0 h: 500 g; 4 h: 497.2; 6 h: 497.0"},
    "particles": {"over": "0.5 %", "under": "2 %"},
    "heat": {"heats": "190: fail; 200: pass; 210: pass; 220: fail"},
    "even": {"masses": "5.02; 5.10; 4.95; 5.05; 4.98", "time": "30 s"},
    "rate": {"rates": "0.4: pass; 0.6: pass; 0.8: fail", "part_mass": "180 g"},
    "wall": {"set_width": "0.45", "measured_width": "0.42"},
    "print": {"checked": ", ".join(CHECKS)},
    "specimens": {"count": "5", "of": "6"},
}


class Climbing(Benches):
    def setUp(self):
        super().setUp()
        self.shop = self.user.seat.workshop
        self.qualification = qualifications.begin(self.shop, self.user, "Bag 3")

    def attempt(self, gate, **texts):
        return qualifications.record_attempt(
            self.qualification, self.user, timezone.now(), gate, texts or GOOD[gate]
        )


class Gates(Climbing):
    def test_from_the_first_step_to_a_recipe(self):
        for gate in (g.key for g in QUALIFICATIONS["feedstock"]):
            self.assertEqual(qualifications.gate_now(self.qualification), gate)
            self.assertTrue(self.attempt(gate).passed)
        recipe = qualifications.make_recipe(self.qualification, "Bag 3, PP")
        self.assertEqual(recipe.settings["nozzle_temperature"]["shown"], "205 °C")
        self.assertAlmostEqual(recipe.settings["flow"]["value"], 1.07)
        with self.assertRaisesRegex(InputError, "already a recipe"):
            qualifications.make_recipe(self.qualification, "Bag 3, PP")

    def test_a_shut_step_and_the_way_back(self):
        with self.assertRaisesRegex(InputError, "First “Dry”"):
            self.attempt("heat")
        for gate in ("dry", "particles", "heat"):
            self.attempt(gate)
        bad = self.attempt("even", masses="4.6; 5.3; 4.2; 5.0; 4.4", time="30 s")
        self.assertFalse(bad.passed)
        self.assertIn("above 5 %", bad.reason)
        self.assertEqual(qualifications.gate_now(self.qualification), "dry")
        with self.assertRaisesRegex(InputError, "First “Dry”"):
            self.attempt("even")
        with self.assertRaisesRegex(InputError, "still open"):
            qualifications.make_recipe(self.qualification, "Too soon")
        for gate in ("dry", "particles", "heat", "even"):
            self.attempt(gate)
        self.assertEqual(qualifications.gate_now(self.qualification), "rate")

    def test_an_attempt_taken_back_counts_no_longer(self):
        made = self.attempt("dry")
        qualifications.withdraw_attempt(self.qualification, made.pk, timezone.now())
        self.assertEqual(qualifications.gate_now(self.qualification), "dry")
        self.assertEqual(Attempt.objects.count(), 1)

    def test_each_gate_fails_with_its_reason(self):
        for gate, texts, reason in (
            ("dry", {"weighings": "0 h: 500; 2 h: 495"}, "still above"),
            ("particles", {"over": "3 %"}, "jam the throat"),
            ("particles", {"over": "0 %", "under": "30 %"}, "too fine"),
            ("heat", {"heats": "190: fail; 200: fail"}, "at none"),
            ("heat", {"heats": "190: pass; 200: fail; 210: pass"}, "failed at 200"),
            ("rate", {"rates": "0.4: fail; 0.6: fail"}, "at none"),
            ("wall", {"set_width": "0.45", "measured_width": "0.3"}, "slip or a clog"),
            ("print", {"checked": "no strings"}, "Not met"),
            ("specimens", {"count": "3", "of": "6"}, "four in five"),
        ):
            with self.subTest(gate, **texts):
                verdict = gate_of("feedstock", gate).judge(texts)
                self.assertFalse(verdict.passed)
                self.assertIn(reason, verdict.reason)

    def test_what_cannot_be_judged_is_refused_with_its_field(self):
        for gate, texts, field, sentence in (
            ("dry", {"weighings": "0 h: 500"}, "weighings", "Two weighings"),
            ("dry", {"weighings": "0 h: 500; 2 h: 510"}, "weighings", "heavier"),
            ("dry", {"weighings": "2 h: 500; 1 h: 499"}, "weighings", "do not rise"),
            ("dry", {}, "weighings", "missing"),
            ("particles", {"over": "60 %", "under": "60 %"}, "under", "more than all"),
            ("particles", {"over": "few"}, "over", "does not start"),
            ("even", {"masses": "5; 5.1; 5.2", "time": "30 s"}, "masses", "five are the least"),
            ("even", {"masses": "5; 5; 5; 5; -5", "time": "30 s"}, "masses", "more than zero"),
            ("rate", {"rates": "0: pass"}, "rates", "more than zero"),
            ("specimens", {"count": "7", "of": "6"}, "count", "More good specimens"),
            ("specimens", {"count": "2.5", "of": "6"}, "of", "whole numbers"),
        ):
            with self.subTest(gate, **texts):
                with self.assertRaisesRegex(InputError, sentence) as caught:
                    gate_of("feedstock", gate).judge(texts)
                self.assertEqual(caught.exception.field, field)

    def test_resin_by_a_fit_gauge(self):
        judge = gate_of("resin", "exposure").judge
        good = judge(
            {"fits": "2 s: 0.30; 2.5 s: 0.15; 3 s: 0.25", "lift": "60 mm/min", "rest": "2 s"}
        )
        self.assertEqual(
            good.learnt,
            {"exposure": "2.5 s", "lift_speed": "60 mm/min", "rest_before_exposure": "2 s"},
        )
        self.assertIn("longer exposures", judge({"fits": "2: 0.3; 2.5: 0.25; 3: 0.2"}).reason)
        self.assertIn("lift slower", judge({"fits": "2: 0.4; 2.5: 0.3; 3: 0.35"}).reason)

    def test_the_open_gate(self):
        climb = [(g.key, True) for g in QUALIFICATIONS["feedstock"]]
        self.assertEqual(open_gate("feedstock", climb), "")
        self.assertEqual(open_gate("feedstock", [*climb, ("print", False)]), "wall")
        self.assertEqual(open_gate("feedstock", [("wall", True)]), "dry")


class Pages(Climbing):
    def post(self, gate, **form):
        return self.client.post(
            f"/feedstock/{self.qualification.pk}/try/{gate}/", form or GOOD.get(gate, {})
        )

    def test_a_qualification_with_one_failed_gate(self):
        for gate in ("dry", "particles", "heat"):
            self.assertEqual(self.post(gate).status_code, 302)
        self.post("even", masses="4.6; 5.3; 4.2; 5.0; 4.4", time="30 s")
        page = words(self.client.get(f"/feedstock/{self.qualification.pk}/"))
        self.assertIn("Flow consistency failed:", page)
        self.assertIn("What to do:</b> Dry it again", page)
        self.assertIn("tried 1 time", page)
        self.assertIn("<dt>Nozzle temperature</dt><dd>205 °C</dd>", page)
        shut = self.post("wall")
        self.assertContains(shut, "First “Dry”", status_code=422)
        bad = self.post("dry", weighings="0 h: heavy")
        self.assertContains(bad, "does not start", status_code=422)
        self.assertEqual(self.post("nothing").status_code, 404)

    def test_lists_and_names(self):
        made = self.client.post("/feedstock/new/", {"name": "Bottle X", "kind": "resin"})
        self.assertEqual(made.status_code, 302)
        self.assertContains(self.client.get("/feedstock/"), "Bottle X")
        again = self.client.post("/feedstock/new/", {"name": "Bottle X", "kind": "resin"})
        self.assertContains(again, "already", status_code=422)
        page = self.client.post(f"/feedstock/{self.qualification.pk}/recipe/", {"name": "Soon"})
        self.assertContains(page, "still open", status_code=422)
        self.assertEqual(Recipe.objects.count(), 0)

    def test_of_another_workshop(self):
        other = qualifications.begin(person("stranger").seat.workshop, person("stranger"), "Theirs")
        self.assertEqual(self.client.get(f"/feedstock/{other.pk}/").status_code, 404)
        self.assertEqual(Qualification.objects.count(), 2)


class Pictures(Climbing):
    def setUp(self):
        super().setUp()
        own_media(self)

    def upload(self, content=None, name="flakes.png"):
        file = SimpleUploadedFile(name, content or drawn_flakes(3, 700, 500), "image/png")
        return self.client.post(f"/feedstock/{self.qualification.pk}/picture/", {"photo": file})

    def test_from_a_photo_to_the_step(self):
        self.assertEqual(self.upload().status_code, 302)
        picture = Picture.objects.get()
        address = f"/particles/{picture.pk}/"
        self.assertContains(self.client.get(address), "Click two points")
        self.assertEqual(
            self.client.get(f"/particles/{picture.pk}.png")["Content-Type"], "image/png"
        )
        ruler = {"x1": "60", "y1": "460", "x2": "160", "y2": "460", "length": "5 mm"}
        self.client.post(address + "scale/", ruler)
        picture.refresh_from_db()
        self.assertAlmostEqual(picture.scale, 5e-5)
        page = self.client.get(address)
        found = page.context["spread"].count
        self.assertGreater(found, 10)
        self.assertTrue(all(picture.found[i]["outline"][0][1] > 430 for i in picture.strays))
        self.assertGreater(len(picture.strays), 20)
        whole = next(i for i, f in enumerate(picture.found) if not f["cut"])
        self.client.post(address + "stray/", {"index": whole})
        self.assertEqual(self.client.get(address).context["spread"].count, found - 1)
        self.client.post(address + "stray/", {"index": whole})
        self.assertEqual(self.client.get(address).context["spread"].count, found)
        strict = self.client.get(address, {"over": "0.5 mm", "under": "0.1 mm"})
        self.assertEqual(strict.context["spread"].share_over, 1.0)
        qualifications.record_attempt(
            self.qualification, self.user, timezone.now(), "dry", GOOD["dry"]
        )
        step = self.client.get(f"/feedstock/{self.qualification.pk}/")
        self.assertContains(
            step,
            'value="'
            + pictures.particle_shares([p for _, p in pictures.particles_on(picture)], 5e-3, 5e-4)[
                "over"
            ],
        )

    def test_areas_from_a_table(self):
        qualifications.record_attempt(
            self.qualification, self.user, timezone.now(), "dry", GOOD["dry"]
        )
        rows = "".join(f"{i},{30 if i == 1 else 4}\n" for i in range(1, 11))
        answer = self.upload(f"no,area [mm²]\n{rows}".encode(), "areas.csv")
        page = self.client.get(answer["Location"])
        self.assertContains(page, 'value="10.0 %"')
        bad = self.upload(b"no,size\n1,2\n", "areas.csv")
        self.assertContains(bad, "no column “area”", status_code=422)

    def test_what_cannot_be_used(self):
        self.assertContains(self.upload(b"not a picture"), "not a JPEG", status_code=422)
        none = self.client.post(f"/feedstock/{self.qualification.pk}/picture/", {})
        self.assertContains(none, "Choose a picture first", status_code=422)
        self.upload()
        address = f"/particles/{Picture.objects.get().pk}/"
        for form, sentence in (
            ({}, "Click two points"),
            ({"x1": "1", "y1": "1", "x2": "3", "y2": "1", "length": "5 mm"}, "too near"),
            ({"x1": "1", "y1": "1", "x2": "300", "y2": "1"}, "Type the length"),
            ({"pixel": "5 cm"}, "is the length right"),
            ({"pixel": "-1"}, "more than zero"),
        ):
            with self.subTest(sentence):
                answer = self.client.post(address + "scale/", form)
                self.assertContains(answer, sentence, status_code=422)
        self.assertEqual(self.client.post(address + "stray/", {"index": "99"}).status_code, 422)
        self.client.force_login(person("stranger"), backend="brunt_web.people.backend.SeatBackend")
        self.assertEqual(self.client.get(address).status_code, 404)
