"""Procedures and sweeps: what is fixed, what is refused, what a factor sets."""

from dataclasses import replace
from uuid import uuid4

from brunt_core.errors import InputError
from brunt_web.asking.reading import read_levels
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import FactorDraft, PlanDraft
from brunt_web.library.actions.procedures import add_procedure, add_rig, read_times
from brunt_web.library.actions.variants import copy_procedure
from brunt_web.testing import queries
from brunt_web.testing.actions.record_test import Entry
from tests.support.bench import TYPED, bench_of, procedure_of
from tests.support.workshop import NOW, made, put
from tests.web.test_bench_actions import Benches


class Procedures(Benches):
    def test_one_is_written_and_refused_with_its_field(self):
        shop = self.user.seat.workshop
        good = {
            "name": "Bend fast",
            "method": "flexure",
            "orientation": "flat",
            "specimen_type": "bend-80",
            "speed": "50 mm/min",
            "preload": "1 lbf",
            "reading_times": "",
            "p-span": "64",
            "ranked_by": "flexural_modulus",
        }
        made = add_procedure(shop, good)
        self.assertEqual(
            (made.parameters["span"], made.ranked_property.key), ("64 mm", "flexural_modulus")
        )
        self.assertIn("preload 4.45 N", made.comparability_key)
        for wrong, field in (
            ({}, "name"),
            ({"name": "B", "method": "nothing"}, "method"),
            ({"name": "B", "p-span": ""}, "p-span"),
            ({"name": "B", "p-span": "5 N"}, "p-span"),
            ({"name": "B", "specimen_type": "x"}, "specimen_type"),
            ({"name": "B", "speed": "-1"}, "speed"),
            ({"name": "B", "reading_times": "5 s; 1 s"}, "reading_times"),
            ({"name": "B", "ranked_by": "density"}, "ranked_by"),
            ({"name": "B", "orientation": "askew"}, "orientation"),
        ):
            with self.subTest(wrong), self.assertRaises(InputError) as caught:
                add_procedure(shop, {**good, **wrong})
            self.assertEqual(caught.exception.field, field)
        self.assertEqual(read_times("1 s; 1 min; 1 h"), [1.0, 60.0, 3600.0])
        rig = add_rig(shop, {"rig_name": "Wrench", "dimension": "torque", "capacity": "20"})
        self.assertEqual(rig.capacity, 20.0)
        with self.assertRaises(InputError):
            add_rig(shop, {"rig_name": "Wrench", "dimension": "torque"})

    def test_a_copy_on_another_specimen_keeps_all_that_is_fixed(self):
        base = procedure_of(self.user.seat.workshop, "cantilever")
        made = copy_procedure(base.workshop, base, "On my bar", None, "bend-127")
        self.assertEqual(made.facts, replace(base.facts, specimen_type="bend-127"))
        self.assertEqual(made.ranked_property, base.ranked_property)
        with self.assertRaisesRegex(InputError, "name of its own"):
            copy_procedure(base.workshop, base, "On my  bar", None, "bend-127")

    def test_the_page_adds_keeps_what_was_typed_and_follows_the_method(self):
        page = self.client.get("/library/procedures/?method=impact")
        self.assertContains(page, "Free-swing end angle")
        self.assertContains(page, "Add Insert pull-out")
        bad = self.client.post(
            "/library/procedures/",
            {"method": "flexure", "name": "Own bend", "specimen_type": "bend-80", "p-span": ""},
        )
        self.assertContains(bad, "The span is missing", status_code=422)
        self.assertContains(bad, "Own bend", status_code=422)
        added = self.client.post(
            "/library/procedures/", {"add": "starter", "starter": "Heat sag"}, follow=True
        )
        self.assertContains(added, "Departs from ISO 75")


class Sweeps(Benches):
    def test_insertion_temperature_as_a_factor_is_computed_with_and_swept(self):
        shop = self.user.seat.workshop
        factor = FactorDraft(
            "other",
            "Insertion temperature",
            read_levels("other", "", ["220 °C", "240 °C", "260 °C"]),
        )
        procedure = procedure_of(shop, "pull-out")
        draft = PlanDraft("How hot?", (factor,), [procedure], 3, 5)
        one = made(plan_campaign(shop, self.user, draft), self.user)
        loads = {"220 °C": 500, "240 °C": 900, "260 °C": 880}
        for specimen in one.specimens.all():
            level = next(k for k in loads if k in str(specimen.condition))
            load = loads[level] + 10 * specimen.replicate
            put(specimen, self.user, Entry(uuid4(), NOW, {"force": f"{load} N"}))
        specimen = self.again(one.specimens.first())
        self.assertIn("insertion_temperature", queries.known_texts(specimen))
        page = self.client.get(f"/campaigns/{one.pk}/compare/")
        self.assertContains(
            page, "Insertion temperature: best at 240 °C; 260 °C cannot be told apart"
        )

    def test_another_property_is_one_switch_away(self):
        one = bench_of(self.user, "torsion", replicates=2)
        for specimen in one.specimens.all():
            inputs = {**TYPED["torsion"], "torque": f"{3.5 + specimen.replicate / 10} N·m"}
            put(specimen, self.user, Entry(uuid4(), NOW, inputs))
        page = self.client.get(f"/campaigns/{one.pk}/compare/?property=torsional_stress_at_90")
        self.assertContains(page, "Torsion, flat: torsional stress at 90°")
        self.assertContains(
            self.client.get(f"/campaigns/{one.pk}/compare/?property=bogus"), "Torsional strength"
        )
