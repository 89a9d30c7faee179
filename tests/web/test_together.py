"""Two people at once: the second sees what the first did, and chooses. And what is sent twice is done once."""

import re

from django.test import Client, TestCase

from brunt_web.campaigns.models import Campaign
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.actions.recipes import save_recipe
from brunt_web.library.actions.standard_procedures import ensure_standard_procedures
from brunt_web.library.models import Recipe
from brunt_web.testing.models import Measurement, Reading, Test
from tests.support.workshop import BACKEND, campaign, entry, person, put, turns_of


def seen_on(page, form=""):
    """The mark that came with a page's form."""
    text = page.content.decode()
    text = text[text.index(form) :] if form else text
    return re.search(r'name="seen" value="(\w+)"', text)[1]


class Together(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.shop = cls.user.seat.workshop
        cls.other = person("quill", cls.shop)
        cls.mine, cls.theirs = Client(), Client()
        cls.mine.force_login(cls.user, backend=BACKEND)
        cls.theirs.force_login(cls.other, backend=BACKEND)

    def tested(self):
        self.campaign = campaign(self.user)
        turn = turns_of(self.campaign).first()
        put(turn, self.user, entry("500 N"))
        return turns_of(self.campaign).get(pk=turn.pk)


class Correction(Together):
    def send(self, browser, turn, load, seen, key="1"):
        sent = {
            "force": load,
            "width": "5 mm",
            "thickness": "2 mm",
            "outcome": "broke",
            "correct": "1",
        }
        sent |= {"seen": seen, "key": f"00000000-0000-4000-8000-00000000000{key}", "kept": ""}
        return browser.post(turn.address, sent)

    def test_the_second_sees_the_first_and_chooses(self):
        turn = self.tested()
        a, b = (seen_on(c.get(f"{turn.address}?correct=1")) for c in (self.mine, self.theirs))
        self.assertEqual(self.send(self.theirs, turn, "612 N", b, "1").status_code, 302)
        answer = self.send(self.mine, turn, "590 N", a, "2")
        self.assertContains(answer, "changed by quill", status_code=422)
        self.assertContains(answer, "is now 612 N, you have 590 N", status_code=422)
        self.assertEqual(Reading.objects.get(key="force").text, "612 N")
        again = self.send(self.mine, turn, "590 N", seen_on(answer), "2")
        self.assertEqual(again.status_code, 302)
        self.assertEqual(Reading.objects.get(key="force").text, "590 N")

    def test_taken_back_meanwhile(self):
        turn = self.tested()
        seen = seen_on(self.theirs.get(f"{turn.address}?correct=1"))
        self.mine.post(f"/specimens/{turn.at}/bench/undo/")
        self.assertEqual(Test.objects.count(), 0)
        answer = self.send(self.theirs, turn, "612 N", seen)
        self.assertContains(answer, "changed by tester", status_code=422)
        self.assertEqual(Test.objects.count(), 0)


class Exclusion(Together):
    def test_the_second_sees_the_first_and_chooses(self):
        turn = self.tested()
        page, place = f"/specimens/{turn.code}/", f"/specimens/{turn.at}/leave-out/"
        a, b = (seen_on(c.get(page), "leave-out") for c in (self.mine, self.theirs))
        self.theirs.post(place, {"reason": "a bubble", "seen": b})
        answer = self.mine.post(place, {"reason": "slipped in the grips", "seen": a})
        self.assertContains(answer, "the reason is now a bubble, you have slipped", status_code=422)
        self.assertEqual(Test.objects.get().exclusion_reason, "a bubble")
        back = self.mine.post(f"/specimens/{turn.at}/count/", {"seen": a})
        self.assertContains(back, "it is now excluded, you have counted", status_code=422)
        self.assertTrue(Test.objects.get().excluded)
        self.mine.post(f"/specimens/{turn.at}/count/", {"seen": seen_on(back, "/count/")})
        self.assertFalse(Test.objects.get().excluded)


class Sizes(Together):
    def test_the_second_sees_the_first_and_chooses(self):
        one = campaign(self.user)
        specimen = one.specimens.first()
        place = f"/specimens/{specimen.code}/measure/"
        page = self.mine.get(f"/campaigns/{one.pk}/measure/").content.decode()
        seen = re.search(rf'data-row="{specimen.code}" data-seen="(\w+)"', page)[1]
        first = self.theirs.post(place, {"width": "5.02", "thickness": "2.01", "seen": seen})
        self.assertEqual(first.status_code, 200)
        answer = self.mine.post(place, {"width": "5.20", "thickness": "2.01", "seen": seen})
        told = answer.json()
        self.assertEqual(answer.status_code, 422)
        self.assertIn("width is now 5.02, you have 5.20", told["error"])
        self.assertIn("quill", told["error"])
        self.assertEqual(Measurement.objects.get(key="width").text, "5.02")
        same = self.mine.post(place, {"width": "5.02", "thickness": "2.01", "seen": seen})
        self.assertEqual(same.status_code, 200)
        self.mine.post(place, {"width": "5.20", "thickness": "2.01", "seen": told["seen"]})
        self.assertEqual(Measurement.objects.get(key="width").text, "5.20")


class Recipes(Together):
    def setting(self, text):
        return {"walls": {"text": text, "value": float(text), "shown": text}}

    def test_the_second_sees_the_first_and_chooses(self):
        recipe = save_recipe(self.shop, "Slow and hot", "filament", self.setting("3"))
        place = f"/library/recipes/{recipe.pk}/"
        a, b = (seen_on(c.get(place)) for c in (self.mine, self.theirs))
        self.theirs.post(place, {"kind": "filament", "walls": "5", "seen": b})
        self.assertEqual(Recipe.objects.get().settings["walls"]["text"], "5")
        answer = self.mine.post(place, {"kind": "filament", "walls": "4", "seen": a})
        self.assertContains(answer, "is now 5, you have 4", status_code=422)
        self.assertContains(answer, "quill", status_code=422)
        self.assertEqual(Recipe.objects.get().settings["walls"]["text"], "5")
        self.mine.post(place, {"kind": "filament", "walls": "4", "seen": seen_on(answer)})
        self.assertEqual(Recipe.objects.get().settings["walls"]["text"], "4")


class Plans(Together):
    def form(self, **more):
        flat = ensure_standard_procedures(self.shop)[0]
        for name, family in (("Fernhall PLA", "pla"), ("Tarn ASA", "asa")):
            self.shop.materials.filter(name=name).exists() or add_material(self.shop, name, family)
        shown = {"question": "Which holds?", "replicates": "3", "seed": "77123"}
        return (
            shown
            | {"procedures": [flat.pk], "materials": [m.pk for m in self.shop.materials.all()]}
            | more
        )

    def test_the_second_sees_the_first_and_chooses(self):
        self.mine.post("/campaigns/new/", self.form())
        one = Campaign.objects.get()
        place = f"/campaigns/{one.pk}/ask/edit/"
        a, b = (seen_on(c.get(place)) for c in (self.mine, self.theirs))
        form = self.form()
        self.theirs.post(place, form | {"question": "Which holds longest?", "seen": b})
        answer = self.mine.post(place, form | {"replicates": "4", "seen": a})
        self.assertContains(answer, "the question is now Which holds longest?", status_code=422)
        one.refresh_from_db()
        self.assertEqual((one.question, one.replicates), ("Which holds longest?", 3))
        self.mine.post(place, form | {"replicates": "4", "seen": seen_on(answer)})
        one.refresh_from_db()
        self.assertEqual((one.question, one.replicates), ("Which holds?", 4))

    def test_gone_back_and_sent_again_makes_nothing_twice(self):
        form = self.form()
        first = self.mine.post("/campaigns/new/", form)
        again = self.mine.post("/campaigns/new/", form)
        self.assertEqual(first.status_code, 302, first.content.decode()[-3000:])
        self.assertEqual((first.url, Campaign.objects.count()), (again.url, 1))
        self.mine.post("/campaigns/new/", form | {"replicates": "5"})
        self.assertEqual(Campaign.objects.count(), 2)
        self.theirs.post("/campaigns/new/", form)
        self.assertEqual(Campaign.objects.count(), 3)
