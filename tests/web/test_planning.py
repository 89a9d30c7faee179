"""Ask on the web: shapes, live panel, designs, confounders, changes to a plan."""

from datetime import timedelta
from decimal import Decimal
from unittest.mock import patch

from django.test import Client, TestCase

from brunt_core.planning.shapes import SHAPES
from brunt_web.campaigns import history
from brunt_web.campaigns.actions.added import added_later
from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.recorded import MadeAs
from brunt_web.changes.models import Change
from brunt_web.library.actions.lots import add_lot
from brunt_web.people.models import Seat
from brunt_web.results import reading as samples
from brunt_web.results.reading import pooled_cv
from tests.support.printing import batch, recipe
from tests.support.workshop import BACKEND, NOW, campaign, fill, made, person


class Ask(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.shop = cls.user.seat.workshop
        cls.one = campaign(cls.user)
        cls.flat = cls.one.procedures.get(orientation="flat")
        cls.pla, cls.asa = cls.shop.materials.all()
        cls.base = {
            "question": "Q?",
            "replicates": "4",
            "procedures": [cls.flat.pk],
            "materials": [cls.pla.pk],
        }

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def plan(self, **changed):
        answer = self.client.post("/campaigns/new/", self.base | changed)
        self.assertEqual(answer.status_code, 302, answer.content.decode()[-2500:])
        return Campaign.objects.latest("id")

    def panel(self, **changed) -> str:
        return self.client.post("/campaigns/new/preview/", self.base | changed).content.decode()

    def test_every_shape_opens_with_its_proposal(self):
        for key, shape in SHAPES.items():
            answer = self.client.get(f"/campaigns/new/?shape={key}")
            self.assertContains(answer, shape.question)
            for factor in shape.factors:
                for level in factor.levels:
                    self.assertContains(answer, level)

    def test_one_factor_grid_and_dropped_combinations(self):
        one_factor = self.plan(
            **{
                "f-0-kind": "setting",
                "f-0-setting": "nozzle_temperature",
                "f-0-levels": "220; 235; 250 °C",
            }
        )
        self.assertEqual(
            [c.label for c in one_factor.conditions.all()],
            [f"Nozzle temperature {t} °C" for t in (220, 235, 250)],
        )
        self.assertAlmostEqual(one_factor.factors.get().levels.first().value, 493.15)
        grid = self.plan(
            materials=[self.pla.pk, self.asa.pk],
            drop=["Fernhall PLA, Walls 2"],
            control="Tarn ASA, Walls 4",
            **{"f-0-kind": "setting", "f-0-setting": "walls", "f-0-levels": "2; 4"},
        )
        self.assertEqual(
            sorted(map(str, grid.conditions.all())),
            ["Fernhall PLA, Walls 4", "Tarn ASA, Walls 2", "Tarn ASA, Walls 4"],
        )
        self.assertEqual((str(grid.reference), grid.specimens.count()), ("Tarn ASA, Walls 4", 12))

    def test_fraction_states_its_aliases(self):
        rows = {}
        for i, (setting, levels) in enumerate(
            (("walls", "2; 4"), ("infill", "20; 60"), ("speed", "40; 80"), ("cooling", "0; 100"))
        ):
            rows |= {f"f-{i}-kind": "setting", f"f-{i}-setting": setting, f"f-{i}-levels": levels}
        self.assertIn("<strong>16</strong>condition", self.panel(**rows))
        fraction = self.plan(design="fraction-8", **rows)
        self.assertEqual(fraction.conditions.count(), 8)
        self.assertIn(
            "Walls × Infill is confounded with Print speed × Cooling fan",
            fraction.notes,
        )

    def test_own_cv_is_that_of_the_newest_tests(self):
        one = campaign(self.user)
        flat = one.procedures.get(orientation="flat")
        fill(one, self.user, {"Fernhall PLA": ["500", "600", "700"]})
        one.turns.filter(tested_at__isnull=False).update(tested_at=NOW - timedelta(days=3000))
        wide = pooled_cv(one.workshop, flat)
        fill(one, self.user, {"Tarn ASA": ["500", "505", "510"]})
        both = pooled_cv(one.workshop, flat)
        self.assertEqual((wide.groups, both.groups), (1, 2))
        self.assertAlmostEqual(wide.value, 100 / 600, places=3)
        with patch.object(samples, "NEWEST", 3):
            newest = pooled_cv(one.workshop, flat)
        self.assertAlmostEqual(newest.value, 5 / 505, places=3)
        self.assertEqual((newest.groups, newest.freedom), (1, 2))

    def test_cv_is_typed_own_or_usual(self):
        both = {"materials": [self.pla.pk, self.asa.pk]}
        self.assertIn("as typed", self.panel(cv="7", **both))
        self.assertIn("a usual value for this test", self.panel(**both))
        fill(
            self.one,
            self.user,
            {"Fernhall PLA": ["500", "510", "505"], "Tarn ASA": ["400", "410", "405"]},
        )
        self.assertIn("this workshop's own groups".replace("'", "&#x27;"), self.panel(**both))

    def test_cost_is_unknown_until_it_is_known(self):
        grid = {"f-0-kind": "setting", "f-0-setting": "walls", "f-0-levels": "2; 4; 6"}
        self.assertIn("Unknown: the density of Fernhall PLA; the print time", self.panel(**grid))
        self.pla.density, self.pla.price = 1240, 20
        self.pla.save()
        add_lot(self.shop, self.pla, "spool", bought=0.005, price=Decimal(1))
        text = self.panel(recipe=recipe(self.shop).pk, **grid)
        self.assertIn("g short.", text)
        self.assertIn("Remove the level and save", text)
        self.assertNotIn("Not known", text)

    def test_unlikely_level_and_colour_are_noticed(self):
        warm = self.panel(
            recipe=recipe(self.shop).pk,
            **{
                "f-0-kind": "setting",
                "f-0-setting": "nozzle_temperature",
                "f-0-levels": "210; 290",
            },
        )
        self.assertIn("A nozzle at 290 °C is unusual for PLA", warm)
        for material, colour in ((self.pla, "red"), (self.asa, "black")):
            add_lot(self.shop, material, "s", colour=colour)
        self.assertIn(
            "Colour differs and is not a factor", self.panel(materials=[self.pla.pk, self.asa.pk])
        )

    def test_confounder_accepted_with_a_reason_shows_on_compare(self):
        ask = f"/campaigns/{self.one.pk}/ask/"
        thick, thin = recipe(self.shop), recipe(self.shop, "Thin", walls="2")
        for condition, chosen in zip(self.one.conditions.all(), (thick, thin), strict=True):
            self.client.post(
                f"/campaigns/{self.one.pk}/conditions/{condition.pk}/making/", {"recipe": chosen.pk}
            )
        self.assertContains(
            self.client.get(f"/campaigns/{self.one.pk}/ask/"), "Walls differs and is not a factor"
        )
        compare = f"/campaigns/{self.one.pk}/compare/"
        self.assertContains(self.client.get(compare), "Fix it or accept it")
        self.assertContains(
            self.client.post(f"{ask}accept/", {"key": "walls", "reason": " "}),
            "Write why this difference",
            status_code=422,
        )
        self.client.post(
            f"{ask}accept/", {"key": "walls", "reason": "both are solid at this width"}
        )
        self.assertContains(self.client.get(compare), "Accepted: both are solid at this width")
        self.client.post(f"{ask}withdraw/", {"key": "walls"})
        self.assertEqual(self.one.accepted.count(), 0)

    def test_real_prints_that_deviate_are_noticed(self):
        one = batch(self.user)
        self.assertContains(
            self.client.get(f"/campaigns/{one.campaign_id}/ask/"), "no difference in recipes"
        )
        other = one.campaign.conditions.get(label="Tarn ASA")
        specimen = other.specimens.first()
        history.made(
            [specimen], self.user, NOW, "printed", {specimen.pk: MadeAs(printer="Other bed")}
        )
        self.assertContains(
            self.client.get(f"/campaigns/{one.campaign_id}/ask/"),
            "Printer differs and is not a factor",
        )

    def test_plan_can_change_until_something_is_printed(self):
        self.one = campaign(self.user, question="Which, then?", printed=False)
        edit = f"/campaigns/{self.one.pk}/ask/edit/"
        self.assertContains(self.client.get(edit), self.one.question)
        self.client.post(
            edit,
            self.base
            | {"materials": [self.pla.pk, self.asa.pk], "replicates": "2", "question": "Changed?"},
        )
        self.one.refresh_from_db()
        self.assertEqual((self.one.question, self.one.specimens.count()), ("Changed?", 4))
        made(self.one, self.user)
        fill(self.one, self.user, {"Fernhall PLA": ["500"]})
        self.assertContains(
            self.client.post(edit, self.base | {"materials": [self.pla.pk, self.asa.pk]}),
            "already have something in their history",
            status_code=422,
        )
        change = f"/campaigns/{self.one.pk}/ask/more/"
        self.client.post(change, {"more": "2"})
        self.assertEqual(self.one.specimens.count(), 8)
        self.assertEqual(self.client.post(change, {"more": "lots"}).status_code, 422)


class Added(TestCase):
    """What was added to a plan later, taken off again."""

    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = campaign(cls.user, replicates=3)
        cls.page = f"/campaigns/{cls.one.pk}/ask/"

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def codes(self):
        return set(self.one.specimens.values_list("code", flat=True))

    def off(self, client=None):
        act = added_later(self.one)[0].act
        return (client or self.client).post(f"{self.page}added/{act}/off/", follow=True)

    def test_replicates_of_all_are_taken_off_as_they_were_added(self):
        before, turns = self.codes(), self.one.turns.count()
        self.assertNotContains(self.client.get(self.page), "off again")
        self.client.post(f"{self.page}more/", {"more": "2"})
        self.one.refresh_from_db()
        self.assertEqual((self.one.replicates, len(self.codes() - before)), (5, 8))
        self.assertContains(self.client.get(self.page), "Take them off again")
        self.assertContains(self.off(), "Removed from the plan")
        self.one.refresh_from_db()
        self.assertEqual((self.one.replicates, self.codes()), (3, before))
        self.assertEqual(self.one.turns.count(), turns)
        self.assertNotContains(self.client.get(self.page), "off again")
        gone = Change.objects.filter(kind="campaigns_specimen", what="-")
        self.assertEqual(gone.count(), 8)

    def test_a_condition_that_has_more_does_not_keep_the_plan_larger(self):
        condition = self.one.conditions.first()
        self.client.post(f"/campaigns/{self.one.pk}/conditions/{condition.pk}/more/", {"more": "2"})
        self.client.post(f"{self.page}more/", {"more": "2"})
        self.off()
        self.one.refresh_from_db()
        self.assertEqual((self.one.replicates, len(self.codes())), (3, 16))

    def test_what_was_worked_on_stays(self):
        self.client.post(f"{self.page}more/", {"more": "1"})
        first, second, *rest = added_later(self.one)[0].untouched
        history.note(self.one.specimens.filter(code=first), "measured", self.user, NOW, "weighed")
        self.one.specimens.filter(code=second).update(note="kept for the fair")
        page = self.client.get(self.page)
        self.assertContains(page, "not started: 2")
        self.off()
        self.assertTrue({first, second} <= self.codes())
        self.assertFalse(set(rest) & self.codes())
        self.assertEqual(added_later(self.one), [])

    def test_one_condition_and_one_from_the_bench(self):
        condition = self.one.conditions.first()
        self.client.post(f"/campaigns/{self.one.pk}/conditions/{condition.pk}/more/", {"more": "2"})
        code = self.one.specimens.first().code
        page = self.client.post(f"/specimens/{code}/another/", follow=True)
        way = f'Not wanted? <a href="/campaigns/{self.one.pk}/ask/">Remove it</a> under Ask.'
        self.assertContains(page, way)
        acts = added_later(self.one)
        self.assertEqual([(a.count, a.by) for a in acts], [(1, self.user.username), (4, self.user.username)])  # fmt: skip
        self.off()
        self.off()
        self.assertEqual(len(self.codes()), 12)

    def test_a_tester_is_told_who_takes_it_off(self):
        Seat.objects.filter(user=self.user).update(rights="tester")
        code = self.one.specimens.first().code
        page = self.client.post(f"/specimens/{code}/another/", follow=True)
        self.assertContains(page, "A lead can remove it")
        self.assertNotContains(page, ">Delete again<")

    def test_twice_a_stranger_and_a_tester(self):
        self.client.post(f"{self.page}more/", {"more": "1"})
        act = added_later(self.one)[0].act
        for name, shop, status in (
            ("stranger", None, 404),
            ("mate", self.one.workshop, 403),
        ):
            other = Client()
            who = person(name, shop) if shop else person(name)
            type(who.seat).objects.filter(pk=who.seat.pk).update(
                rights="tester" if shop else "lead"
            )
            other.force_login(who, backend=BACKEND)
            said = other.post(f"{self.page}added/{act}/off/")
            self.assertEqual(said.status_code, status)
        self.assertContains(self.off(), "Removed from the plan")
        again = self.client.post(f"{self.page}added/{act}/off/")
        self.assertContains(again, "Nothing can be removed", status_code=422)
