"""A specimen's history: what it still needs, several tests, mix-ups put right, and what nothing may destroy."""

from datetime import timedelta
from uuid import uuid4

from django.db import IntegrityError, transaction
from django.test import TestCase

from brunt_core.errors import InputError
from brunt_web.campaigns.actions import mixups
from brunt_web.campaigns.actions.make import carry_out, mark_as_made, take_back_step
from brunt_web.campaigns.drafts import of_materials
from brunt_web.campaigns.models import HistoryEvent, Specimen, Turn
from brunt_web.campaigns.queries import next_up, progress
from brunt_web.library.actions.add_material import add_material
from brunt_web.results.models import Result
from brunt_web.testing.actions.change_test import undo_last
from brunt_web.testing.actions.record_test import Entry
from brunt_web.testing.marks import marks_of
from brunt_web.testing.models import Test
from tests.support.bench import procedure_of
from tests.support.plans import Shop, factor
from tests.support.plans import of_materials as materials_factor
from tests.support.workshop import BACKEND, NOW, campaign, entry, made, person, put, turn

DAY = timedelta(days=1)
BENT = {"deflection": "2.4", "width": "10.02", "thickness": "4.01"}


class Histories(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)

    def kinds(self, specimen) -> list[str]:
        return list(HistoryEvent.objects.filter(specimen=specimen).values_list("kind", flat=True))


class Outstanding(Histories):
    def setUp(self):
        super().setUp()
        self.shop = Shop(self.user)

    def test_planned_goes_nowhere_and_a_reason_lets_it_all_the_same(self):
        one = campaign(self.user, printed=False)
        specimen = one.specimens.first()
        self.assertIsNone(next_up(one))
        with self.assertRaisesRegex(InputError, "is not ready: it is not made yet"):
            put(specimen, self.user, entry())
        self.assertEqual(Test.objects.count(), 0)
        page = self.client.get(f"/specimens/{specimen.code}/bench/")
        self.assertContains(page, "Test anyway, because")
        put(specimen, self.user, entry(untimely="found in the drawer, printed last year"))
        compare = self.client.get(f"/campaigns/{one.pk}/compare/")
        self.assertContains(compare, "was tested anyway: found in the drawer")

    def test_a_treatment_is_outstanding_then_noted_and_taken_back(self):
        one = self.shop.plan(factor("treatment", "as printed", "annealed 95 °C, 2 h"))
        self.shop.print_all(one)
        bars = list(one.specimens.filter(outstanding="treatment").order_by("pk"))
        self.assertEqual(len(bars), 2)
        step = ("treatment", "annealed 95 °C, 2 h")
        with self.assertRaisesRegex(InputError, "outstanding: “annealed"):
            put(bars[0], self.user, entry())
        with self.assertRaisesRegex(InputError, "cannot have been before"):
            carry_out(bars, self.user, NOW - DAY, step)
        self.assertEqual(carry_out(bars, self.user, NOW + DAY, step, "tray 2"), 2)
        with self.assertRaisesRegex(InputError, "None of these"):
            carry_out(bars, self.user, NOW + DAY, step)
        done = put(bars[0], self.user, entry())
        self.assertIn("annealed 95 °C, 2 h", turn(bars[0]).comparability_key)
        self.assertEqual(done.test.untimely, "")
        event = HistoryEvent.objects.get(specimen=bars[1], kind="treated")
        take_back_step(bars[1], event, self.user, NOW + 2 * DAY)
        self.assertEqual(Specimen.objects.get(pk=bars[1].pk).outstanding, "treatment")
        put(bars[1], self.user, entry(untimely="the oven is broken"))
        said = Specimen.objects.get(pk=bars[1].pk).deviations
        self.assertEqual(
            [d.says for d in said],
            ["Treatment: planned annealed 95 °C, 2 h, tested without it"],
        )
        page = self.client.get(f"/campaigns/{one.pk}/compare/")
        self.assertContains(page, "tested without it")

    def test_the_treat_page_notes_a_step_and_refuses_the_future(self):
        one = self.shop.plan(factor("condition", "room", "−18 °C"), n=2)
        self.shop.print_all(one)
        codes = list(one.specimens.filter(outstanding="state").values_list("code", flat=True))
        address = f"/campaigns/{one.pk}/treat/"
        other = HistoryEvent.objects.filter(specimen__campaign=one).exclude(kind="treated").first()
        answer = self.client.post(f"{address}{other.pk}/back/", follow=True)
        self.assertContains(answer, "There is no such step to undo")
        self.assertContains(self.client.get(address), codes[0])
        form = {"kind": "state", "what": "−18 °C", "specimens": codes}
        late = self.client.post(f"{address}done/", {**form, "at": "2199-01-01 10:00"})
        self.assertContains(late, "lies in the future", status_code=422)
        self.client.post(f"{address}done/", {**form, "at": "2026-03-03 10:00"})
        self.assertEqual(one.specimens.filter(outstanding="state").count(), 0)
        self.client.post(f"{address}out/", {"specimens": codes[:1]})
        bench = self.client.get(f"/specimens/{codes[0]}/bench/")
        self.assertContains(bench, "out for")
        self.assertContains(bench, "−18 °C")
        event = HistoryEvent.objects.filter(kind="conditioned").first()
        self.client.post(f"{address}{event.pk}/back/")
        self.assertEqual(one.specimens.filter(outstanding="state").count(), 2)

    def test_an_age_waits_for_its_day_and_is_checked(self):
        one = self.shop.plan(factor("age", "fresh", "8 weeks outdoors"))
        self.shop.print_all(one)
        old = one.specimens.get(condition__label="8 weeks outdoors", replicate=1)
        self.assertEqual(old.ready_at, NOW + 56 * DAY)
        with self.assertRaisesRegex(InputError, "to be tested from"):
            put(old, self.user, entry())
        put(old, self.user, entry(untimely="the rack is needed"))
        said = Specimen.objects.get(pk=old.pk).deviations
        self.assertIn("Age: planned 56 d, tested at 0 s", [d.says for d in said])

    def test_mark_as_made_by_one_key_and_a_reference_piece_needs_no_recipe(self):
        spruce = add_material(self.shop.shop, "Spruce batten", "wood", "stock", density=440.0)
        one = self.shop.plan(materials_factor(self.shop.pla, spruce), recipe=None)
        wood = one.conditions.get(material=spruce)
        self.client.post(
            f"/campaigns/{one.pk}/made/", {"condition": wood.pk, "how": "cut from stock"}
        )
        bars = one.specimens.filter(condition=wood)
        self.assertEqual({s.made_how for s in bars}, {"cut from stock"})
        self.assertEqual(next_up(one).condition, wood)
        put(bars[0], self.user, entry())
        with self.assertRaisesRegex(InputError, "made already"):
            mark_as_made(one, wood, self.user, NOW, "bought")
        self.client.post(f"/campaigns/{one.pk}/made/", {"how": "bought"})
        self.assertEqual(progress(one)["printed"], 4)


class SeveralTests(Histories):
    def setUp(self):
        super().setUp()
        shop = self.user.seat.workshop
        self.bend = procedure_of(shop, "cantilever")
        self.snap = procedure_of(shop, "flexure")
        chosen = [add_material(shop, n, "pla") for n in ("Fernhall PLA", "Weir PLA")]
        draft = of_materials("Bend, then break?", chosen, [self.snap, self.bend], 2, 5)
        from dataclasses import replace

        from brunt_web.campaigns.actions.plan_campaign import plan_campaign

        draft = replace(draft, after={self.snap.pk: self.bend.pk})
        self.one = made(plan_campaign(shop, self.user, draft), self.user)
        self.bar = self.one.specimens.first()

    def bent(self, bar=None):
        return put(bar or self.bar, self.user, Entry(uuid4(), NOW, BENT, "held"))

    def snapped(self, bar=None, sizes=None, **more):
        inputs = {"force": "150 N", **(sizes or {})}
        return put(bar or self.bar, self.user, Entry(uuid4(), NOW, inputs, "broke", **more), step=1)

    def test_deflected_then_broken_in_the_order_planned(self):
        self.assertEqual((self.one.specimens.count(), self.one.turns.count()), (4, 8))
        with self.assertRaisesRegex(InputError, "an earlier test of it comes first"):
            self.snapped()
        self.assertEqual({t.step for t in [next_up(self.one)]}, {0})
        self.bent()
        self.assertTrue(turn(self.bar, 1).open)
        self.snapped()
        self.assertEqual((turn(self.bar).state, turn(self.bar, 1).state), ("held", "broken"))
        self.assertEqual(Result.objects.filter(turn__specimen=self.bar).count() >= 2, True)
        sizes = marks_of(Specimen.objects.get(pk=self.bar.pk))
        self.assertEqual(sizes["width"].text, "10.02")
        rack = self.client.get(f"/campaigns/{self.one.pk}/")
        self.assertContains(rack, "then, on the same specimens")
        self.assertContains(rack, f'href="/specimens/{self.bar.code}/"', count=2)
        for step in ("", "2/"):
            page = self.client.get(f"/specimens/{self.bar.code}/{step}bench/?correct=1")
            self.assertEqual(page.status_code, 200)

    def test_a_second_destroying_test_is_refused_by_action_and_database(self):
        sizes = {"width": "10.02 mm", "thickness": "4.01 mm"}
        self.snapped(sizes=sizes, untimely="it was already in the rig")
        self.assertEqual(turn(self.bar).state, "gone")
        with self.assertRaisesRegex(InputError, "was destroyed by an earlier test"):
            self.bent()
        other = turn(self.bar)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Turn.objects.filter(pk=other.pk).update(spends=True)

    def test_taking_back_opens_what_it_closed(self):
        self.bent()
        self.snapped()
        with self.assertRaisesRegex(InputError, "undo that first"):
            undo_last(self.one, self.bend, self.user, NOW)
        undo_last(self.one, self.snap, self.user, NOW)
        self.assertEqual(turn(self.bar, 1).state, "waiting")
        self.assertFalse(Specimen.objects.get(pk=self.bar.pk).spent)
        undo_last(self.one, self.bend, self.user, NOW)
        self.assertFalse(turn(self.bar, 1).open)

    def test_what_cannot_follow_what(self):
        from dataclasses import replace

        from brunt_web.campaigns.drafts import check_draft

        shop = self.user.seat.workshop
        both = list(shop.materials.all())[:2]
        pull = procedure_of(shop, "tension")
        plan = of_materials("?", both, [self.bend, self.snap, pull], 2, 1)
        for after, sentence in (
            ({self.bend.pk: self.snap.pk}, "destroys the specimen"),
            ({pull.pk: self.bend.pk}, "cannot be both"),
            ({self.snap.pk: 0}, "another test of this plan"),
        ):
            with self.assertRaisesRegex(InputError, sentence):
                check_draft(replace(plan, after=after))


class MixUps(Histories):
    def setUp(self):
        super().setUp()
        self.one = campaign(self.user, orientations=("flat",))
        self.pla, self.asa = self.one.conditions.order_by("position")
        self.a = self.one.specimens.filter(condition=self.pla).first()
        self.b = self.one.specimens.filter(condition=self.asa).first()

    def strength(self, specimen) -> float:
        return round(Result.objects.get(turn__specimen=specimen).lower / 1e6, 3)

    def test_swapped_labels_exchange_tests_and_sizes_and_back(self):
        put(self.a, self.user, entry("500"))
        put(self.b, self.user, entry("300"))
        for bad, sentence in (
            ((self.a, self.b, " "), "Give a reason"),
            ((self.a, self.a, "x"), "with itself"),
        ):
            with self.assertRaisesRegex(InputError, sentence):
                mixups.swap_labels(*bad[:2], self.user, NOW, bad[2])
        mixups.swap_labels(self.a, self.b, self.user, NOW, "labels exchanged")
        self.assertEqual((self.strength(self.a), self.strength(self.b)), (30.0, 50.0))
        self.assertEqual(turn(self.a).condition, self.pla)
        self.assertIn("swapped", self.kinds(self.a))
        compare = self.client.get(f"/campaigns/{self.one.pk}/compare/")
        self.assertContains(compare, "30.0")
        event = HistoryEvent.objects.get(specimen=self.a, kind="swapped")
        mixups.reverse(event, self.user, NOW)
        self.assertEqual((self.strength(self.a), self.strength(self.b)), (50.0, 30.0))
        with self.assertRaisesRegex(InputError, "nothing to undo"):
            mixups.reverse(HistoryEvent.objects.get(pk=event.pk), self.user, NOW)

    def test_the_wrong_one_was_broken_its_test_moves(self):
        put(self.a, self.user, entry("500", place="gauge"))
        sizes = marks_of(self.a)
        mixups.move_test(turn(self.a), self.b, self.user, NOW, "read the label twice")
        self.assertEqual(self.strength(self.b), 50.0)
        self.assertEqual((turn(self.a).state, turn(self.b).state), ("waiting", "broken"))
        self.assertEqual(marks_of(self.b).keys(), sizes.keys())
        self.assertEqual(next_up(self.one).condition.pk in (self.pla.pk, self.asa.pk), True)
        put(self.a, self.user, entry("510"))
        with self.assertRaisesRegex(InputError, "has its own test"):
            mixups.move_test(turn(self.b), self.a, self.user, NOW, "no, back")
        with self.assertRaisesRegex(InputError, "no test that could be moved"):
            free = self.one.specimens.filter(spent=False).first()
            mixups.move_test(turn(free), self.a, self.user, NOW, "x")

    def test_another_role_and_a_new_control_in_its_stead(self):
        count = self.one.specimens.count()
        address = f"/specimens/{self.a.code}/role/"
        self.assertContains(
            self.client.post(address, {"condition": self.asa.pk, "reason": ""}),
            "Give a reason",
            status_code=422,
        )
        form = {"condition": self.asa.pk, "reason": "fell into the bath", "replace": "1"}
        self.client.post(address, form)
        moved = Specimen.objects.get(pk=self.a.pk)
        self.assertEqual((moved.condition, turn(moved).condition), (self.asa, self.asa))
        self.assertEqual(self.one.specimens.count(), count + 1)
        event = HistoryEvent.objects.get(specimen=moved, kind="role")
        self.client.post(f"/specimens/{moved.code}/events/{event.pk}/back/")
        self.assertEqual(Specimen.objects.get(pk=moved.pk).condition, self.pla)
        self.assertEqual(self.one.specimens.count(), count)

    def test_by_hand_on_the_page(self):
        put(self.a, self.user, entry("500"))
        page = self.client.post(
            f"/specimens/{self.a.code}/swap/", {"other": "zz-zzz", "reason": "x"}
        )
        self.assertContains(page, "There is no specimen zz-zzz", status_code=422)
        form = {"other": self.b.code.lower(), "reason": "the wrong jaw"}
        self.client.post(f"/specimens/{self.a.code}/move/", form)
        self.assertEqual(turn(self.b).state, "broken")
        for code in (self.a.code, self.b.code):
            self.assertContains(self.client.get(f"/specimens/{code}/"), "the wrong jaw")
