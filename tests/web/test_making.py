"""Recipes drawn and brought up, lots dried, sealed and mixed, attempts counted, labels read; numbers made up."""

import io
import re
from datetime import timedelta
from decimal import Decimal

import numpy as np
import zxingcpp
from django.test import TestCase
from lxml import etree

from brunt_core.errors import InputError
from brunt_core.identifiers import specimen_code
from brunt_web.library.actions import blends, lots
from brunt_web.library.actions.recipes import read_settings, save_recipe
from brunt_web.library.models import Drying, Lot, Recipe, RoomAir, Tuning
from brunt_web.library.queries import hours_open, lot_of
from brunt_web.printing.ease import ease_of
from brunt_web.printing.labels import SHEETS, code_svg
from brunt_web.printing.models import PrintAttempt
from tests.support.plans import Shop, factor
from tests.support.printing import SETTINGS, batch
from tests.support.workshop import BACKEND, NOW, campaign, person


def h(hours):
    return timedelta(hours=hours)


class Seated(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.plans = Shop(cls.user)
        cls.shop = cls.plans.shop

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)


class Recipes(Seated):
    def cut(self, **typed):
        data = {"kind": "filament", "recipe": str(self.plans.recipe.pk), **SETTINGS, **typed}
        return self.client.post("/library/recipes/cut/", data)

    def test_the_cut_answers_and_stores_nothing(self):
        page = self.cut(walls="2")
        self.assertContains(page, "was")
        self.assertContains(page, "&quot;walls&quot;: &quot;4&quot;")
        self.assertContains(page, "mass of a bar")
        self.assertEqual(Recipe.objects.count(), 1)
        for typed in ({"walls": "many"}, {"layer_height": ""}, {"line_width": "0"}, {"infill": "900"}, {"walls": "1e9"}, {"against": "x"},
            {"on": "y"}, {"material": "z"}):  # fmt: skip
            self.assertEqual(self.cut(**typed).status_code, 200, typed)
        self.assertContains(self.cut(walls="many"), "many")

    def test_solid_sparse_single_wall_and_resin_are_drawn(self):
        for name, changed in (("Vase", {"walls": "1", "infill": "0"}), ("Solid", {}), ("Sparse", {"infill": "20", "infill_pattern": "gyroid"})):  # fmt: skip
            made = save_recipe(self.shop, name, "filament", read_settings("filament", SETTINGS | changed))  # fmt: skip
            self.assertContains(self.client.get(f"/library/recipes/{made.pk}/"), 'class="bead b-')
        typed = {
            "layer_height": "0.05",
            "exposure": "2.4",
            "lift_speed": "60",
            "bottom_layers": "5",
        }
        resin = save_recipe(self.shop, "R", "resin", read_settings("resin", typed))
        page = self.client.get(f"/library/recipes/{resin.pk}/")
        self.assertContains(page, "80 layers")
        self.assertContains(page, "Assumed: a lift of 6 mm")
        self.assertEqual(self.client.get("/library/recipes/new/?kind=resin").status_code, 200)

    def test_bringing_up_ends_in_a_version_with_its_reason(self):
        recipe = self.plans.recipe
        address = f"/library/recipes/{recipe.pk}/tuning/"
        page = self.client.get(address)
        self.assertContains(page, 'value="215"')
        rows = {f"at-{i}": v for i, v in enumerate(("225", "220 °C", "215", "210"))}
        rows |= {f"seen-{i}": v for i, v in enumerate(("2", "5", "4", "3"))}
        sent = {"kind": "temperature", "setting": "nozzle_temperature", **rows}
        says = self.client.post(address + "look/", sent)
        self.assertContains(says, "220")
        self.assertEqual(Tuning.objects.count(), 0)
        done = self.client.post(address + "adopt/", sent, follow=True)
        made = Recipe.objects.get(version=2)
        self.assertEqual(made.settings["nozzle_temperature"]["shown"], "220 °C")
        self.assertIn("best of 4 from 210 to 225", made.reason)
        self.assertContains(done, "best of 4")
        recipe.refresh_from_db()
        self.assertEqual(recipe.settings["nozzle_temperature"]["shown"], "215 °C")
        self.assertContains(self.client.get(f"/library/recipes/{made.pk}/tuning/"), "version 2")

    def test_a_trial_can_be_kept_and_says_what_it_lacks(self):
        address = f"/library/recipes/{self.plans.recipe.pk}/tuning/"
        wall = {"kind": "flow", "setting": "flow", "walls": "0.42; 0.43", "asked": "0.45 mm"}
        self.client.post(address + "keep/", wall)
        self.assertEqual((Tuning.objects.count(), Recipe.objects.count()), (1, 1))
        cases = (
            ({"kind": "temperature", "at-0": "230", "seen-0": "3"}, "Two steps"),
            ({"kind": "temperature", "at-0": "hot", "seen-0": "3"}, "hot"),
            ({"kind": "bridge", "setting": "cooling", "at-0": "100", "seen-0": "1 N"}, "N"),
            ({"kind": "flow", "walls": "thin"}, "thin"),
            ({"kind": "flow", "walls": "0.42", "asked": "0"}, "more than zero"),
            ({"kind": "temperature", "at-0": "900", "seen-0": "3", "at-1": "910", "seen-1": "5"}, "is the unit right"),
        )  # fmt: skip
        for sent, words in cases:
            self.assertContains(self.client.post(address + "adopt/", sent), words, status_code=422)
        for key in ("temperature", "pressure_advance", "flow", "overhang", "bridge", "fit", "odd"):
            self.assertEqual(self.client.get(f"{address}?kind={key}").status_code, 200)


class Lots(Seated):
    def setUp(self):
        super().setUp()
        self.lot = Lot.objects.filter(material=self.plans.petg).get()

    def again(self):
        return lot_of(self.shop, self.lot.pk)

    def test_a_drying_runs_and_ends(self):
        dry = {"temperature": 338.15, "duration": 6 * 3600.0}
        lots.log_drying(self.lot, self.user, None, started_at=NOW + h(10), **dry)
        self.assertAlmostEqual(hours_open(self.again(), NOW + h(12)), 10)
        with self.assertRaisesRegex(InputError, "being dried"):
            lots.log_drying(self.lot, self.user, None, started_at=NOW + h(11), **dry)
        ended = lots.end_drying(self.lot, NOW + h(17))
        self.assertEqual(ended.duration, 7 * 3600)
        self.assertAlmostEqual(hours_open(self.again(), NOW + h(20)), 3)
        with self.assertRaises(InputError):
            lots.end_drying(self.lot, NOW + h(18))
        with self.assertRaisesRegex(InputError, "before it starts"):
            lots.log_drying(self.lot, self.user, NOW, started_at=NOW + h(1), **dry)

    def test_hours_in_a_box_do_not_count(self):
        lots.seal(self.lot, self.user, NOW + h(4), 0.15)
        self.assertAlmostEqual(hours_open(self.again(), NOW + h(30)), 4)
        with self.assertRaises(InputError):
            lots.seal(self.lot, self.user, NOW + h(5))
        lots.unseal(self.lot, NOW + h(24))
        self.assertAlmostEqual(hours_open(self.again(), NOW + h(30)), 10)
        with self.assertRaises(InputError):
            lots.unseal(self.lot, NOW + h(31))

    def test_from_the_page(self):
        at = f"/library/lots/{self.lot.pk}/"
        self.assertContains(self.client.get(at), "absorbs water")
        sent = {"temperature": "65", "duration": "6 h", "before": "750 g"}
        self.assertContains(
            self.client.post(at + "drying/start/", sent, follow=True), "Drying since"
        )
        self.assertContains(self.client.post(at + "drying/end/", {"after": "760 g"}), "swapped", status_code=422)  # fmt: skip
        self.client.post(at + "drying/end/", {"after": "747 g"})
        self.assertIsNotNone(Drying.objects.get().ended_at)
        past = {**sent, "started_at": "2026-03-02T09:00", "ended_at": "2026-03-02T15:30"}
        self.client.post(at + "dried/", past)
        self.assertEqual(Drying.objects.get(started_at__year=2026, started_at__month=3).duration, 6.5 * 3600)  # fmt: skip
        for sent in ({"ended_at": "2099-01-01T00:00"}, {"started_at": "soon"}):
            bad = self.client.post(at + "dried/", {"temperature": "65", "duration": "6 h", **sent})
            self.assertEqual(bad.status_code, 422)
        self.client.post(at + "seal/", {"humidity": "15"})
        self.assertContains(self.client.get(at), "In a sealed box since")
        self.assertContains(self.client.get("/library/drying/"), "sealed since")
        self.client.post(at + "unseal/", {})
        first = Drying.objects.first()
        self.client.post(at + f"drying/{first.pk}/back/")
        self.assertEqual(Drying.objects.count(), 1)

    def test_the_rooms_air(self):
        self.client.post("/library/drying/air/", {"humidity": "68 %", "temperature": "21"})
        self.assertAlmostEqual(RoomAir.objects.get().humidity, 0.68)
        self.assertContains(self.client.get("/library/drying/"), "More humid than the limits")
        for bad in ({"humidity": ""}, {"humidity": "140"}, {"humidity": "wet"}):
            self.assertEqual(self.client.post("/library/drying/air/", bad).status_code, 422)


class Blends(Seated):
    def setUp(self):
        super().setUp()
        self.a, self.b = Lot.objects.order_by("pk")
        Lot.objects.filter(pk=self.a.pk).update(price=Decimal(20))
        Lot.objects.filter(pk=self.b.pk).update(price=Decimal(40))

    def test_mixed_and_taken_back(self):
        made = blends.mix(
            self.shop, "2 March", [(self.a, 0.3), (self.b, 0.1)], called="PLA with PETG"
        )
        self.assertAlmostEqual(made.bought, 0.4)
        self.assertEqual(made.price, Decimal("10.00"))
        self.assertAlmostEqual(made.material.density, 0.4 / (0.3 / 1240 + 0.1 / 1270))
        self.a.refresh_from_db()
        self.assertAlmostEqual(self.a.remaining, 0.7)
        self.assertContains(self.client.get(f"/library/lots/{made.pk}/"), "75.0 %")
        self.client.post(f"/library/lots/{made.pk}/unmix/")
        self.a.refresh_from_db()
        self.assertAlmostEqual(self.a.remaining, 1.0)
        self.assertFalse(Lot.objects.filter(pk=made.pk).exists())

    def test_from_the_page_by_grams_and_volume(self):
        sent = {
            "part-TOTAL_FORMS": "4", "part-INITIAL_FORMS": "0", "name": "x", "called": "Mixed",
            "part-0-lot": str(self.a.pk), "part-0-amount": "124 ml", "part-1-lot": str(self.b.pk), "part-1-amount": "50 g",
        }  # fmt: skip
        self.client.post("/library/lots/blend/", sent)
        made = Lot.objects.get(name="x")
        self.assertAlmostEqual(made.bought, 0.124 * 1.24 + 0.05)
        for more, words in (
            ({"name": ""}, "Name the blend"),
            ({"name": "y", "part-1-lot": str(self.a.pk)}, "twice"),
            ({"name": "y", "part-1-amount": "5 kg"}, "g left"),
            ({"name": "y", "part-1-amount": ""}, "both the lot"),
            ({"name": "y", "part-1-amount": "0 g"}, "more than"),
            ({"name": "y", "called": ""}, "Name the material"),
            ({"name": "y", "part-0-amount": "3 apples"}, "apples"),
        ):
            page = self.client.post("/library/lots/blend/", {**sent, "called": "Other", **more})
            self.assertContains(page, words, status_code=422)


class Attempts(Seated):
    def test_counted_until_it_succeeds_and_graded(self):
        made = batch(person("printer"), printed=False)
        self.client.force_login(made.by, backend=BACKEND)
        at = f"/batches/{made.pk}/plates/1/failed/"
        self.client.post(at, {"defects": ["warping"], "brim": "0", "adhesive": "glue"})
        self.client.post(at, {"note": "break at layer 9", "brim": "5"})
        self.assertContains(self.client.post(at, {}), "Choose what went wrong", status_code=422)
        page = self.client.get(f"/batches/{made.pk}/")
        self.assertContains(page, "warping (glue, no brim)")
        gone = PrintAttempt.objects.last()
        self.client.post(f"{at}{gone.pk}/back/")
        self.client.post(f"/batches/{made.pk}/plates/1/printed/")
        self.assertContains(self.client.get(f"/batches/{made.pk}/"), "at attempt 2")
        self.assertContains(self.client.post(at, {"note": "x"}), "is printed", status_code=422)
        found = ease_of(made.campaign.workshop)[made.lot.material_id]
        self.assertEqual((found.plates, found.mean, found.grade), (1, 2.0, 2))
        page = self.client.get(f"/library/materials/{made.lot.material_id}/")
        self.assertContains(page, "2.00 attempts per plate")


class Labels(Seated):
    def test_codes_are_read_by_a_second_library(self):
        """Decoder: zxing-cpp (PyPI), which shares no code with the encoder."""
        for code in [specimen_code(i) for i in range(0, 60_000, 1500)] + ["K7-3HD", "A22-29K"]:
            self.assertEqual(zxingcpp.read_barcode(drawn(code_svg(code))).text, code)

    def test_sheets_say_the_condition(self):
        one = campaign(self.user, materials=("Fernhall PLA", "ملف " * 15 + "PETG"), replicates=2)
        for turn, sheet in SHEETS.items():
            page = self.client.get(f"/campaigns/{one.pk}/labels/?turn={turn}")
            self.assertContains(page, f"l-{turn}")
            self.assertContains(page, f"{sheet.across} across")
            self.assertContains(page, 'class="label-condition">Fernhall PLA')
        hot = self.plans.plan(factor("condition", "room", "60 °C"))
        page = self.client.get(f"/campaigns/{hot.pk}/labels/")
        self.assertContains(page, 'class="label-condition">60 °C')
        self.assertContains(page, "<small>Fernhall PLA</small>")


def drawn(svg: str):
    """An inline QR drawing as pixels, by its own path of strokes."""
    root = etree.parse(io.BytesIO(svg.encode())).getroot()
    size = int(float(root.get("viewBox").split()[2]))
    grid = np.full((size, size), 255, dtype=np.uint8)
    path = next(e.get("d") for e in root.iter() if e.tag.endswith("path"))
    x = y = 0.0
    for command, *rest in _steps(path):
        if command == "M":
            x, y = rest
        elif command == "m":
            x, y = x + rest[0], y + rest[1]
        elif command == "h":
            grid[int(y), int(x) : int(x + rest[0])] = 0
            x += rest[0]
    return np.kron(grid, np.ones((6, 6), dtype=np.uint8))


def _steps(path: str):

    for command, numbers in re.findall(r"([Mmh])([^Mmh]*)", path):
        yield (command, *(float(n) for n in re.findall(r"-?\d+(?:\.\d+)?", numbers)))
