"""What a condition requires: one typed record, matched by key, held by the database."""

import json
from dataclasses import replace

from django.db import IntegrityError, connection, transaction
from django.test import SimpleTestCase, TestCase

from brunt_web.campaigns.actions.make import carry_out
from brunt_web.campaigns.models import Condition, Specimen
from brunt_web.campaigns.outstanding import still_needs
from brunt_web.campaigns.recorded import (
    MadeAs,
    OutstandingStep,
    RecordedDeviation,
    StateAtTest,
    TestedAs,
)
from brunt_web.campaigns.requirements import RequiredStep, RequiredTick, Requirements
from brunt_web.decisions.evidence import treatments_known
from tests.support.plans import Shop, factor
from tests.support.workshop import NOW, person

HEATED = RequiredStep("annealed 95 °C, 2 h", True, 368.15, 7200.0)
OTHERWISE = RequiredStep("Annealed for 120 min at 95 °C", True, 368.15, 7200.0)
HOTTER = RequiredStep("annealed 105 °C, 2 h", True, 378.15, 7200.0)
AS_PRINTED = RequiredStep("as printed", False)


class Matching(SimpleTestCase):
    def test_steps_are_the_same_by_what_is_done_not_by_their_words(self):
        base = Requirements(orientation="flat")
        for one, other, same in (
            ((HEATED,), (OTHERWISE,), True),
            ((HEATED,), (HOTTER,), False),
            ((AS_PRINTED,), (), True),
            ((HEATED, HOTTER), (HOTTER, HEATED), False),
        ):
            a, b = (replace(base, treatments=t) for t in (one, other))
            self.assertIs(a.alike(b, but="age"), same)
            self.assertTrue(a.alike(b, but="treatments"))
        self.assertFalse(base.alike(replace(base, orientation="upright"), but="treatments"))

    def test_what_is_stored_is_read_again(self):
        full = Requirements(
            settings={"infill": {"text": "50 %", "value": 0.5, "shown": "50 %"}},
            speed=0.01,
            treatments=(HEATED,),
            state=RequiredStep("−18 °C", True, 255.15),
            lot=4,
        )
        self.assertEqual(Requirements.read(full.stored), full)
        self.assertEqual(Requirements().stored, {})


class Stored(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.shop = Shop(cls.user)

    def test_the_database_refuses_a_key_that_is_none(self):
        one = self.shop.plan(
            factor("treatment", "as printed", "annealed 95 °C, 2 h")
        ).conditions.first()
        for wrong in ('{"treatmnets": []}', "[]"):
            with self.assertRaises(IntegrityError), transaction.atomic():
                with connection.cursor() as cursor:
                    cursor.execute(
                        "UPDATE campaigns_condition SET requirements = %s WHERE id = %s",
                        [wrong, one.pk],
                    )
        one.requirements = {"nonsense": 1}
        with self.assertRaises(TypeError):
            one.save()

    def test_what_was_done_is_held_to_its_keys_too(self):
        one = self.shop.plan(factor("treatment", "as printed", "annealed 95 °C, 2 h"))
        bar, turn = one.specimens.first(), one.turns.first()
        for table, column, pk, wrong in (
            ("specimen", "made_as", bar.pk, '{"plat": "1"}'),
            ("specimen", "made_as", bar.pk, "[]"),
            ("specimen", "outstanding_steps", bar.pk, '[{"knid": "treatment"}]'),
            ("specimen", "outstanding_steps", bar.pk, '["annealed"]'),
            ("specimen", "deviations", bar.pk, '[{"says": "x", "key": ""}, {"said": "y"}]'),
            ("specimen", "deviations", bar.pk, "{}"),
            ("turn", "tested_as", turn.pk, '{"rigg": "Frame"}'),
        ):
            with self.subTest(column, wrong=wrong), connection.cursor() as cursor:
                with self.assertRaises(IntegrityError), transaction.atomic():
                    change = f"UPDATE campaigns_{table} SET {column} = %s WHERE id = %s"
                    cursor.execute(change, [wrong, pk])
        bar.deviations = [{"said": "x"}]
        with self.assertRaises(TypeError):
            bar.save()

    def test_what_was_done_is_read_as_it_was_stored(self):
        step = OutstandingStep("treatment", "annealed 95 °C, 2 h", "outstanding")
        tick = RequiredTick("Clamp", "padded")
        state = StateAtTest("dry", "dry", 60.0, "bowed by 2 % of its length")
        for record in (
            TestedAs(0.01, "Frame", "2026-03-01", "tester", (step,), state, (tick,)),
            TestedAs(),
            MadeAs(plate="plate 1", batch=2, settings={"infill": {"value": 0.5, "shown": "50 %"}}),
            MadeAs(),
            RecordedDeviation("Lot: planned a, printed from b", "lot", "Lot", "a", "b", 4),
        ):
            stored = json.loads(json.dumps(record.stored))
            self.assertEqual(type(record).read(stored), record)
        self.assertEqual((MadeAs().stored, TestedAs().stored), ({}, {}))

    def test_a_treatment_worded_otherwise_is_done_and_known_once(self):
        one = self.shop.plan(factor("treatment", "as printed", "annealed 95 °C, 2 h"))
        two = self.shop.plan(factor("treatment", "as printed", "Annealed for 120 min at 95 °C"))
        self.shop.print_all(one)
        bars = [s for s in Specimen.objects.filter(campaign=one) if s.outstanding == "treatment"]
        self.assertTrue(bars and all(still_needs(s, "treatment", OTHERWISE.what) for s in bars))
        self.assertEqual(carry_out(bars, self.user, NOW, ("treatment", OTHERWISE.what)), len(bars))
        self.assertFalse(Specimen.objects.filter(campaign=one, outstanding="treatment").exists())
        Condition.objects.filter(campaign=two).update(material=one.conditions.first().material)
        self.assertEqual(len(treatments_known(one)), 1)
