"""Compare does not claim from a coarse display, a single bound, or equal readings."""

from uuid import uuid4

from django.test import TestCase

from brunt_core.properties import PROPERTIES
from brunt_web.library.models import Procedure, Rig
from brunt_web.results.models import Result
from brunt_web.testing.actions.record_test import Entry
from brunt_web.testing.rigs import known_to
from tests.support.bench import TYPED, bench_of
from tests.support.reading import words
from tests.support.workshop import BACKEND, NOW, campaign, fill, person, put


class Pulled(TestCase):
    """Two materials pulled flat."""

    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = campaign(cls.user, orientations=("flat",), replicates=3)

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def page(self):
        return words(self.client.get(f"/campaigns/{self.one.pk}/compare/"))


class Coarse(Pulled):
    def test_equal_readings_on_a_coarse_display_prove_nothing(self):
        Rig.objects.update(resolution=50.0)
        fill(self.one, self.user, {"Fernhall PLA": ["500"] * 3, "Tarn ASA": ["550"] * 3})
        self.assertGreater(Result.objects.first().rounding, 1e6)
        self.assertIn("No significant difference yet", self.page())

    def test_a_fine_display_tells_the_same_apart(self):
        Rig.objects.update(resolution=0.1)
        loads = {"Fernhall PLA": ["500", "501", "499"], "Tarn ASA": ["550", "551", "549"]}
        fill(self.one, self.user, loads)
        self.assertIn("Tarn ASA leads", self.page())

    def test_bare_bounds_are_told_as_what_held(self):
        loads = {"Fernhall PLA": ["500", "501", "499"], "Tarn ASA": [">600", ">610", ">620"]}
        fill(self.one, self.user, loads)
        page = self.page()
        self.assertIn("3 of 3 did not fail at 60.0 to 62.0", page)
        self.assertIn("≥ 60.0", page)
        self.assertIn("Tarn ASA leads: it did not break", page)

    def test_one_that_held_does_not_lead(self):
        fill(self.one, self.user, {"Fernhall PLA": ["500", "501", "499"], "Tarn ASA": [">600"]})
        self.assertIn("No significant difference yet", self.page())


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


class ByTheWorst(Pulled):
    """One bad bar of three: the better mean has the worse smallest."""

    def setUp(self):
        super().setUp()
        loads = {"Fernhall PLA": ["500", "501", "499"], "Tarn ASA": ["560", "600", ">410"]}
        fill(self.one, self.user, loads)

    def lines(self, query: str) -> list:
        page = self.client.get(f"/campaigns/{self.one.pk}/compare/{query}")
        self.page_words = words(page)
        return [(x.row.name, x.worst_value) for x in page.context["page"].lines]

    def test_the_order_turns_and_what_held_is_a_bound(self):
        self.assertEqual([n for n, _ in self.lines("")], ["Tarn ASA", "Fernhall PLA"])
        ordered = self.lines("?order=worst")
        self.assertEqual(ordered, [("Fernhall PLA", "49.9"), ("Tarn ASA", "≥ 41.0")])
        self.assertIn("smallest, MPa", self.page_words)
        self.assertIn("mean 50.0", self.page_words)
        self.assertIn("compare like numbers", self.page_words)

    def test_the_switch_is_kept_beside_the_others(self):
        self.lines("?order=worst")
        self.assertIn("by minimum", self.page_words)
        page = self.client.get(f"/campaigns/{self.one.pk}/compare/?order=worst&show=best")
        self.assertContains(page, "order=worst&amp;")
        self.assertEqual(self.lines("?order=worst&show=best")[0], ("Fernhall PLA", "86.0"))


class OfTheRig(TestCase):
    """A rig's calibration reaches what rests on its readings, and two rigs' a quotient."""

    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = campaign(cls.user, orientations=("flat", "upright"), replicates=3)
        for way in ("flat", "upright"):
            fill(cls.one, cls.user, {"Fernhall PLA": ["500", "501", "499"]}, way)

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def interval(self, view: str) -> tuple[float, float]:
        page = self.client.get(f"/campaigns/{self.one.pk}/compare/?view={view}")
        s = page.context["page"].ranking.rows[0].summary
        return round(s.low, 6), round(s.high, 6)

    def test_a_quotient_of_one_rig_has_no_share_of_it_and_of_two_has(self):
        flat = self.one.procedures.get(orientation="flat")
        mean, plain = self.interval(str(flat.pk)), self.interval("ratio")
        Rig.objects.update(relative_error=0.03)
        self.assertLess(self.interval(str(flat.pk))[0], mean[0])
        self.assertEqual(self.interval("ratio"), plain)
        rig = Rig.objects.get(pk=flat.rig_id)
        rig.pk, rig.name = None, "The other rig"
        rig.save()
        Procedure.objects.filter(pk=flat.pk).update(rig=rig)
        low, high = self.interval("ratio")
        self.assertLess(low, plain[0])
        self.assertGreater(high, plain[1])

    def test_a_rig_of_forces_says_nothing_of_a_travel(self):
        Rig.objects.update(relative_error=0.03)
        flat = self.one.procedures.get(orientation="flat")
        self.assertGreater(known_to(flat.rig, flat, PROPERTIES["tensile_strength"]), 0.01)
        self.assertEqual(known_to(flat.rig, flat, PROPERTIES["travel_at_peak"]), 0.0)
