"""Start angle and free swing belong to the day and the rig: taken before a series, offered for each swing."""

from datetime import timedelta
from uuid import uuid4

from brunt_core.methods.registry import method
from brunt_web.library.models import Procedure
from brunt_web.testing.actions.record_test import Entry
from brunt_web.testing.attempt import attempt_result
from brunt_web.testing.models import DayReading, Test
from tests.support.bench import TYPED
from tests.support.workshop import put
from tests.web.test_bench_actions import Benches


class OfTheDay(Benches):
    def setUp(self):
        super().setUp()
        self.turn = self.one("impact")
        self.address = f"{self.turn.base}bench/daily/"

    def swung(self):
        done = attempt_result(self.again(self.turn), TYPED["impact"], "broke").computation
        return done.result("absorbed_energy")

    def keep(self, **texts):
        return self.client.post(self.address, texts, follow=True)

    def test_taken_several_times_and_used_for_every_swing(self):
        before = self.swung()
        page = self.client.get(self.turn.address)
        self.assertContains(page, "not read today")
        kept = self.keep(free_end_angle="136; 137; 136.5")
        self.assertContains(kept, "mean of 3")
        after = self.swung()
        self.assertNotAlmostEqual(before.observation.anchor, after.observation.anchor, places=4)
        expected = dict(self.turn.procedure.parameters) | {"free_end_angle": "136.5"}
        Procedure.objects.filter(pk=self.turn.procedure_id).update(parameters=expected)
        DayReading.objects.all().delete()
        alone = self.swung()
        self.assertAlmostEqual(alone.observation.anchor, after.observation.anchor, places=9)
        self.assertGreater(after.uncertainty, alone.uncertainty)

    def test_the_test_says_what_was_of_the_day(self):
        self.keep(free_end_angle="136; 137; 136.5")
        put(self.again(self.turn), self.user, Entry(uuid4(), self.now(), TYPED["impact"], "broke"))
        self.assertEqual(Test.objects.get().assumed, {"free_end_angle": "136; 137; 136.5"})
        self.assertContains(self.client.get(f"/specimens/{self.turn.code}/"), "of the day")

    def now(self):
        return DayReading.objects.latest("id").at + timedelta(seconds=5)

    def test_yesterday_does_not_count(self):
        self.keep(free_end_angle="136")
        DayReading.objects.update(at=self.now() - timedelta(days=1))
        self.assertContains(self.client.get(self.turn.address), "not read today")

    def test_what_is_none_is_refused(self):
        self.assertContains(self.keep(free_end_angle="high"), "does not start with a number")
        self.assertContains(self.keep(), "Let it swing freely a few times")
        self.assertFalse(DayReading.objects.exists())

    def test_other_methods_have_nothing_of_the_day(self):
        self.assertFalse(any(i.daily for i in method("tension").inputs))
        self.assertNotContains(self.client.get(self.one("tension").address), "Rig today")
