"""Compare does not claim from a coarse display, a single bound, or equal readings."""

from uuid import uuid4

from django.test import TestCase

from brunt_web.library.models import Rig
from brunt_web.testing.actions.record_test import Entry
from brunt_web.testing.models import Result
from tests.support.bench import TYPED, bench_of
from tests.support.reading import words
from tests.support.workshop import BACKEND, NOW, campaign, fill, person, put


class Coarse(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)
        self.one = campaign(self.user, orientations=("flat",), replicates=3)

    def page(self):
        return words(self.client.get(f"/campaigns/{self.one.pk}/compare/"))

    def test_equal_readings_on_a_coarse_display_prove_nothing(self):
        Rig.objects.update(resolution=50.0)
        fill(self.one, self.user, {"Fernhall PLA": ["500"] * 3, "Tarn ASA": ["550"] * 3})
        self.assertGreater(Result.objects.first().rounding, 1e6)
        self.assertIn("No difference here is real yet", self.page())

    def test_a_fine_display_tells_the_same_apart(self):
        Rig.objects.update(resolution=0.1)
        loads = {"Fernhall PLA": ["500", "501", "499"], "Tarn ASA": ["550", "551", "549"]}
        fill(self.one, self.user, loads)
        self.assertIn("Tarn ASA leads", self.page())

    def test_bare_bounds_are_told_as_what_held(self):
        loads = {"Fernhall PLA": ["500", "501", "499"], "Tarn ASA": [">600", ">610", ">620"]}
        fill(self.one, self.user, loads)
        page = self.page()
        self.assertIn("3 of 3 held at 60.0 to 62.0", page)
        self.assertIn("≥ 60.0", page)
        self.assertIn("Tarn ASA leads: it did not break", page)

    def test_one_that_held_does_not_lead(self):
        fill(self.one, self.user, {"Fernhall PLA": ["500", "501", "499"], "Tarn ASA": [">600"]})
        self.assertIn("No difference here is real yet", self.page())


class Failures(TestCase):
    def test_what_broke_under_its_load_is_counted_and_comes_last(self):
        user = person()
        self.client.force_login(user, backend=BACKEND)
        one = bench_of(user, "creep", replicates=2)
        for specimen in one.specimens.all():
            failed = "ASA" in str(specimen.condition)
            readings = "1 min: 1.02 mm; 1 h: 1.03 mm" if failed else "1 min: 1.02 mm; 7 d: 2.1 mm"
            inputs = {**TYPED["creep"], "readings": readings}
            ended = "broke_under_load" if failed else "read"
            put(specimen, user, Entry(uuid4(), NOW, inputs, ended))
        page = self.client.get(f"/campaigns/{one.pk}/compare/")
        self.assertEqual(
            [r.name for r in page.context["page"].ranking.rows], ["Fernhall PLA", "Tarn ASA"]
        )
        self.assertIn("2 of 2 failed", words(page))
        self.assertIn("2 · 2 failed", words(page))
