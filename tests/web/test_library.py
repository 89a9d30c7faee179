"""The library's forms: what is kept, what is refused, and where its sentence stands."""

from decimal import Decimal

from django.test import Client, TestCase
from django.urls import reverse

from brunt_web.days.jobs import lanes_of
from brunt_web.library.models import Lot, Material, Printer, Recipe
from tests.support.plans import Shop
from tests.support.workshop import BACKEND, campaign, person


class Library(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.shop = Shop(cls.user)

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def refused(self, name, form, told, cases, *keys):
        """Each of the cases is refused beside its field, and what was typed stays."""
        for wrong, field, sentence in cases:
            with self.subTest(wrong):
                answer = self.client.post(reverse(name, args=keys), {**told, **wrong})
                self.assertEqual(answer.status_code, 422)
                errors = answer.context[form].errors
                self.assertEqual(list(errors), [field])
                self.assertIn(sentence, str(errors[field][0]))
                self.assertContains(answer, 'role="alert"', status_code=422)
                self.assertContains(answer, 'aria-invalid="true"', status_code=422)

    def test_a_material(self):
        told = {
            "name": "  Tarn   X ",
            "family": "pa12",
            "form": "filament",
            "density": "1.01 g/cm³",
            "price": "58,50 €",
        }
        answer = self.client.post(reverse("new-material"), told, follow=True)
        self.assertContains(answer, "Tarn X is in the library.")
        made = Material.objects.get(name="Tarn X")
        self.assertAlmostEqual(made.density, 1010.0)
        self.assertEqual((made.price, made.family), (Decimal("58.50"), "pa12"))
        self.refused(
            "new-material",
            "material_form",
            {**told, "name": "Another"},
            (
                ({"name": " "}, "name", "Give the material a name"),
                ({"name": "tarn x"}, "name", "already a material called"),
                ({"name": "م" * 81}, "name", "has 81 characters"),
                ({"family": "marble"}, "family", "Choose the polymer family"),
                ({"family": ""}, "family", "Choose the polymer family"),
                ({"form": "gas"}, "form", "Choose filament"),
                ({"density": "9 mm"}, "density", "density"),
                ({"density": "1240"}, "density", "unit"),
                ({"density": "1240 g/cm³"}, "density", "not a plausible density"),
                ({"price": "-4"}, "price", "cannot be negative"),
                ({"price": "cheap"}, "price", "not a price"),
                ({"price": "99999999"}, "price", "more than a price"),
            ),
        )
        self.assertEqual(Material.objects.filter(name="Another").count(), 0)

    def test_what_is_unknown_stays_unknown(self):
        self.client.post(
            reverse("new-material"), {"name": "蜡 8", "family": "other", "form": "filament"}
        )
        made = Material.objects.get(name="蜡 8")
        self.assertEqual((made.density, made.price), (None, None))
        self.assertContains(self.client.get(reverse("library")), "unknown")

    def test_a_lot(self):
        told = {
            "material": self.shop.pla.pk,
            "name": "spool 99",
            "colour": "rust",
            "bought": "1",
            "remaining": "640 g",
            "price": "20",
            "opened": "1",
        }
        self.client.post(reverse("new-lot"), told)
        made = Lot.objects.get(name="spool 99")
        self.assertEqual((made.bought, made.remaining, made.colour), (1.0, 0.64, "rust"))
        self.assertEqual(made.price_per_kg, 20.0)
        self.assertIsNotNone(made.opened_at)
        self.refused(
            "new-lot",
            "lot_form",
            {**told, "name": "other"},
            (
                ({"material": ""}, "material", "Choose the material"),
                ({"material": "²"}, "material", "Choose the material"),
                ({"name": ""}, "name", "Give the lot a name"),
                ({"name": "spool 99"}, "name", "has a lot spool 99 already"),
                ({"bought": "-1 kg"}, "bought", "less than zero"),
                ({"remaining": "2 kg"}, "remaining", "swapped"),
                ({"remaining": "2 m"}, "remaining", "mass"),
                ({"price": "-2"}, "price", "negative"),
            ),
        )

    def test_nothing_of_another_workshop_can_be_chosen(self):
        theirs = Shop(person("stranger"))
        answer = self.client.post(reverse("new-lot"), {"material": theirs.pla.pk, "name": "x"})
        self.assertEqual(list(answer.context["lot_form"].errors), ["material"])
        self.assertNotContains(answer, f'value="{theirs.pla.pk}"', status_code=422)

    def test_a_printer(self):
        told = {"name": "Vat", "kind": "resin", "bed_width": "143", "bed_depth": "8.9 cm"}
        self.client.post(reverse("new-printer"), told)
        made = Printer.objects.get(name="Vat")
        self.assertEqual((made.kind, made.bed_width, made.bed_depth), ("resin", 143.0, 89.0))
        self.refused(
            "new-printer",
            "printer_form",
            {**told, "name": "Other"},
            (
                ({"name": ""}, "name", "name of its own"),
                ({"name": "Vat"}, "name", "name of its own"),
                ({"kind": "loom"}, "kind", "Choose filament or resin"),
                ({"bed_width": "9"}, "bed_width", "between 40 mm and 2 m"),
                ({"bed_depth": "3 m"}, "bed_depth", "between 40 mm and 2 m"),
                ({"bed_depth": ""}, "bed_depth", "between 40 mm and 2 m"),
            ),
        )

    def test_a_drying_and_what_is_left(self):
        lot = Lot.objects.filter(material=self.shop.pla).first()
        told = {"temperature": "70", "duration": "2 h 30", "before": "1000", "after": "996"}
        self.refused(
            "lot-dried",
            "drying_form",
            told,
            (
                ({"temperature": ""}, "temperature", "between 20 and 200"),
                ({"temperature": "900"}, "temperature", "between 20 and 200"),
                ({"duration": ""}, "duration", "at most 14 days"),
                ({"duration": "0 h"}, "duration", "at most 14 days"),
                ({"duration": "15 d"}, "duration", "at most 14 days"),
                ({"after": "1010 g"}, "after", "swapped"),
                ({"before": "heavy"}, "before", "heavy"),
            ),
            lot.pk,
        )
        self.assertEqual(lot.dryings.count(), 0)
        self.client.post(reverse("lot-dried", args=[lot.pk]), told)
        made = lot.dryings.get()
        self.assertAlmostEqual(made.temperature, 343.15)
        self.assertEqual((made.duration, made.before, made.after), (9000.0, 1.0, 0.996))
        self.refused(
            "lot-weighed",
            "weighed_form",
            {},
            (
                ({"remaining": ""}, "remaining", "Type what is left"),
                ({"remaining": "-1"}, "remaining", "Type what is left"),
                ({"remaining": "nothing"}, "remaining", "nothing"),
            ),
            lot.pk,
        )
        self.client.post(reverse("lot-weighed", args=[lot.pk]), {"remaining": "0,64 kg"})
        lot.refresh_from_db()
        self.assertEqual(lot.remaining, 0.64)

    def test_an_own_type_is_drawn_before_it_is_kept(self):
        key = "bend-80"
        sizes = {"overall": "80", "width": "12", "thickness": "4"}
        drawn = self.client.post(
            reverse("draw-variant", args=[key]), {**sizes, "density": "2 g/cm³", "infill": "50 %"}
        )
        self.assertContains(drawn, "48.00</strong>mm²")
        self.assertContains(drawn, "3.84</strong>g")
        self.refused(
            "draw-variant",
            "form",
            sizes,
            (
                ({"width": "wide"}, "width", "wide"),
                ({"infill": "0"}, "infill", "between 0.01 and 100"),
                ({"infill": "101"}, "infill", "between 0.01 and 100"),
                ({"density": "-1 g/cm³"}, "density", "more than zero"),
            ),
            key,
        )
        self.refused("new-type", "form", sizes, (({}, "name", "Give your specimen"),), key)
        self.client.post(reverse("new-type", args=[key]), {**sizes, "name": "Wide bar"})
        self.refused(
            "new-type",
            "form",
            sizes,
            (({"name": "Wide  bar"}, "name", "already a type called Wide bar"),),
            key,
        )
        own = self.shop.shop.variants.get()
        self.refused(
            "type-procedure",
            "copy_form",
            {"procedure": self.shop.flat.pk, "name": "Like it"},
            (
                ({"procedure": ""}, "procedure", "Choose the procedure"),
                ({"name": self.shop.flat.name}, "name", "name of its own"),
            ),
            f"own-{own.pk}",
        )

    def test_a_recipe_that_did_not_change_makes_no_version(self):
        made = self.shop.recipe
        texts = {k: s["text"] for k, s in made.settings.items()}
        answer = self.client.post(reverse("recipe", args=[made.pk]), texts)
        self.assertContains(answer, "Nothing differs", status_code=422)
        answer = self.client.post(
            reverse("new-recipe"), {**texts, "kind": "filament", "name": made.name}
        )
        self.assertContains(answer, "already a recipe called", status_code=422)
        self.assertEqual(Recipe.objects.filter(workshop=self.shop.shop).count(), 1)


class Away(TestCase):
    def test_what_is_put_away_is_offered_no_more_and_comes_back(self):
        user = person("keeper")
        self.client.force_login(user, backend=BACKEND)
        one = campaign(user)
        shop = user.seat.workshop
        material, procedure = shop.materials.first(), one.procedures.first()
        lot = Lot.objects.create(
            workshop=shop, material=material, name="spool 1", bought=1, remaining=1
        )
        printer = Printer.objects.create(
            workshop=shop, name="Bench printer nine", bed_width=0.22, bed_depth=0.22
        )
        things = {
            "material": (material, f"/library/materials/{material.pk}/"),
            "lot": (lot, f"/library/lots/{lot.pk}/"),
            "procedure": (procedure, f"/library/procedures/{procedure.pk}/"),
            "rig": (procedure.rig, f"/library/rigs/{procedure.rig_id}/"),
            "printer": (printer, "/library/"),
        }
        for kind, (thing, page) in things.items():
            with self.subTest(kind=kind):
                self.assertContains(self.client.get(page), "Archive")
                gone = self.client.post(f"/library/away/{kind}/{thing.pk}/", follow=True)
                self.assertContains(gone, "is archived")
                thing.refresh_from_db()
                self.assertIsNotNone(thing.archived_at)
                self.assertContains(self.client.get("/library/away/"), str(thing))
        ask = self.client.get("/campaigns/new/?shape=materials").content.decode()
        self.assertNotIn(f'name="materials" value="{material.pk}"', ask)
        station = self.client.get(f"/campaigns/{one.pk}/print/").content.decode()
        for page in (ask, station, self.client.get("/library/").content.decode()):
            self.assertNotIn("Bench printer nine", page)
        self.assertNotIn("spool 1", station)
        self.assertNotIn("Bench printer nine", [lane.name for lane in lanes_of(shop)])
        self.assertEqual(self.client.get(f"/campaigns/{one.pk}/compare/").status_code, 200)
        for kind, (thing, _) in things.items():
            back = self.client.post(f"/library/away/{kind}/{thing.pk}/", follow=True)
            self.assertContains(back, "is restored")
        self.assertContains(self.client.get("/library/away/"), "Nothing is archived")
        for odd in ("/library/away/rig/999999/", "/library/away/nothing/1/"):
            self.assertEqual(self.client.post(odd).status_code, 404)
        stranger = Client()
        stranger.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(stranger.post(f"/library/away/lot/{lot.pk}/").status_code, 404)
