"""What goes out: the spreadsheet by another reader, JSON by a strict one."""

import csv
import io
import json
from datetime import datetime

from django.test import TestCase
from python_calamine import CalamineWorkbook

from brunt_web.exchange.export import export_csv
from brunt_web.exchange.records import campaign_record
from brunt_web.exchange.spreadsheet import export_xlsx
from brunt_web.library.actions.recipes import read_settings, save_recipe
from brunt_web.people.nameless import Nameless
from brunt_web.testing.actions.change_test import exclude
from brunt_web.testing.actions.record_test import measure
from tests.support.plans import Shop, factor
from tests.support.workshop import BACKEND, NOW, campaign, entry, fill, made, person, put, turns_of

PLA, ASA = "Fernhall PLA", "Tarn ASA"


def refuse(text):
    raise AssertionError(f"{text} is no JSON")


class TakenOut(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person("marion")
        cls.one = campaign(cls.user, orientations=("flat",), question="=Which, برج 塔?")
        fill(cls.one, cls.user, {PLA: ["500 N", "510 N", ">600 N"], ASA: ["300 N", "<20 lbf"]})
        cls.bars = list(turns_of(cls.one).order_by("condition__position", "specimen__replicate"))
        exclude(cls.bars[1].test, "=2+2 a void", cls.user, NOW)
        measure(cls.bars[5].specimen, cls.user, NOW, {"width": "5,02 mm", "mass": "3.2 g"})

    def sheets(self, **how):
        book = CalamineWorkbook.from_filelike(io.BytesIO(export_xlsx(self.one, **how)))
        return {name: book.get_sheet_by_name(name).to_python() for name in book.sheet_names}

    def test_sheets_hold_typed_cells_under_a_row_of_units(self):
        sheets = self.sheets()
        self.assertEqual(list(sheets), ["Results", "Specimens", "Recipes", "History"])
        head, units, *rows = sheets["Results"]
        self.assertEqual(len(rows), 6)
        at = {h: i for i, h in enumerate(head)}
        self.assertEqual(units[at["load lower"]], "N")
        bound = next(r for r in rows if r[at["load"]] == ">600 N")
        self.assertEqual((bound[at["load lower"]], bound[at["load upper"]]), (600.0, ""))
        self.assertIsInstance(bound[at["tested at"]], datetime)
        self.assertEqual(rows[1][at["excluded because"]], "=2+2 a void")
        head, units, *rows = sheets["Specimens"]
        at = {h: i for i, h in enumerate(head)}
        self.assertEqual((units[at["width"]], units[at["mass"]]), ("mm", "g"))
        weighed = next(r for r in rows if r[0] == self.bars[5].code)
        self.assertAlmostEqual(weighed[at["width"]], 5.02)
        self.assertAlmostEqual(weighed[at["mass"]], 3.2)
        history = sheets["History"][2:]
        self.assertTrue({"made", "tested", "excluded"} <= {r[3] for r in history})
        self.assertIsInstance(history[0][1], datetime)

    def test_recipes_are_resolved_per_condition(self):
        other_user = person("odo")
        shop = Shop(other_user)
        keys = {"nozzle_temperature": "215 °C", "infill": "40 %", "infill_pattern": "gyroid"}
        settings = read_settings("filament", keys)
        recipe = save_recipe(shop.shop, "Slow", "filament", settings, None)
        walls = factor("setting", "2", "4", name="Walls", setting="walls")
        other = made(shop.plan(walls, recipe=recipe), other_user)
        book = CalamineWorkbook.from_filelike(io.BytesIO(export_xlsx(other)))
        head, units, *rows = book.get_sheet_by_name("Recipes").to_python()
        at = {h: i for i, h in enumerate(head)}
        self.assertEqual([r[at["Walls"]] for r in rows], [2.0, 4.0])
        self.assertEqual({r[at["Nozzle temperature"]] for r in rows}, {215.0})
        self.assertEqual((units[at["Nozzle temperature"]], units[at["Infill"]]), ("°C", "%"))
        self.assertEqual({r[at["Infill"]] for r in rows}, {40.0})
        self.assertEqual({r[at["recipe"]] for r in rows}, {"Slow, version 1"})

    def test_json_is_strict_and_says_the_same_as_the_results(self):
        self.client.force_login(self.user, backend=BACKEND)
        answer = self.client.get(f"/campaigns/{self.one.pk}/results.json")
        self.assertEqual(answer["Content-Type"], "application/json")
        told = json.loads(answer.content, parse_constant=refuse)
        self.assertEqual(told["campaign"]["question"], "=Which, برج 塔?")
        by = {t["specimen"]: t for t in told["tests"]}
        held = by[self.bars[2].code]
        self.assertEqual(held["test"]["readings"][0]["text"], ">600 N")
        strength = next(r for r in held["results"] if r["property"] == "tensile_strength")
        self.assertEqual((strength["kind"], strength["upper"]), ("at_least", None))
        self.assertAlmostEqual(strength["lower"] / (600 / 10e-6), 1)
        self.assertAlmostEqual(strength["value"], 60.0)
        self.assertEqual(by[self.bars[1].code]["excluded"], "=2+2 a void")
        self.assertIsNone(by[self.bars[5].code]["test"])
        units = {p["key"]: p for p in told["properties"]}
        self.assertEqual(units["tensile_strength"]["unit"], "MPa")

    def test_nobody_is_named_where_nobody_is_to_be(self):
        put(self.bars[5], person("berta", self.user.seat.workshop), entry("305 N"))
        plain = json.dumps(campaign_record(self.one))
        self.assertIn("marion", plain)
        hidden = Nameless.of_all()
        found = [
            json.dumps(campaign_record(self.one, hidden=hidden)),
            export_csv(self.one, hidden),
            str(self.sheets(hidden=hidden)),
        ]
        for text in found:
            with self.subTest(text[:30]):
                self.assertNotIn("marion", text)
                self.assertNotIn("berta", text)
        rows = list(csv.DictReader(io.StringIO(found[1])))
        self.assertEqual({r["tested by"] for r in rows}, {"person 1", "person 2"})

    def test_prices_only_where_they_may_be_told(self):
        self.one.conditions.first().material.__class__.objects.update(price=42)
        self.assertEqual(campaign_record(self.one)["materials"][0]["price_per_kg"], 42.0)
        self.assertNotIn("price", json.dumps(campaign_record(self.one, money=False)))

    def test_the_same_few_queries_for_any_number(self):
        from django.db import connection
        from django.test.utils import CaptureQueriesContext

        with CaptureQueriesContext(connection) as few:
            campaign_record(self.one)
        many = campaign(self.user, replicates=20, orientations=("flat",), question="More?")
        with CaptureQueriesContext(connection) as more:
            campaign_record(many)
        self.assertLessEqual(len(more), len(few))
