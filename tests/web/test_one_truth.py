"""An entry that was undone: its sizes, its late repeat, and the way back after the last specimen."""

from datetime import timedelta
from uuid import uuid4

from django.test import TestCase

from brunt_web.campaigns.models import HistoryEvent
from brunt_web.testing.actions import timed
from brunt_web.testing.actions.change_test import undo_last
from brunt_web.testing.actions.record_test import Entry, record_test
from brunt_web.testing.models import Measurement, Test, TimedReading
from tests.support.bench import bench_of
from tests.support.workshop import BACKEND, NOW, campaign, entry, fill, person, put, turn, turns_of


class Undone(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = campaign(cls.user, replicates=1, orientations=("flat",))
        cls.turn = turns_of(cls.one).order_by("run_order").first()

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def sized(self, width, thickness, minutes=0):
        at = NOW + timedelta(minutes=minutes)
        return Entry(
            uuid4(), at, {"force": "500 N", "width": width, "thickness": thickness}, "broke"
        )

    def test_sizes_saved_after_an_undo_are_the_ones_the_history_tells(self):
        """Whatever stands in which field: "2" is in "2.02" too, and must not be changed there."""
        put(self.turn, self.user, self.sized("2.02", "2"))
        undo_last(self.one, self.turn.procedure, self.user, NOW)
        put(self.turn, self.user, self.sized("2.02", "3", minutes=20))
        (event,) = HistoryEvent.objects.filter(specimen=self.turn.specimen, kind="measured")
        self.assertEqual(event.what, "before test: width 2.02 mm, thickness 3 mm")
        kept = {m.key: m.text for m in Measurement.objects.filter(moment=event)}
        self.assertEqual(kept, {"width": "2.02", "thickness": "3"})

    def test_a_late_repeat_of_an_undone_entry_changes_nothing(self):
        first = entry()
        put(self.turn, self.user, first)
        undo_last(self.one, self.turn.procedure, self.user, NOW)
        again = put(self.turn, self.user, first)
        self.assertEqual((again.test, again.repeated), (None, True))
        self.assertFalse(Test.objects.exists())
        self.assertEqual(turn(self.turn.specimen).state, "waiting")
        sent = {"key": str(first.key), "outcome": "broke", **first.inputs}
        address = f"/specimens/{self.turn.specimen.code}/bench/"
        answer = self.client.post(address, sent, headers={"X-Part": "outbox"})
        self.assertIn(answer.status_code, (200, 204))
        self.assertFalse(Test.objects.exists())

    def test_a_late_repeat_of_a_corrected_entry_changes_nothing(self):
        first, second = entry("500 N"), entry("510 N")
        put(self.turn, self.user, first)
        record_test(turn(self.turn.specimen), self.user, second, replace=True)
        self.assertTrue(put(self.turn, self.user, first).repeated)
        self.assertEqual(Test.objects.get().readings.get(key="force").text, "510 N")

    def test_a_timed_reading_that_was_undone_stays_undone(self):
        creep = bench_of(self.user, "creep", replicates=1)
        at = turn(creep.specimens.first())
        timed.start_clock(at, self.user, NOW)
        taken = timed.Taken(uuid4(), NOW + timedelta(minutes=1), "readings", 60.0, "1.0", "")
        timed.take(at, self.user, taken)
        timed.undo_take(at, self.user, NOW)
        self.assertIsNone(timed.take(at, self.user, taken))
        self.assertFalse(TimedReading.objects.exists())

    def test_after_the_last_specimen_the_last_entry_can_be_undone(self):
        for each in turns_of(self.one).order_by("run_order"):
            put(each, self.user, entry())
        done = self.client.get(f"/campaigns/{self.one.pk}/bench/")
        last = Test.objects.latest("recorded_at", "id").turn
        self.assertContains(done, f"Undo the last entry, {last.code}")
        back = self.client.post(f"/specimens/{last.code}/bench/undo/", follow=True)
        self.assertContains(back, f"{last.code} at the bench")
        self.assertEqual(Test.objects.count(), 1)


class WholeMaterials(TestCase):
    def test_a_material_at_a_tenth_of_its_family_is_named_on_compare_and_in_the_report(self):
        user = person()
        self.client.force_login(user, backend=BACKEND)
        one = campaign(user, replicates=5, orientations=("flat",))
        fill(one, user, {"Fernhall PLA": ["50", "51", "49", "50", "52"], "Tarn ASA": ["400"] * 5})
        line = (
            "Fernhall PLA, Tension, flat: all 5 values are about a tenth of what PLA gives; "
            "unit or decimal point?"
        )
        base = f"/campaigns/{one.pk}"
        for address in ("/compare/", "/compare/profile/", "/compare/summary/", "/report/"):
            page = self.client.get(base + address)
            self.assertContains(page, line)
            self.assertNotContains(page, "Tarn ASA, Tension, flat: all")
