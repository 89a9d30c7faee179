"""Decide: what is there against what is needed, with only what was measured here; kept, chosen, raced."""

import math
from unittest import mock
from uuid import uuid4

from django.test import TestCase
from django.utils import timezone

from brunt_core.decisions.margin import HOLDS, NOTHING, OPEN, OUT
from brunt_core.decisions.sizing import size
from brunt_core.printing.checks import ASPECTS
from brunt_web.campaigns.queries import conditions_made, procedures_of
from brunt_web.changes.models import Change
from brunt_web.decisions.actions import load_cases as acts
from brunt_web.decisions.card import card_of
from brunt_web.decisions.evidence import _grades
from brunt_web.decisions.models import MODES, LoadCase
from brunt_web.decisions.wanted import wanted_of
from brunt_web.library.models import Procedure
from brunt_web.printing.models import Grade
from brunt_web.testing.actions.record_test import Entry
from brunt_web.testing.models import TimedReading
from tests.support.bench import bench_of
from tests.support.plans import Shop, factor, of_materials
from tests.support.printing import batch
from tests.support.reading import words
from tests.support.workshop import BACKEND, NOW, campaign, entry, fill, made, person, put

PLA, ASA = "Fernhall PLA", "Tarn ASA"
PULLED = {"load": "100 N", "width": "10 mm", "thickness": "2 mm"}


class LoadCases(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)

    def tested(self):
        """Flat 50 and 30 MPa, upright 25 and 24."""
        one = campaign(self.user, materials=(PLA, ASA))
        fill(one, self.user, {PLA: ["500", "501", "502"], ASA: ["300", "301", "302"]})
        fill(one, self.user, {PLA: ["250", "251", "252"], ASA: ["240", "241", "242"]}, "upright")
        self.tested_again = one
        return one

    def card(self, one, mode="tension", direction="along", sure=None, **typed):
        wanted = wanted_of(mode, direction, {**PULLED, **typed}, sure or {})
        return card_of(one, procedures_of(one), conditions_made(one), wanted)

    def rows(self, card):
        return {c.name: c for c in card.candidates}


class Cards(LoadCases):
    def test_held_against_the_smallest_of_few(self):
        """100 N on 20 mm² are 5 MPa; × 1.6 for the smallest of few are 8; 50 MPa hold 6.25 times that."""
        card = self.card(self.tested())
        pla = self.rows(card)[PLA]
        self.assertAlmostEqual(card.stress / 5e6, 1)
        self.assertAlmostEqual(pla.needed / 8e6, 1)
        self.assertAlmostEqual(pla.margin.ratio, 50 / 8)
        self.assertEqual((pla.verdict, card.best.name), (HOLDS, PLA))
        self.assertIn("Make it of Fernhall PLA", card.headline)
        self.assertEqual(dict((w, t) for w, _, t in card.hangs)["Load"], "sufficient up to 625 N")

    def test_across_the_layers_by_what_was_pulled_so(self):
        card = self.card(self.tested(), direction="across")
        self.assertAlmostEqual(self.rows(card)[PLA].margin.ratio, 25 / 8)
        self.assertEqual(self.rows(card)[PLA].found.losses, [])

    def test_a_part_too_weak_says_by_what(self):
        card = self.card(self.tested(), load="900 N")
        rows = self.rows(card)
        self.assertEqual({c.verdict for c in card.candidates}, {OUT})
        self.assertIn("Fails by strength", rows[ASA].says)
        self.assertIn("None is sufficient", card.headline)
        self.assertIn(f"{PLA} needs the least", card.rest)

    def test_how_thick_it_must_be_when_that_is_not_known(self):
        """100 N · 1.6 / (10 mm · 50 MPa) = 0.32 mm."""
        card = self.card(self.tested(), thickness="", deepest="0.4 mm")
        rows = self.rows(card)
        self.assertAlmostEqual(rows[PLA].depth * 1e3, 0.32)
        self.assertEqual((rows[PLA].verdict, rows[ASA].verdict), (HOLDS, OUT))
        self.assertIn("Fails by depth", rows[ASA].says)

    def test_what_was_never_tested_is_named_and_can_be_planned(self):
        one = self.tested()
        card = self.card(one, temperature="60 °C", damp="damp", held="30 d", aged="100 d")
        self.assertEqual({m[0] for m in card.missing}, {"heat", "damp", "age", "creep"})
        self.assertEqual({c.verdict for c in card.candidates}, {OPEN})
        self.assertIn("None of them was ever tested hot.", [m[1] for m in card.missing])
        typed = {
            "name": "Arm",
            "mode": "tension",
            "direction": "along",
            **PULLED,
            "temperature": "60 °C",
        }
        page = self.client.post(f"/campaigns/{one.pk}/decide/draw/", typed)
        plan = next(u for _, u in page.context["plans"])
        ask = self.client.get(plan)
        self.assertContains(ask, "room, 23 °C; 60 °C")
        self.assertContains(ask, "What does it bear hot?")

    def test_a_load_that_stays_is_open_whatever_creep_was_read(self):
        """A creep series says how far it gives, not that it holds: never a verdict of holding."""
        one = self.tested()
        bars = one.turns.filter(condition__label=PLA)[:1]
        TimedReading.objects.create(
            turn=bars[0], entry_key=uuid4(), key="readings", due=3e6, elapsed=3e6, text="1 mm",
            value=1e-3, taken_at=NOW, by=self.user,
        )  # fmt: skip
        Procedure.objects.filter(pk=bars[0].procedure_id).update(method_key="creep")
        wanted = wanted_of("tension", "across", {**PULLED, "held": "30 d"}, {})
        procedures = [p for p in procedures_of(one) if p.orientation == "upright"]
        card = card_of(one, procedures, conditions_made(one), wanted)
        pla = self.rows(card)[PLA]
        self.assertEqual((pla.verdict, pla.found.missing), (OPEN, ["creep"]))
        self.assertIn("not failure", pla.why)
        self.assertIn("as far as it was tested", dict((w, t) for w, _, t in card.hangs)["Load"])

    def test_sag_in_heat_is_not_judged_by_a_modulus_of_the_room(self):
        card = self.card(self.tested(), sag="1 mm", span="100 mm", temperature="60 °C")
        self.assertEqual(self.rows(card)[PLA].found.missing, ["heat", "stiffness"])
        self.assertEqual(self.card(self.tested_again, sag="1 mm", span="100 mm").missing, [])

    def test_wet_is_not_answered_by_damp(self):
        """Damp air leaves a load case under water open; soaked answers both."""
        shop, one = Shop(self.user), self.tested()
        states = factor("condition", "room, 23 °C", "humid 80 % RH, 7 d", name="State")
        self.stated(shop, states, {"humid": 450, "room": 500})
        self.assertEqual(self.rows(self.card(one, damp="damp"))[PLA].found.missing, [])
        self.assertEqual(self.rows(self.card(one, damp="wet"))[PLA].found.missing, ["damp"])
        states = factor("condition", "room, 23 °C", "soaked 7 d", name="State")
        self.stated(shop, states, {"soaked": 300, "room": 500})
        wet = self.rows(self.card(one, damp="wet"))[PLA]
        self.assertAlmostEqual(wet.found.losses[0].ratio, 301.5 / 501.5, places=3)
        self.assertIn("humid", self.rows(self.card(one, damp="damp"))[PLA].found.losses[0].words)

    def stated(self, shop, levels, loads):
        other = made(shop.plan(levels, n=2), self.user)
        for bar in other.specimens.select_related("condition"):
            load = next(v for k, v in loads.items() if k in str(bar.condition))
            put(bar, self.user, entry(f"{load + bar.replicate} N", untimely="as it was"))
        return other

    def test_treated_so_by_what_it_did_here(self):
        shop, one = Shop(self.user), self.tested()
        steps = factor("treatment", "none", "annealed 80 °C 1 h", name="Treatment")
        self.stated(shop, steps, {"annealed": 600, "none": 500})
        card = self.card(one, treated="annealed 80 °C 1 h")
        rows = self.rows(card)
        (gain,) = rows[PLA].found.losses
        self.assertEqual(gain.name, "treated")
        self.assertAlmostEqual(gain.ratio, 601.5 / 501.5, places=3)
        self.assertEqual(rows[ASA].found.missing, ["treated"])
        self.assertIn("never tested with this treatment", " ".join(w for _, w, _ in card.missing))
        page = self.client.get(f"/campaigns/{one.pk}/decide/new/")
        self.assertContains(page, 'value="annealed 80 °C 1 h"')

    def test_printability_as_a_limit(self):
        one = self.tested()
        card = self.card(one, grade="4")
        self.assertIn("printability not graded", self.rows(card)[PLA].why)
        pla = self.rows(card)[PLA].found.condition.pk
        with mock.patch("brunt_web.decisions.evidence._grades", return_value={pla: 2.5}):
            rows = self.rows(self.card(one, grade="4"))
        self.assertEqual(
            (rows[PLA].verdict, rows[PLA].says), (OUT, "Fails by printability: graded 2.5 of 4.0")
        )
        self.assertNotEqual(rows[ASA].verdict, OUT)

    def test_grades_are_read_per_condition(self):
        made_of = batch(person("odo"))
        bar = made_of.plates.first().prints.first().specimen
        for score in (2, 3):
            Grade.objects.create(
                batch=made_of, aspect=next(iter(ASPECTS)), score=score, by=made_of.by
            )
        Grade.objects.create(
            batch=made_of, specimen=bar, aspect=next(iter(ASPECTS)), score=5, by=made_of.by
        )
        found = _grades(made_of.campaign)
        self.assertEqual(list(found), [bar.condition_id])
        self.assertTrue(2.4 < found[bar.condition_id] < 5)

    def test_a_screw_in_it(self):
        wanted = wanted_of("thread", "along", {"load": "1 kN", "width": "4 mm"}, {})
        self.assertAlmostEqual(
            size(wanted.case, 20e6).value * 1e3, 1000 / 20 / (math.pi * 4), places=6
        )
        lacking = wanted_of("thread", "along", {"load": "1 kN"}, {})
        self.assertEqual(lacking.lacking, ["the diameter of the screw"])
        page = self.client.post(
            f"/campaigns/{self.tested().pk}/decide/draw/",
            {"mode": "thread", "direction": "along", "load": "1 kN", "width": "4 mm"},
        )
        self.assertContains(page, "No candidate was tested in this direction")

    def test_room_heat_needs_no_test(self):
        self.assertEqual(self.card(self.tested(), temperature="25 °C").missing, [])

    def test_heat_that_was_measured_on_the_same_material_elsewhere(self):
        """Tested at 60 °C in another campaign: 0.4 of what the same bears in the room."""
        shop = Shop(self.user)
        one = self.tested()
        states = factor("condition", "room, 23 °C", "60 °C", "80 °C", name="State")
        other = made(shop.plan(states, n=3), self.user)
        loads = {"room": 500, "60 °C": 200, "80 °C": 60}
        for bar in other.specimens.select_related("condition"):
            load = (
                f"{next(v for k, v in loads.items() if k in str(bar.condition)) + bar.replicate} N"
            )
            put(bar, self.user, entry(load, untimely="warmed in the frame"))
        card = self.card(one, temperature="60 °C")
        rows = self.rows(card)
        (loss,) = rows[PLA].found.losses
        self.assertEqual(loss.name, "heat")
        self.assertAlmostEqual(loss.ratio, 0.4, places=2)
        self.assertLess(rows[PLA].there, 50e6 * loss.ratio)
        self.assertEqual(rows[PLA].found.missing, [])
        self.assertEqual(rows[ASA].found.missing, ["heat"])
        self.assertEqual(
            self.rows(self.card(one, temperature="90 °C"))[PLA].found.missing, ["heat"]
        )

    def test_an_own_factor_rules_and_a_wrong_one_is_told(self):
        card = self.card(self.tested(), factor="4", because="break load")
        self.assertAlmostEqual(card.best.needed / 20e6, 1)
        self.assertEqual(self.card(self.tested(), factor="0.3").wanted.problems["factor"], "A safety factor is 1 or more.")  # fmt: skip

    def test_limits_of_mass_and_price(self):
        one = self.tested()
        materials = self.user.seat.workshop.materials
        materials.filter(name=PLA).update(density=1240.0, price=40)
        materials.filter(name=ASA).update(density=1070.0, price=20)
        card = self.card(one, span="100 mm", mass="2.3 g")
        self.assertIn("Fails by mass: 2.48 of 2.30 g", self.rows(card)[PLA].says)
        card = self.card(one, span="100 mm", price="0.05")
        self.assertIn("Fails by cost", self.rows(card)[PLA].says)
        card = self.card(one, span="100 mm")
        self.assertIn(f"{ASA} takes", dict((w, t) for w, _, t in card.hangs)["Price"])

    def test_a_part_as_it_was_tested(self):
        one = bench_of(self.user, "part-break")
        for i, t in enumerate(one.turns.select_related("specimen").order_by("run_order")):
            put(t, self.user, Entry(uuid4(), NOW, {"force": f"{400 + i} N"}))
        wanted = wanted_of("part", "along", {"load": "20 kgf"}, {})
        card = card_of(one, procedures_of(one), conditions_made(one), wanted)
        self.assertEqual(card.unit, "N")
        self.assertAlmostEqual(card.stress, 196.133)
        self.assertEqual(card.best.verdict, HOLDS)

    def test_nothing_tested_nothing_typed_and_nonsense(self):
        one = campaign(self.user, materials=(PLA, ASA))
        card = self.card(one)
        self.assertEqual({c.verdict for c in card.candidates}, {NOTHING})
        self.assertIn("No candidate was tested", card.headline)
        for mode in MODES:
            self.assertTrue(card_of(one, [], [], wanted_of(mode, "along", {}, {})).why_not)
        odd = self.card(self.tested(), load="five apples", width="-3", temperature="-400 °C")
        self.assertEqual(set(odd.wanted.problems), {"load", "width", "temperature"})
        self.assertIn("Type the load", odd.why_not)


class Kept(LoadCases):
    def setUp(self):
        super().setUp()
        self.one = self.tested()
        self.typed = {
            "name": "Vent-crank arm",
            "mode": "tension",
            "direction": "along",
            **PULLED,
            "known": "few",
        }

    def keep(self):
        self.client.post(f"/campaigns/{self.one.pk}/decide/new/", self.typed)
        return LoadCase.objects.get()

    def test_from_empty_to_chosen_and_back(self):
        start = self.client.get(f"/campaigns/{self.one.pk}/decide/", follow=True)
        self.assertContains(start, "Type the load")
        self.assertContains(start, "Not for lifting, life-safety")
        nameless = self.client.post(
            f"/campaigns/{self.one.pk}/decide/new/", {**self.typed, "name": " "}
        )
        self.assertContains(nameless, "Type the part", status_code=422)
        load_case = self.keep()
        self.assertEqual((load_case.typed["load"], load_case.sure["known"]), ("100 N", "few"))
        page = self.client.get(f"/load-cases/{load_case.pk}/")
        self.assertContains(page, "Make it of Fernhall PLA")
        pick = self.one.conditions.get(label=ASA)
        self.client.post(
            f"/load-cases/{load_case.pk}/choose/",
            {"condition": pick.pk, "version": load_case.version},
        )
        self.assertContains(
            self.client.get(f"/load-cases/{load_case.pk}/"), "Chosen: Make it of Tarn ASA"
        )
        load_case.refresh_from_db()
        self.client.post(f"/load-cases/{load_case.pk}/choose/", {"version": load_case.version})
        load_case.refresh_from_db()
        self.assertIsNone(load_case.chosen)
        kept = Change.objects.filter(kind="decisions_loadcase", row=load_case.pk)
        self.assertEqual([c.what for c in kept.order_by("id")], ["+", "~", "~"])
        self.assertIn("Vent-crank arm", words(self.client.get(f"/campaigns/{self.one.pk}/decide/")))

    def test_the_second_of_two_sees_what_the_first_did(self):
        load_case = self.keep()
        other = person("second", self.user.seat.workshop)
        acts.change(
            load_case, other, timezone.now(), "Arm", "tension", "along", {"load": "5 N"}, {}, 1
        )
        late = self.client.post(
            f"/load-cases/{load_case.pk}/", {**self.typed, "version": "1", "load": "7 N"}
        )
        self.assertContains(late, "second changed this load case", status_code=409)
        self.assertContains(late, 'value="7 N"', status_code=409)
        kept = self.client.post(
            f"/load-cases/{load_case.pk}/", {**self.typed, "version": "2", "load": "7 N"}
        )
        self.assertEqual(kept.status_code, 302)
        load_case.refresh_from_db()
        self.assertEqual(load_case.typed["load"], "7 N")
        stale = self.client.post(
            f"/load-cases/{load_case.pk}/choose/", {"version": "1"}, follow=True
        )
        self.assertContains(stale, "changed this load case")

    def test_another_campaigns_condition_is_no_candidate(self):
        load_case = self.keep()
        foreign = campaign(self.user, materials=(PLA, ASA), question="Else?").conditions.first()
        answer = self.client.post(f"/load-cases/{load_case.pk}/choose/", {"condition": foreign.pk, "version": 1}, follow=True)  # fmt: skip
        self.assertContains(answer, "not a candidate of this campaign")
        load_case.refresh_from_db()
        self.assertIsNone(load_case.chosen)

    def test_put_away_and_brought_back(self):
        load_case = self.keep()
        for away in (True, False):
            self.client.post(f"/load-cases/{load_case.pk}/archive/")
            load_case.refresh_from_db()
            self.assertEqual(bool(load_case.archived_at), away)

    def test_strangers_find_nothing(self):
        load_case = self.keep()
        self.client.force_login(person("stranger"), backend=BACKEND)
        for address in (f"/load-cases/{load_case.pk}/", f"/campaigns/{self.one.pk}/decide/", f"/campaigns/{self.one.pk}/decide/new/"):  # fmt: skip
            self.assertEqual(self.client.get(address).status_code, 404)
        self.assertEqual(
            self.client.post(f"/load-cases/{load_case.pk}/choose/", {"version": 1}).status_code, 404
        )

    def test_every_mode_draws_whatever_is_typed(self):
        for mode in MODES:
            for more in ({}, {"load": "x"}, {"load": "5 N", "span": "80", "arm": "60"}, {"load": "2 J", "width": "", "thickness": ""}):  # fmt: skip
                typed = {**self.typed, "mode": mode, **more}
                page = self.client.post(f"/campaigns/{self.one.pk}/decide/draw/", typed)
                self.assertEqual(page.status_code, 200, (mode, more))

    def test_two_factors_and_grids_of_conditions(self):
        self.user = person("gridder")
        self.client.force_login(self.user, backend=BACKEND)
        one = Shop(self.user)
        grid = one.plan(
            of_materials(one.pla, one.petg),
            factor("setting", "2", "4", setting="walls", name="Walls"),
        )
        page = self.client.post(f"/campaigns/{grid.pk}/decide/draw/", self.typed)
        self.assertEqual(len(page.context["card"].candidates), 4)
