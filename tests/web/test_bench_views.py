"""The bench over HTTP: parts for the script, plain forms without it, and what comes late or bent."""

import json
from uuid import uuid4

from django.test import TestCase

from brunt_web.campaigns.models import Turn
from brunt_web.library.models import Rig
from brunt_web.results.models import Result
from brunt_web.testing.models import Clock, DismissedCaution, Test, TimedReading
from tests.support.bench import bench_of, typed_of
from tests.support.workshop import BACKEND, person

PART, LATE = {"X-Part": "bench"}, {"X-Part": "outbox"}
PULL = {"force": "500 N", "width": "5", "thickness": "2", "outcome": "broke"}


class Views(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = bench_of(cls.user, "tension")
        cls.specimen = cls.one.specimens.first()
        cls.base = f"/specimens/{cls.specimen.code}"

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def post(self, path: str, headers=None, **fields):
        return self.client.post(f"{self.base}/{path}", fields, headers=headers or {})

    def entry(self, **changed) -> dict[str, str]:
        return {**PULL, "key": str(uuid4()), **changed}


class Drawn(Views):
    def test_once_on_the_page_of_a_live_rig(self):
        procedure = self.one.procedures.get()
        procedure.rig = Rig.objects.create(
            workshop=self.one.workshop, name="Frame", capacity=500.0, resolution=0.1, instrument="sim:load-cell"
        )  # fmt: skip
        procedure.save()
        page = self.client.get(f"{self.base}/bench/")
        self.assertContains(page, "data-live-now", count=1)
        self.assertContains(page, 'id="drawing"', count=1)
        self.assertNotContains(page, "hx-swap-oob")

    def test_again_with_the_answer_where_it_shows_what_is_typed(self):
        self.assertNotContains(self.post("bench/try/", **PULL), 'id="drawing"')
        swung = bench_of(self.user, "impact").specimens.first()
        typed = {key: text for key, text in typed_of("impact").items() if text}
        answer = self.client.post(f"/specimens/{swung.code}/bench/try/", typed)
        self.assertContains(answer, 'id="drawing"', count=1)
        self.assertContains(answer, "hammer")


class GoingOn(Views):
    def test_ahead_gives_the_next_form_and_keeps_it_for_this_person(self):
        found = self.post("bench/ahead/")
        code = found["X-Address"].split("/")[2]
        self.assertNotEqual(code, self.specimen.code)
        self.assertContains(found, f'data-code="{code}"')
        self.assertNotContains(found, "queue")
        self.assertEqual(Turn.objects.get(specimen__code=code).in_hand_of, self.user)
        self.assertEqual(Test.objects.count(), 0)

    def test_ahead_of_the_last_is_nothing(self):
        for other in self.one.specimens.exclude(pk=self.specimen.pk):
            self.client.post(f"/specimens/{other.code}/bench/", self.entry(), headers=LATE)
        self.assertEqual(self.post("bench/ahead/").status_code, 204)
        end = self.post("bench/", PART, **self.entry())
        self.assertEqual(
            (end.status_code, end["X-Address"]), (204, f"/campaigns/{self.one.pk}/bench/")
        )

    def test_the_queue_shows_what_was_just_stored(self):
        self.post("bench/", LATE, **self.entry())
        code = self.post("bench/ahead/")["X-Address"].split("/")[2]
        queue = self.client.get(f"/specimens/{code}/bench/queue/")
        self.assertContains(queue, "50.0")
        self.assertContains(queue, "<span data-done>1</span> of 6 done")

    def test_skip_puts_it_last_and_brings_the_next(self):
        answer = self.post("bench/skip/", PART)
        self.assertNotIn(self.specimen.code, answer["X-Address"])
        self.assertEqual(Turn.objects.get(specimen=self.specimen).skips, 1)
        page = self.client.get(f"/campaigns/{self.one.pk}/bench/")
        self.assertNotIn(self.specimen.code, page["Location"])

    def test_without_the_script_everything_is_a_redirect(self):
        stored = self.post("bench/", **self.entry())
        self.assertEqual(stored.status_code, 302)
        self.assertIn("/bench/", stored["Location"])
        back = self.post("bench/undo/")
        self.assertIn(self.specimen.code, back["Location"])
        nothing = self.client.post(f"{self.base}/bench/undo/", follow=True)
        self.assertContains(nothing, "nothing to undo")

    def test_a_tested_one_leads_to_its_page_and_can_be_corrected(self):
        self.post("bench/", LATE, **self.entry())
        self.assertRedirects(self.client.get(f"{self.base}/bench/"), f"{self.base}/")
        page = self.client.get(f"{self.base}/bench/?correct=1")
        self.assertContains(page, "editing a saved test")
        self.assertContains(page, 'value="500 N"')
        again = self.post("bench/", **self.entry(force="510 N", correct="1"))
        self.assertRedirects(again, f"{self.base}/")
        self.assertAlmostEqual(Result.objects.get().lower / 51e6, 1)


class LateAndBent(Views):
    def test_a_delayed_entry_is_stored_at_the_time_it_was_made(self):
        self.post("bench/", LATE, **self.entry(age="3600"))
        test = Test.objects.get()
        self.assertAlmostEqual((test.recorded_at - test.at).total_seconds(), 3600, delta=5)

    def test_odd_ages_count_as_none(self):
        for age in ("nan", "-5", "soon", "inf"):
            with self.subTest(age):
                specimen = self.one.specimens.filter(spent=False).first()
                address = f"/specimens/{specimen.code}/bench/"
                answer = self.client.post(address, self.entry(age=age), headers=LATE)
                self.assertEqual(answer.status_code, 204)

    def test_refusals_of_a_delayed_entry_are_one_sentence(self):
        for changed, sentence in (
            ({"force": "500 psi"}, "is a stress; a force is needed"),
            ({"key": "lost"}, "has lost its entry key"),
            ({"outcome": "exploded"}, "is not an outcome"),
            ({"mode": "melted"}, "is not a failure mode"),
            ({"outcome": "void"}, "Give the reason for void"),
            ({"outcome": "void", "reason": "x" * 301}, "under 300 characters"),
            ({"force": "48"}, "Save it as typed, or change it?"),
        ):
            answer = self.post("bench/", LATE, **self.entry(**changed))
            self.assertContains(answer, sentence, status_code=422)
            self.assertNotContains(answer, "<", status_code=422)
        self.assertEqual(Test.objects.count(), 0)

    def test_answers_go_with_the_entry_and_bent_ones_do_no_harm(self):
        for changed in ("", "{", "[3]", '[{"asked": 1}]', "null"):
            specimen = self.one.specimens.filter(spent=False).first()
            fields = self.entry(changed=changed)
            answer = self.client.post(f"/specimens/{specimen.code}/bench/", fields, headers=LATE)
            self.assertEqual(answer.status_code, 204, changed)
        said = json.dumps([{"asked": "reads like kgf", "was": "50", "now": "50 kgf"}])
        last = self.one.specimens.filter(spent=False).first()
        fields = self.entry(changed=said, force="50 kgf")
        self.client.post(f"/specimens/{last.code}/bench/", fields, headers=LATE)
        self.assertEqual(
            Test.objects.get(turn__specimen=last).answers,
            [{**json.loads(said)[0], "answer": "changed"}],
        )
        page = self.client.get(f"/specimens/{last.code}/")
        self.assertContains(page, "changed from 50 to 50 kgf")

    def test_what_was_typed_stays_when_it_is_refused(self):
        answer = self.post(
            "bench/", PART, **self.entry(thickness="thin", note="a bubble", place="gauge")
        )
        for kept in ('value="500 N"', 'value="thin"', "a bubble"):
            self.assertContains(answer, kept, status_code=422)
        self.assertRegex(answer.content.decode(), r'value="gauge" data-letter="g"\s+checked')

    def test_a_stranger_finds_nothing(self):
        self.client.force_login(person("stranger"), backend=BACKEND)
        for path in (
            "bench/",
            "bench/try/",
            "bench/ahead/",
            "bench/skip/",
            "clock/start/",
            "photo/",
        ):
            self.assertEqual(self.post(path).status_code, 404, path)
        for path in ("", "bench/", "bench/queue/", "curve/"):
            self.assertEqual(self.client.get(f"{self.base}/{path}").status_code, 404, path)


class Cautions(Views):
    def test_put_away_by_person_and_version(self):
        words = "Stand back before a fast pull"
        first = self.client.get(f"{self.base}/bench/")
        self.assertContains(first, "Hide cautions")
        self.assertContains(first, words)
        self.post("bench/read/")
        page = self.client.get(f"{self.base}/bench/")
        self.assertNotContains(page, "Hide cautions")
        self.assertContains(page, words)
        DismissedCaution.objects.update(version=0)
        self.assertContains(self.client.get(f"{self.base}/bench/"), "Hide cautions")
        self.client.force_login(person("other", self.one.workshop), backend=BACKEND)
        self.assertContains(self.client.get(f"{self.base}/bench/"), "Hide cautions")


class ClocksOverHttp(Views):
    def setUp(self):
        super().setUp()
        self.one = bench_of(self.user, "deflection-ladder")
        self.specimen = self.one.specimens.first()
        self.base = f"/specimens/{self.specimen.code}"

    def take(self, due: str, text: str, load_step: str, headers=PART, **more):
        fields = {
            "key": str(uuid4()),
            "input": "ladder",
            "due": due,
            "text": text,
            "load_step": load_step,
        }
        return self.post("clock/take/", headers, **{**fields, **more})

    def test_a_ladder_from_first_load_to_result(self):
        self.assertContains(self.client.get(f"{self.base}/bench/"), "Hang 5 N: start clock")
        for load_step, sag in (("5 N", 0.21), ("10 N", 0.42), ("15 N", 0.63)):
            page = self.post("clock/start/", PART, load_step=load_step)
            self.assertContains(page, f"{load_step} at 1 s")
            for due in ("1.0", "30.0", "60.0"):
                page = self.take(due, f"{sag}", load_step)
        self.assertContains(page, "All readings are taken")
        sizes = {k: v for k, v in typed_of("deflection-ladder").items() if k != "ladder"}
        done = self.post("clock/finish/", PART, key=str(uuid4()), **sizes)
        self.assertEqual(done.status_code, 200)
        self.assertFalse(Clock.objects.exists())
        modulus = Result.objects.get(property_key="flexural_modulus")
        self.assertGreater(modulus.lower, 1e9)
        self.assertContains(self.client.get(f"{self.base}/"), "drift at 5.00 N")

    def test_what_is_refused(self):
        self.assertContains(
            self.take("1.0", "0.2", "5 N"), "Start the clock first", status_code=422
        )
        self.post("clock/start/", PART, load_step="5 N")
        again = self.post("clock/start/", LATE, load_step="5 N")
        self.assertContains(again, "runs already", status_code=422)
        lost = self.take("1.0", "0.2", "5 N", key="lost")
        self.assertContains(lost, "has lost its key", status_code=422)
        empty = self.post("clock/finish/", LATE, key=str(uuid4()))
        self.assertContains(empty, "No reading yet", status_code=422)
        self.assertEqual(TimedReading.objects.count(), 0)
        self.assertEqual(self.take("1.0", "0.2", "5 N", LATE).status_code, 204)

    def test_void_ends_a_clock_with_a_reason(self):
        self.post("clock/start/", PART, load_step="5 N")
        done = self.post("clock/finish/", LATE, key=str(uuid4()), outcome="void", reason="knocked")
        self.assertEqual(done.status_code, 204)
        self.assertEqual((Test.objects.get().outcome, Clock.objects.count()), ("void", 0))

    def test_without_the_script_the_clock_is_a_redirect(self):
        self.assertEqual(self.post("clock/start/", load_step="5 N").status_code, 302)
        self.assertEqual(self.post("clock/undo/").status_code, 302)
        self.assertEqual(Clock.objects.count(), 0)
