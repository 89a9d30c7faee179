"""A swept factor keeps its line when a second one is varied: a line for each level of the rest."""

from django.test import TestCase

from brunt_web.comparison.numeric_factor import numeric_factor
from tests.support.plans import Shop, factor, of_materials
from tests.support.reading import words
from tests.support.workshop import BACKEND, entry, made, person, put


class TwoFactors(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.shop = Shop(cls.user)

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def heats(self):
        levels = ("220 °C", "235 °C", "250 °C")
        return factor("setting", *levels, setting="nozzle_temperature", name="Nozzle")

    def test_a_line_for_each_level_of_the_other(self):
        one = made(
            self.shop.plan(of_materials(self.shop.pla, self.shop.petg), self.heats()), self.user
        )
        loads = {"220": 400, "235": 500, "250": 450}
        for bar in one.specimens.select_related("condition"):
            heat = next(h for h in loads if h in str(bar.condition))
            put(bar, self.user, entry(f"{loads[heat] + 3 * bar.replicate} N"))
        page = self.client.get(f"/campaigns/{one.pk}/compare/one-factor/")
        courses = page.context["one_factor"].courses
        self.assertEqual([c.name for c in courses], ["Fernhall PETG", "Fernhall PLA"])
        for course in courses:
            self.assertEqual(len(course.means), 3)
        self.assertNotEqual(courses[0].dash, courses[1].dash)
        self.assertIn("Fernhall PETG", words(page))
        ladder = self.client.get(f"/campaigns/{one.pk}/compare/")
        self.assertContains(ladder, "Over nozzle: the one-factor view")

    def test_the_factor_with_most_numbers_is_swept_and_words_are_not(self):
        walls = factor("setting", "2", "4", setting="walls", name="Walls")
        one = self.shop.plan(walls, self.heats())
        swept = numeric_factor(one)
        self.assertEqual((swept.name, swept.unit), ("Nozzle", "°C"))
        self.assertEqual(set(swept.others.values()), {"2", "4"})
        words = self.shop.plan(factor("condition", "dried", "wet", name="State"))
        self.assertIsNone(numeric_factor(words))
