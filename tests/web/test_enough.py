"""Is it enough? After each reading, in the order of the tests, the same at the bench and in Compare."""

from datetime import timedelta
from uuid import uuid4

from django.test import TestCase

from brunt_core.observations import Observation
from brunt_core.statistics.enough import enough
from brunt_web.results.reading import Group, grouped, of_campaign
from brunt_web.testing.actions.record_test import Entry
from brunt_web.testing.enough import enough_in_words, pairs_in_order, standing_of
from tests.support.reading import words
from tests.support.workshop import BACKEND, NOW, campaign, fill, person, put, turns_of


class AtTheBench(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = campaign(cls.user, replicates=4, orientations=("flat",))
        cls.procedure = cls.one.procedures.get()

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def test_nothing_is_said_before_there_is_cv(self):
        self.assertIsNone(standing_of(self.one, self.procedure))
        fill(self.one, self.user, {"Fernhall PLA": ["500"]})
        self.assertIsNone(standing_of(self.one, self.procedure))

    def test_it_settles_and_the_queue_says_so(self):
        fill(self.one, self.user, {"Fernhall PLA": ["500", "502", "499"], "Tarn ASA": ["300", "302", "299"]})  # fmt: skip
        found = standing_of(self.one, self.procedure)
        self.assertTrue(found.settled)
        self.assertIn("is settled", found.words)
        turn = turns_of(self.one, state="waiting").first()
        page = self.client.get(f"/specimens/{turn.code}/bench/queue/")
        self.assertContains(page, "settled")

    def test_alike_is_not_settled_while_the_rest_could_tell(self):
        fill(self.one, self.user, {"Fernhall PLA": ["500", "512"], "Tarn ASA": ["470", "480"]})
        found = standing_of(self.one, self.procedure)
        self.assertFalse(found.settled)
        self.assertIn("become significantly different with the remaining tests", found.words)

    def test_the_order_of_the_tests_counts_not_of_the_plan(self):
        """The first two tested of each decide the first look, whatever place the plan gave them."""
        turns = list(turns_of(self.one, condition__label="Fernhall PLA").order_by("-run_order"))
        for i, (t, load) in enumerate(zip(turns, ("500", "510", "520", "530"), strict=True)):
            at = NOW + timedelta(minutes=i)
            put(t, self.user, Entry(uuid4(), at, {"force": load, "width": "5", "thickness": "2"}))
        (group,) = grouped(of_campaign(self.one, {"tensile_strength"}), [self.procedure]).values()
        self.assertEqual([round(o.anchor / 1e6) for o in group.in_time], [50, 51, 52, 53])

    def test_compare_says_the_same(self):
        fill(self.one, self.user, {"Fernhall PLA": ["500", "502", "499"], "Tarn ASA": ["300", "302", "299"]})  # fmt: skip
        page = self.client.get(f"/campaigns/{self.one.pk}/compare/summary/")
        self.assertIn(standing_of(self.one, self.procedure).words, words(page))

    def test_one_condition_or_too_many_are_not_judged(self):
        self.assertIsNone(pairs_in_order({"a": Group()}, {"a": 3}, 0.95))
        many = {str(i): Group() for i in range(41)}
        self.assertIsNone(pairs_in_order(many, dict.fromkeys(many, 2), 0.95))

    def test_few_are_said_to_be_few(self):
        one = [Observation.exact(5.0)]
        found = enough({"a": one, "b": one, "c": one}, {"a": 3, "b": 3, "c": 3})
        self.assertIn("3 have too few specimens", enough_in_words(found, {}))
