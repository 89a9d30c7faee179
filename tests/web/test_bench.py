"""The bench of every method: it opens, draws, computes, stores, and says what is odd."""

from uuid import uuid4

from django.test import TestCase

from brunt_web.testing.attempt import attempt_result
from brunt_web.testing.views import FOLLOWS_BY_ITSELF
from tests.support.bench import TYPED, bench_of
from tests.support.workshop import BACKEND, person, turn


class EveryMethod(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)

    def test_each_opens_draws_every_outcome_and_stores(self):
        for key, texts in TYPED.items():
            with self.subTest(key):
                specimen = bench_of(self.user, key).specimens.first()
                address = f"/specimens/{specimen.code}/bench/"
                page = self.client.get(address)
                timed = specimen.procedure.method.timed
                self.assertContains(
                    page, "start clock" if timed else specimen.procedure.reading.label
                )
                for outcome in specimen.procedure.method.outcomes:
                    for typed in ({}, texts):
                        form = {**typed, "outcome": outcome.key}
                        answer = self.client.post(address + "try/", form)
                        self.assertEqual(answer.status_code, 200)
                        drawn = 'id="drawing"' in answer.content.decode()
                        by_itself = specimen.procedure.method.drawing in FOLLOWS_BY_ITSELF
                        self.assertEqual(drawn, not by_itself, f"{key} {outcome.key}")
                form = {**texts, "key": str(uuid4()), "kept": self.asked(specimen, texts)}
                done = self.client.post(address, form, headers={"X-Part": "bench"})
                self.assertEqual(done.status_code, 200, done.content.decode()[-3000:])
                self.assertTrue(turn(specimen).results.exists())
                self.assertContains(self.client.get(f"/specimens/{specimen.code}/"), "Working")

    def asked(self, specimen, texts) -> str:
        found = attempt_result(turn(specimen), texts, "")
        return found.unit_mixup.sentence if found.unit_mixup else ""
