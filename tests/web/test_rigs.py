"""Rigs: what they can do, certificates and when they are due, several for one procedure, how far they agree."""

from datetime import timedelta

from django.test import Client, TestCase
from django.utils import timezone

from brunt_core.errors import InputError
from brunt_web.changes.models import Change
from brunt_web.comparison.page import build
from brunt_web.comparison.pairs_view import by_factor
from brunt_web.comparison.strips import strips_of
from brunt_web.comparison.views import _pairs
from brunt_web.library.actions.rigs import also_on, read_figures
from brunt_web.library.models import Calibration, Rig
from brunt_web.results.models import Result
from tests.support.workshop import BACKEND, campaign, entry, person, put, turns_of


class Rigs(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.shop = cls.user.seat.workshop
        cls.campaign = campaign(cls.user, orientations=("flat",), replicates=4)
        cls.rig = cls.shop.rigs.get()
        cls.today = timezone.localdate()
        cls.page = f"/library/rigs/{cls.rig.pk}/"

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def calibrate(self, **changed):
        told = {
            "on": str(self.today - timedelta(days=400)),
            "due": str(self.today - timedelta(days=35)),
            "certificate": "GT-1",
            "by_whom": "somebody",
            "figures": "100 N; 100.4 N; 0.2 N\n500 N; 497 N; 1 N",
            "takes_limit": "1",
        }
        return self.client.post(f"{self.page}calibrations/", told | changed)


class Certificates(Rigs):
    def test_is_kept_drawn_and_sets_the_limit(self):
        self.assertRedirects(self.calibrate(), self.page)
        self.rig.refresh_from_db()
        self.assertEqual((self.rig.relative_error, self.rig.overdue(self.today)), (0.008, True))
        page = self.client.get(self.page)
        for words in ("0.80 %", "Class 1 by indication", "calibration was due", "GT-1"):
            self.assertContains(page, words)
        self.assertEqual(page.content.decode().count("cal-dot"), 2)
        told = Change.objects.filter(kind="library_rig", after__has_key="relative_error").first()
        self.assertEqual((told.before["relative_error"], told.who), (0.01, self.user))
        one = Calibration.objects.get()
        self.client.post(f"{self.page}calibrations/{one.pk}/withdraw/")
        self.rig.refresh_from_db()
        self.assertIsNone(self.rig.due_on)
        self.assertTrue(Calibration.objects.exists())

    def test_the_last_one_that_holds_says_when_it_is_due(self):
        self.calibrate()
        self.calibrate(on=str(self.today), due=str(self.today + timedelta(days=365)), figures="")
        self.rig.refresh_from_db()
        self.assertFalse(self.rig.overdue(self.today))
        self.calibrate(on=str(self.today - timedelta(days=900)), due="", figures="")
        self.rig.refresh_from_db()
        self.assertEqual(self.rig.due_on, self.today + timedelta(days=365))

    def test_what_cannot_be_is_refused(self):
        for changed, words in (
            ({"on": str(self.today + timedelta(days=2))}, "after today"),
            ({"due": str(self.today - timedelta(days=500))}, "before the calibration date"),
            ({"figures": "100 N"}, "Line 1: write applied; read"),
            ({"figures": "100 N; x"}, "Line 1:"),
            ({"figures": "0 N; 1 N"}, "zero load"),
            ({"on": "soon"}, "valid date"),
        ):
            self.assertContains(self.calibrate(**changed), words, status_code=422)
        self.assertFalse(Calibration.objects.exists())
        self.assertAlmostEqual(read_figures("10 kgf\t98.3 N\n\n", "force")[0].applied, 98.0665)
        other = Client()
        other.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(other.get(self.page).status_code, 404)

    def test_overdue_is_told_at_the_bench_and_on_results(self):
        self.calibrate()
        turn = turns_of(self.campaign).first()
        self.assertContains(self.client.get(turn.address), "its calibration was due")
        now = timezone.now()
        put(turn, self.user, entry("500 N"))
        turn = turns_of(self.campaign).get(pk=turn.pk)
        self.assertEqual(turn.tested_as.overdue, "")
        other = turns_of(self.campaign, state="waiting").first()
        late = entry("510 N")
        put(other, self.user, type(late)(late.key, now, late.inputs, late.outcome))
        self.assertContains(self.client.get(f"/specimens/{other.code}/"), "was due on")
        compare = self.client.get(f"/campaigns/{self.campaign.pk}/compare/")
        self.assertContains(compare, "1 was tested on a rig whose calibration was overdue")
        csv = self.client.get(f"/campaigns/{self.campaign.pk}/results.csv").getvalue().decode()
        self.assertIn(str(self.rig.due_on or Rig.objects.get().due_on), csv)

    def test_its_facts_change_and_two_at_once_are_told(self):
        page = self.client.get(self.page).content.decode()
        seen = page.split('name="seen" value="')[1].split('"')[0]
        told = {
            "name": "Frame B",
            "location": "by the kiln",
            "capacity": "1 kN",
            "resolution": "0.2 N",
            "relative_error": "0.5 %",
            "slowest": "1 mm/min",
            "fastest": "500 mm/min",
            "seen": seen,
        }
        self.assertRedirects(self.client.post(self.page, told), self.page)
        self.rig.refresh_from_db()
        self.assertEqual(
            (self.rig.name, self.rig.relative_error, self.rig.speeds),
            ("Frame B", 0.005, "1 to 500 mm/min"),
        )
        again = self.client.post(self.page, told | {"location": "by the door"})
        self.assertContains(again, "changed", status_code=422)
        odd = self.client.post(self.page, told | {"slowest": "900 mm/min", "seen": ""})
        self.assertContains(odd, "above the fastest", status_code=422)


class Several(Rigs):
    def setUp(self):
        super().setUp()
        self.second = Rig.objects.create(
            workshop=self.shop,
            name="Frame two",
            capacity=480.0,
            resolution=1.0,
            relative_error=0.05,
        )
        self.procedure = self.campaign.procedures.get()
        self.client.post(
            f"/library/procedures/{self.procedure.pk}/rigs/", {"rigs": [str(self.second.pk)]}
        )

    def store(self, turn, load, rig):
        sent = {"force": load, "width": "5 mm", "thickness": "2 mm", "outcome": "broke", "kept": ""}
        key = f"00000000-0000-4000-8000-{turn.pk:012d}"
        return self.client.post(turn.address, sent | {"key": key, "rig": str(rig.pk)})

    def test_the_bench_offers_them_and_remembers(self):
        turn = turns_of(self.campaign).order_by("run_order").first()
        page = self.client.get(turn.address)
        self.assertContains(page, ">Frame two</option>")
        self.assertContains(page, f'value="{self.rig.pk}" selected')
        answer = self.client.post(
            f"{turn.address}try/",
            {
                "force": "500 N",
                "width": "5",
                "thickness": "2",
                "outcome": "broke",
                "rig": str(self.second.pk),
            },
        )
        self.assertContains(answer, "More than Frame two can hold")
        self.assertEqual(self.store(turn, "440 N", self.second).status_code, 302)
        turn = turns_of(self.campaign).get(pk=turn.pk)
        self.assertEqual((turn.rig, turn.tested_as.rig), (self.second, "Frame two"))
        wide = Result.objects.get(turn=turn, property_key="tensile_strength").uncertainty
        following = turns_of(self.campaign, state="waiting").order_by("run_order").first()
        self.assertContains(
            self.client.get(following.address), f'value="{self.second.pk}" selected'
        )
        self.store(following, "440 N", self.rig)
        own = Result.objects.get(turn=following, property_key="tensile_strength").uncertainty
        self.assertGreater(wide, own * 2)
        outlier = Rig.objects.create(workshop=self.shop, name="Another")
        third = turns_of(self.campaign, state="waiting").first()
        self.assertEqual(self.store(third, "440 N", outlier).status_code, 422)

    def test_only_rigs_that_can(self):
        torque = Rig.objects.create(workshop=self.shop, name="Wrench", dimension="torque")
        slow = Rig.objects.create(workshop=self.shop, name="Slow", fastest=1e-6)
        self.procedure.speed = 1e-4
        for rig in (torque, slow):
            with self.assertRaises(InputError):
                also_on(self.procedure, [rig])
        page = self.client.get(f"/library/procedures/{self.procedure.pk}/")
        self.assertNotContains(page, "Wrench")

    def test_what_two_rigs_do_not_share_is_in_the_difference(self):
        """One material on each rig, 3 % apart: a difference on one rig, none where the two are known to 3 %."""
        Rig.objects.update(relative_error=0.03 * 3**0.5)
        loads = {"Fernhall PLA": (500, 501, 502, 499), "Tarn ASA": (485, 486, 484, 485)}
        for label, own in loads.items():
            for turn, load in zip(
                turns_of(self.campaign, condition__label=label), own, strict=False
            ):
                self.store(turn, f"{load} N", self.rig)
        address = f"/campaigns/{self.campaign.pk}/compare/"
        page = self.client.get(address).text
        self.assertNotIn("Not all on the same rig", page)
        self.assertNotIn("No difference", page)
        self.campaign.turns.filter(condition__label="Tarn ASA").update(rig=self.second)
        page = self.client.get(address).text
        self.assertIn("Not all on the same rig", page)
        self.assertIn("Tarn ASA on Frame two", page)
        self.assertIn("up to 4.2 % of what is read", page)
        found = next(iter(build(self.campaign, [self.procedure], list(self.campaign.conditions.all()), {}).ranking.pairs))  # fmt: skip
        self.assertGreater(found.p, 0.05)
        Rig.objects.update(relative_error=0)
        self.assertNotIn("Not all on the same rig", self.client.get(address).text)

    def test_alike_and_pairs_allow_for_it_too(self):
        """Equal loads on two rigs known to 3 %: equivalent within 5 % on one, not to be said on two; × 1.00 wider."""
        Rig.objects.update(relative_error=0.03 * 3**0.5)
        for turn, load in zip(turns_of(self.campaign), (500, 501, 502, 499) * 2, strict=False):
            self.store(turn, f"{load} N", self.rig)
        conditions = list(self.campaign.conditions.all())

        def said() -> tuple[str, float]:
            page = build(self.campaign, [self.procedure], conditions, {"alike": "5"})
            strip = strips_of(self.campaign, [self.procedure], conditions)[0][0]
            view = by_factor(strip, conditions, list(self.campaign.factors.all()), None)
            low, high = map(float, view.rows[0].interval.split(" – "))
            return _pairs(page)[0]["alike"], high - low

        one = said()
        self.campaign.turns.filter(condition__label="Tarn ASA").update(rig=self.second)
        two = said()
        self.assertEqual((one[0], two[0]), ("yes", "cannot be said"))
        self.assertGreater(two[1], one[1] + 0.1)

    def test_one_rig_falls_out_of_upright_over_flat(self):
        """One condition on one rig throughout, the other on another: nothing is left in either quotient."""
        one = campaign(self.user, replicates=3, question="Both ways?")
        Rig.objects.update(relative_error=0.03 * 3**0.5)
        flat, upright = list(one.procedures.order_by("orientation"))
        for turn, load in zip(turns_of(one), (500, 505, 510) * 4, strict=True):
            put(turn, self.user, entry(f"{load} N"))
        view, conditions = {"view": "ratio"}, list(one.conditions.all())

        def told() -> tuple[float, bool]:
            page = build(one, [flat, upright], conditions, view)
            low, high = page.ranking.rows[0].summary.low, page.ranking.rows[0].summary.high
            return high - low, any("of a quotient" in r for r in page.remarks)

        plain = told()
        self.assertFalse(plain[1])
        one.turns.filter(condition__label="Tarn ASA").update(rig=self.second)
        self.assertEqual(told(), plain)
        one.turns.filter(procedure=flat).update(rig=self.second)
        one.turns.filter(procedure=upright).update(rig=None)
        wide, said = told()
        self.assertTrue(said)
        self.assertGreater(wide, plain[0] + 0.05)

    def test_how_far_they_agree(self):
        page = f"/procedures/{self.procedure.pk}/gauge/"
        self.assertContains(
            self.client.get(page), "Test some specimens of one condition on one rig"
        )
        turns = list(turns_of(self.campaign).order_by("condition_id", "specimen__replicate"))
        for i, turn in enumerate(turns):
            rig = self.second if i % 2 else self.rig
            load = 440 + 20 * (i % 2) + 3 * (i % 3)
            self.store(turn, f"{load} N", rig)
        told = self.client.get(page)
        self.assertContains(told, "between rigs")
        self.assertContains(told, "8 readings")
        self.assertContains(told, "so specimens of one condition stand for one part")
        self.assertEqual(told.content.decode().count('class="gauge-dot"'), 8)
        other = Client()
        other.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(other.get(page).status_code, 404)
