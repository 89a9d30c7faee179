"""Check standards: their days, their verdict, what they say of all campaigns and comparisons."""

from datetime import timedelta

from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext

from brunt_core.errors import InputError
from brunt_web.changes.models import Change
from brunt_web.checks.actions import check_standards as acts
from brunt_web.checks.chart import chart_of, verdict_of
from brunt_web.checks.models import CheckStandard, Phase
from brunt_web.checks.queries import changes_for, watched
from brunt_web.testing.actions.change_test import exclude
from brunt_web.testing.actions.record_test import Entry, record_test
from tests.support.plans import Shop, factor
from tests.support.reading import words
from tests.support.workshop import BACKEND, NOW, campaign, entry, made, person, put, turns_of

PLA, ASA = "Fernhall PLA", "Tarn ASA"
STEADY = (500, 506, 497, 503, 499, 507, 495, 502, 504, 498)


class Checked(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = campaign(cls.user, replicates=24, orientations=("flat",))
        cls.flat = cls.one.procedures.get()
        cls.pla = cls.one.conditions.get(label=PLA).material
        cls.bars = list(turns_of(cls.one, condition__label=PLA).order_by("specimen__replicate"))

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def days(self, loads, start=0, each=1, first=0, label=PLA, **more):
        """Test a bar (or several) a day with these loads."""
        bars = list(turns_of(self.one, condition__label=label).order_by("specimen__replicate"))
        for i, load in enumerate(loads):
            for k in range(each):
                one = Entry(
                    entry("1").key, NOW + timedelta(days=start + i, minutes=k),
                    {"force": f"{load} N", "width": "5 mm", "thickness": "2 mm"}, "broke", **more,
                )  # fmt: skip
                put(bars[first + i * each + k], self.user, one)

    def check(self):
        return acts.make_check_standard(self.one.workshop, self.user, self.pla, self.flat)


class Charts(Checked):
    def test_a_day_is_the_mean_of_its_bars(self):
        self.days([500, 510, 490, 505, 495], each=2)
        found = watched(self.check())
        self.assertEqual([round(p.value, 3) for p in found.points], [50, 51, 49, 50.5, 49.5])
        self.assertEqual([len(p.bars) for p in found.points], [2] * 5)
        (stretch,) = found.stretches
        self.assertAlmostEqual(stretch.chart.centre, 50.0)
        self.assertAlmostEqual(stretch.chart.sigma, (1 + 2 + 1.5 + 1) / 4 / 1.128, places=6)

    def test_what_is_no_check_standard_is_no_point(self):
        """Treated, upright, excluded, another speed, another material: none of them counts; a bound is told."""
        self.days(STEADY[:5])
        self.days([300, 301], label=ASA)
        exclude(self.bars[4].specimen.turns.get().test, "it slipped", self.user, NOW)
        put(self.bars[5], self.user, entry(">900 N", "held"))
        put(self.bars[6], self.user, entry("450 N", speed="3 mm/min"))
        shop = Shop(person("odo"))
        steps = factor("treatment", "none", "annealed 80 °C 1 h", name="Treatment")
        other = made(shop.plan(steps), shop.user)
        for bar in turns_of(other):
            record_test(bar, shop.user, entry("600 N", untimely="cold"))
        found = watched(self.check())
        self.assertEqual([round(p.value, 6) for p in found.points], [50, 50.6, 49.7, 50.3])
        self.assertEqual(found.held, 1)
        theirs = acts.make_check_standard(shop.shop, shop.user, shop.pla, shop.flat)
        self.assertEqual(len(watched(theirs).points[0].bars), 2)

    def test_campaigns_are_strung_together(self):
        self.days(STEADY[:3])
        more = campaign(self.user, replicates=2, orientations=("flat",), question="Again?")
        late = NOW + timedelta(days=40)
        for bar in turns_of(more, condition__label=PLA):
            one = Entry(entry("1").key, late, {"force": "501 N", "width": "5", "thickness": "2"}, "broke")  # fmt: skip
            put(bar, self.user, one)
        points = watched(self.check()).points
        self.assertEqual(len(points), 4)
        self.assertEqual({b.campaign for b in points[-1].bars}, {"Again?"})

    def test_verdicts(self):
        check = self.check()
        self.assertEqual(verdict_of(watched(check))[0], "Nothing tested yet")
        self.days(STEADY[:3])
        self.assertEqual(verdict_of(watched(check))[0], "Too few days for limits")
        self.days(STEADY[3:], start=3, first=3)
        self.assertEqual(verdict_of(watched(check))[0], "Steady over 10 days")
        self.days([560], start=12, first=12)
        strong, rest, wrong = verdict_of(watched(check))
        self.assertEqual((strong, wrong), ("Out on 14 March 2026", True))
        self.assertIn("beyond three sigma: test the check standard again", rest.lower())
        self.days([561, 558, 563], start=13, first=13)
        self.assertIn("Shifted up by", verdict_of(watched(check))[0])

    def test_no_cv_at_all_and_one_wild_day(self):
        check = self.check()
        self.days([500] * 6)
        self.assertEqual(verdict_of(watched(check))[0], "Steady over 6 days")
        self.days([50_000], start=7, first=7)
        self.assertTrue(chart_of(watched(check)).days)
        self.assertEqual(self.client.get(f"/checks/{check.pk}/").status_code, 200)

    def test_a_phase_has_limits_of_its_own_and_can_be_taken_back(self):
        check = self.check()
        self.days([*STEADY, *(v - 60 for v in STEADY)])
        self.assertIn("Shifted down by", verdict_of(watched(check))[0])
        day = (NOW + timedelta(days=10)).date()
        answer = self.client.post(f"/checks/{check.pk}/phases/", {"starts_on": day, "because": "new jaws"}, follow=True)  # fmt: skip
        self.assertIn("Steady over 10 days", words(answer))
        (change,) = watched(check).changes
        self.assertAlmostEqual(change.by, -60 / 501.1, places=3)
        self.assertIn("new jaws", change.words)
        self.client.post(f"/checks/{check.pk}/phases/{Phase.objects.get().pk}/off/")
        self.assertIn("Shifted down", verdict_of(watched(check))[0])
        gone = Change.objects.filter(kind="checks_phase", what="-")
        self.assertEqual(gone.count(), 1)
        refused = self.client.post(f"/checks/{check.pk}/phases/", {"starts_on": day, "because": " "})  # fmt: skip
        self.assertEqual(refused.status_code, 422)
        self.assertEqual(self.client.post(f"/checks/{check.pk}/phases/", {"starts_on": "x"}).status_code, 422)  # fmt: skip

    def test_the_same_few_queries_for_any_number(self):
        check = self.check()
        self.days(STEADY[:4])
        with CaptureQueriesContext(connection) as few:
            watched(check)
        self.days(STEADY[4:], start=4, first=4, each=2)
        with CaptureQueriesContext(connection) as more:
            watched(check)
        self.assertEqual(len(few), len(more))


class Making(Checked):
    def test_made_once_put_away_and_back(self):
        answer = self.client.post("/checks/", {"material": self.pla.pk, "procedure": self.flat.pk, "name": ""}, follow=True)  # fmt: skip
        self.assertIn("is a check standard", words(answer))
        again = self.client.post("/checks/", {"material": self.pla.pk, "procedure": self.flat.pk})
        self.assertContains(again, "already", status_code=422)
        check = CheckStandard.objects.get()
        self.client.post(f"/checks/{check.pk}/archive/")
        self.assertIn("Archived", words(self.client.get("/checks/")))
        self.check()
        self.assertIsNone(CheckStandard.objects.get().archived_at)

    def test_what_is_tested_on_most_days_is_offered(self):
        self.days(STEADY[:3])
        self.assertIn("Fernhall PLA, Tension, flat</a>: 3 days", words(self.client.get("/checks/")))
        self.check()
        self.assertNotIn("on most days", words(self.client.get("/checks/")))

    def test_a_plan_without_it_is_told_so(self):
        check = self.check()
        asa = self.one.conditions.get(label=ASA).material
        more = {"shape": "rank", "question": "Else?", "materials": [asa.pk], "procedures": [self.flat.pk], "replicates": 3}  # fmt: skip
        said = "is not in this plan. A few specimens of Fernhall PLA"
        told = words(self.client.get("/campaigns/new/", more))
        self.assertIn(said, told)
        self.assertIn(f'for="material-{self.pla.pk}"', told)
        both = {**more, "materials": [asa.pk, self.pla.pk]}
        self.assertNotIn(said, words(self.client.get("/campaigns/new/", both)))
        acts.archive_check_standard(check, NOW)
        self.assertNotIn(said, words(self.client.get("/campaigns/new/", more)))

    def test_nobody_else_s(self):
        check = self.check()
        other = person("stranger")
        self.client.force_login(other, backend=BACKEND)
        for address in (f"/checks/{check.pk}/", f"/checks/{check.pk}/archive/", f"/checks/{check.pk}/phases/"):  # fmt: skip
            answer = self.client.get(address) if address.endswith(f"{check.pk}/") else self.client.post(address)  # fmt: skip
            self.assertEqual(answer.status_code, 404)
        with self.assertRaises(InputError):
            acts.make_check_standard(other.seat.workshop, other, self.pla, self.flat)
        refused = self.client.post("/checks/", {"material": self.pla.pk, "procedure": self.flat.pk})
        self.assertEqual(refused.status_code, 422)


class Said(Checked):
    """Where the check standard shifted, the all campaigns and any comparison across that date say so."""

    def setUp(self):
        super().setUp()
        self.days([*STEADY, *(v - 60 for v in STEADY)])
        self.days([300, 302], label=ASA, start=15)
        self.check()

    def test_compare_says_it_in_every_view(self):
        (change,) = changes_for(self.one.workshop, [self.flat])
        self.assertIn("between 11 Mar 2026 and 12 Mar 2026", change.words)
        for view in ("", "profile/", "summary/"):
            text = words(self.client.get(f"/campaigns/{self.one.pk}/compare/{view}"))
            with self.subTest(view):
                self.assertIn("Not all comparable: the check standard", text)
        self.assertIn("Not all comparable", words(self.client.get(f"/campaigns/{self.one.pk}/report/")))  # fmt: skip

    def test_what_lies_on_one_side_is_not_marked(self):
        late = campaign(self.user, replicates=2, orientations=("flat",), question="Later?")
        for i, bar in enumerate(turns_of(late)):
            at = NOW + timedelta(days=30 + i)
            put(bar, self.user, Entry(entry("1").key, at, {"force": "440 N", "width": "5", "thickness": "2"}, "broke"))  # fmt: skip
        text = words(self.client.get(f"/campaigns/{late.pk}/compare/"))
        self.assertNotIn("Not all comparable", text)
        all_campaigns = words(self.client.get("/all-campaigns/"))
        self.assertIn("partly before the check standard shifted", all_campaigns)
        self.assertEqual(all_campaigns.count("before the check standard shifted"), 1)
