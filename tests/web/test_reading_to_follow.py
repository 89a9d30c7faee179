"""Broken now, read tomorrow: a test whose reading is outstanding; and what a suspected outlier does to its group."""

from uuid import uuid4

from brunt_web.campaigns.models import Turn
from brunt_web.results.models import Result
from brunt_web.testing.models import Measurement, Test
from tests.support.bench import bench_of
from tests.support.workshop import entry, put
from tests.web.test_bench_actions import Benches


class ReadingToFollow(Benches):
    def setUp(self):
        super().setUp()
        self.turn = self.one("tension")
        self.form = {"key": str(uuid4()), "outcome": "broke", "place": "gauge", "width": "5.02"}

    def owe(self, **more):
        return self.client.post(
            self.turn.address, {**self.form, "reading_outstanding": "1", **more}
        )

    def test_it_is_tested_and_outstanding_on_rack_due_and_compare(self):
        self.owe(note="angle on film 3")
        test = Test.objects.get()
        self.assertEqual(
            (test.outcome, test.place, test.note), ("broke", "gauge", "angle on film 3")
        )
        self.assertEqual(Measurement.objects.get().text, "5.02")
        self.assertFalse(Result.objects.exists())
        turn = Turn.objects.get(pk=self.turn.pk)
        self.assertEqual((turn.state, turn.reading_outstanding), ("broken", True))
        rack = self.client.get(f"/campaigns/{turn.campaign_id}/")
        self.assertContains(rack, "1 awaiting a reading")
        self.assertContains(rack, f"{turn.address}?correct=1")
        history = self.client.get(f"/specimens/{turn.code}/")
        self.assertContains(history, "Its reading is still to be entered")
        self.assertContains(history, "reading to be entered later")
        self.assertContains(
            self.client.get(f"/campaigns/{turn.campaign_id}/results.csv"),
            "reading to be entered later",
        )

    def test_the_reading_comes_later_and_keeps_the_time_of_the_test(self):
        self.owe()
        at = Test.objects.get().at
        page = self.client.get(self.turn.address + "?correct=1")
        self.assertContains(page, 'value="5.02"')
        sent = {
            **self.form,
            "key": str(uuid4()),
            "correct": "1",
            "thickness": "2",
            "force": "500 N",
        }
        self.client.post(self.turn.address, sent)
        test = Test.objects.get()
        self.assertEqual(test.at, at)
        self.assertTrue(Result.objects.filter(property_key="tensile_strength").exists())
        self.assertFalse(Turn.objects.get(pk=self.turn.pk).reading_outstanding)

    def test_what_cannot_be_read_is_refused_and_undo_works(self):
        self.assertContains(self.owe(width="wide"), "does not start", status_code=422)
        self.owe()
        self.client.post(f"/specimens/{self.turn.code}/bench/undo/")
        turn = Turn.objects.get(pk=self.turn.pk)
        self.assertEqual((turn.state, turn.reading_outstanding), ("waiting", False))


class Outlier(Benches):
    def test_all_without_and_smallest_are_shown_together(self):
        one = bench_of(self.user, "tension", replicates=3, materials=("Fernhall PLA", "Tarn ASA"))
        bars = list(one.specimens.filter(condition__label="Fernhall PLA"))
        for bar, load in zip(bars, ("500 N", "510 N", "120 N"), strict=True):
            put(self.again(bar), self.user, entry(load))
        page = " ".join(self.client.get(f"/specimens/{bars[2].code}/").content.decode().split())
        self.assertIn("All: 37.7 · without it: 50.5 · smallest: 12.0 MPa", page)
        self.assertIn("For a safe design use the smallest", page)

    def test_compare_has_them_beside_one_another_too(self):
        one = bench_of(self.user, "tension", replicates=3, materials=("Fernhall PLA", "Tarn ASA"))
        for bar, load in zip(
            one.specimens.filter(condition__label="Fernhall PLA"),
            ("500 N", "510 N", "120 N"),
            strict=True,
        ):
            put(self.again(bar), self.user, entry(load))
        page = self.client.get(f"/campaigns/{one.pk}/compare/")
        self.assertContains(page, "without it 50.5, smallest 12")
