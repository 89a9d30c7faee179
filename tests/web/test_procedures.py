"""Procedures and one-factor series: what is fixed, what is refused, what a factor sets."""

from dataclasses import replace
from uuid import uuid4

from brunt_core.errors import InputError
from brunt_core.methods.registry import methods
from brunt_web.asking.reading import read_levels
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import FactorDraft, PlanDraft
from brunt_web.library.actions.procedures import add_rig
from brunt_web.library.actions.variants import copy_procedure
from brunt_web.testing import queries
from brunt_web.testing.actions.record_test import Entry
from tests.support.bench import TYPED, bench_of, procedure_of
from tests.support.workshop import NOW, made, put
from tests.web.test_bench_actions import Benches

TYPED_FIXED = {
    k: methods()["impact"].example[k] for k in ("hammer_mass", "hammer_arm", "start_angle")
}
TYPED_FIXED |= {"free_end_angle": "138°", "notch": "none", "bar": "supported", "loss_rule": "arc"}


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
            "reading_times": "1 s; 1 min; 1 h",
            "p-span": "64",
            "ranked_by": "flexural_modulus",
        }
        self.assertRedirects(
            self.client.post("/library/procedures/new/", good), "/library/procedures/"
        )
        made = shop.procedures.get(name="Bend fast")
        self.assertEqual(
            (made.parameters["span"], made.ranked_property.key), ("64 mm", "flexural_modulus")
        )
        self.assertIn("preload 4.45 N", made.comparability_key)
        self.assertEqual(made.reading_times, [1.0, 60.0, 3600.0])
        self.assertAlmostEqual(made.speed, 0.05 / 60)
        self.assertTrue(made.spends)
        for wrong, field, sentence in (
            ({"p-span": "2.5"}, "p-span", "2.5 in or 2.5 cm would be"),
            ({}, "name", "called Bend fast already"),
            ({"name": ""}, "name", "Give it a name"),
            ({"name": "n" * 81}, "name", "has 81 characters"),
            ({"name": "B", "p-span": ""}, "p-span", "The span is missing"),
            ({"name": "B", "p-span": "5 N"}, "p-span", "length"),
            ({"name": "B", "specimen_type": "x"}, "specimen_type", "Choose a specimen type"),
            ({"name": "B", "speed": "-1"}, "speed", "more than zero"),
            ({"name": "B", "speed": "fast"}, "speed", "fast"),
            ({"name": "B", "reading_times": "5 s; 1 s"}, "reading_times", "ascending"),
            ({"name": "B", "reading_times": "1 s;" * 41}, "reading_times", "at most 40"),
            ({"name": "B", "ranked_by": "density"}, "ranked_by", "does not give"),
            ({"name": "B", "orientation": "askew"}, "orientation", "how the specimen is printed"),
            ({"name": "B", "rig": "999999"}, "rig", "no such rig"),
            ({"name": "B", "standard": "s" * 401}, "standard", "400"),
        ):
            with self.subTest(wrong):
                answer = self.client.post("/library/procedures/new/", {**good, **wrong})
                self.assertEqual(answer.status_code, 422)
                errors = answer.context["procedure_form"].errors
                self.assertEqual(list(errors), [field])
                self.assertIn(sentence, errors[field][0])
                self.assertContains(
                    answer, 'value="50 mm/min"' if "speed" not in wrong else "Bend", status_code=422
                )
        unknown = self.client.post("/library/procedures/new/", {**good, "method": "nothing"})
        self.assertContains(unknown, "no such method", status_code=422)

    def test_a_procedure_may_leave_whole_what_its_method_destroys(self):
        proof = {
            "name": "Proof load",
            "method": "tension",
            "specimen_type": "tension-1ba",
            "orientation": "flat",
            "p-gauge_length": "25",
            "destroys": "no",
        }
        self.client.post("/library/procedures/new/", proof)
        made = self.user.seat.workshop.procedures.get(name="Proof load")
        self.assertFalse(made.spends)
        self.assertContains(self.client.get("/library/procedures/"), "non-destructive")
        self.assertFalse(copy_procedure(made.workshop, made, "Two", None, "tension-1ba").spends)
        page = self.client.post("/library/procedures/new/", {**proof, "destroys": "perhaps"})
        self.assertEqual(page.status_code, 422)

    def test_a_swing_that_cannot_be_is_refused_when_it_is_written(self):
        told = {
            **{f"p-{k}": v for k, v in TYPED_FIXED.items()},
            "name": "Swing",
            "method": "impact",
            "specimen_type": "impact-80",
            "orientation": "flat",
        }
        for key, text, said in (
            ("p-free_end_angle", "150°", "above its start"),
            ("p-start_angle", "360°", "beyond the upright"),
        ):
            answer = self.client.post("/library/procedures/new/", {**told, key: text})
            self.assertEqual(list(answer.context["procedure_form"].errors), [key])
            self.assertContains(answer, said, status_code=422)
        self.assertEqual(self.client.post("/library/procedures/new/", told).status_code, 302)

    def test_a_rig_is_read_in_what_it_measures(self):
        shop = self.user.seat.workshop
        told = {
            "name": "Wrench",
            "dimension": "torque",
            "capacity": "20",
            "resolution": "0.05 N·m",
            "relative_error": "4",
        }
        self.client.post("/library/rigs/new/", told)
        rig = shop.rigs.get(name="Wrench")
        self.assertAlmostEqual(rig.capacity, 20.0)
        self.assertAlmostEqual(rig.resolution, 0.05)
        self.assertAlmostEqual(rig.relative_error, 0.04)
        for wrong, field in (
            ({}, "name"),
            ({"name": "W2", "dimension": "hue", "resolution": ""}, "dimension"),
            ({"name": "W2", "capacity": "20 N"}, "capacity"),
            ({"name": "W2", "resolution": "0"}, "resolution"),
            ({"name": "W2", "relative_error": "-1"}, "relative_error"),
        ):
            with self.subTest(wrong):
                answer = self.client.post("/library/rigs/new/", {**told, **wrong})
                self.assertEqual(list(answer.context["rig_form"].errors), [field])
                self.assertEqual(answer.status_code, 422)
        self.assertEqual(shop.rigs.filter(name="W2").count(), 0)
        with self.assertRaises(InputError):
            add_rig(shop, "Wrench", "torque")

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
            "/library/procedures/new/",
            {"method": "flexure", "name": "Own bend", "specimen_type": "bend-80", "p-span": ""},
        )
        self.assertContains(bad, "The span is missing", status_code=422)
        self.assertContains(bad, "Own bend", status_code=422)
        added = self.client.post("/library/procedures/ready/", {"starter": "Heat sag"}, follow=True)
        self.assertContains(added, "Departs from ISO 75")
        outlier = self.client.post("/library/procedures/ready/", {"starter": "Guesswork"})
        self.assertContains(outlier, "no such procedure to start from", status_code=422)


class OneFactor(Benches):
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
        self.assertIn("insertion_temperature", queries.entered_values(specimen))
        page = self.client.get(f"/campaigns/{one.pk}/compare/one-factor/")
        self.assertContains(
            page,
            "Best level tested: 240 °C; 260 °C not significantly different from it",
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
