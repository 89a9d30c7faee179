"""A material's page: everything measured of it, by state and lot, with its price for strength."""

from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext

from brunt_web.comparison.material_view import blocks_of
from brunt_web.library.actions.lots import add_lot
from brunt_web.library.models import Material
from brunt_web.testing.actions.change_test import exclude
from tests.support.plans import Shop, factor
from tests.support.reading import words
from tests.support.workshop import BACKEND, NOW, campaign, entry, fill, made, person, put, turns_of

PLA, ASA = "Fernhall PLA", "Tarn ASA"


class MaterialPage(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)

    def test_by_procedure_and_lot_over_all_campaigns(self):
        one = campaign(self.user, replicates=3)
        fill(one, self.user, {PLA: ["500 N", "510 N", ">600 N"], ASA: ["300 N"]})
        fill(one, self.user, {PLA: ["200 N", "210 N"]}, "upright")
        more = campaign(self.user, replicates=2, orientations=("flat",), question="Again?")
        more.specimens.update(made_as={"lot": "spool 9"})
        fill(more, self.user, {PLA: ["505 N", "515 N"]})
        exclude(turns_of(more, condition__label=PLA)[0].test, "a void", self.user, NOW)
        pla = Material.objects.get(name=PLA)
        flat, up = blocks_of(pla)
        self.assertEqual([(r.state, r.lot) for r in flat.rows], [("as made", "lot not named"), ("as made", "spool 9")])  # fmt: skip
        self.assertEqual([r.count for r in flat.rows], ["3 · 1 bounds", "1"])
        self.assertEqual([r.value for r in up.rows], ["20.5"])
        self.assertEqual([q for _, q in flat.rows[1].campaigns], ["Again?"])
        page = words(self.client.get(f"/library/materials/{pla.pk}/"))
        for told in ("Tension", "Layer adhesion", "spool 9", "Again?", "price unknown"):
            self.assertIn(told, page)
        self.assertIn(f"/library/materials/{pla.pk}/", words(self.client.get("/library/")))

    def test_price_for_strength_by_hand(self):
        """1 m under 1 kN at 50 MPa: 20 mm² · 1 m · 1250 kg/m³ = 25 g; at 20 a kg that is 0.50."""
        one = campaign(self.user, replicates=2, orientations=("flat",))
        pla = Material.objects.get(name=PLA)
        pla.density, pla.price = 1250.0, 20
        pla.save()
        fill(one, self.user, {PLA: ["500 N", "500 N"]})
        self.assertEqual(blocks_of(pla)[0].rows[0].price, "0.50")
        add_lot(one.workshop, pla, "dear", bought=0.5, price=20)
        one.specimens.update(made_as={"lot": "dear"})
        self.assertEqual(blocks_of(pla)[0].rows[0].price, "1.00")

    def test_what_was_done_to_it_stands_apart(self):
        shop = Shop(self.user)
        steps = factor("treatment", "none", "annealed 80 °C 1 h", name="Treatment")
        one = made(shop.plan(steps, n=3), self.user)
        for i, bar in enumerate(turns_of(one)):
            hot = "annealed" in str(bar.condition)
            put(bar, self.user, entry(f"{(600 if hot else 500) + i} N", untimely="cold"))
        rows = blocks_of(shop.pla)[0].rows
        self.assertEqual([r.state for r in rows], ["as made", "annealed 80 °C 1 h"])

    def test_lots_are_significant_or_not(self):
        one = campaign(self.user, replicates=6, orientations=("flat",))
        loads = ["500 N", "502 N", "498 N", "400 N", "401 N", "399 N"]
        fill(one, self.user, {PLA: loads})
        for bar in turns_of(one, condition__label=PLA):
            bar.specimen.made_as = {"lot": "old" if bar.replicate > 3 else "new"}
            bar.specimen.save()
        self.assertRegex(blocks_of(Material.objects.get(name=PLA))[0].lots, "^Lots: .*new")

    def test_never_tested_and_not_one_s_own(self):
        one = campaign(self.user, orientations=("flat",))
        pla = one.workshop.materials.first()
        self.assertIn("Not tested yet", words(self.client.get(f"/library/materials/{pla.pk}/")))
        self.client.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(self.client.get(f"/library/materials/{pla.pk}/").status_code, 404)

    def test_the_same_few_queries_for_any_number(self):
        one = campaign(self.user, replicates=8, orientations=("flat",))
        fill(one, self.user, {PLA: ["500 N"]})
        pla = Material.objects.get(name=PLA)
        with CaptureQueriesContext(connection) as few:
            blocks_of(pla)
        for bar in turns_of(one, condition__label=PLA, state="waiting"):
            put(bar, self.user, entry("480 N"))
        with CaptureQueriesContext(connection) as more:
            blocks_of(pla)
        self.assertEqual(len(few), len(more))
