"""The day sheet: jobs from everything that takes time, planned, moved, told; hours, zones, calendars."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from django.utils import timezone
from icalendar import Calendar

from brunt_core.errors import InputError
from brunt_web.days.actions import plans
from brunt_web.days.hours import hours_of, spells
from brunt_web.days.jobs import jobs_of
from brunt_web.days.models import Feed, OwnJob, Placement
from brunt_web.days.planning import placed_starts, scheduling_problem, what_breaks
from brunt_web.days.sheet import sheet_of
from brunt_web.testing.actions import timed
from brunt_web.testing.actions.record_test import measure
from brunt_web.treatments.actions import runs
from brunt_web.treatments.actions.library import add_vessel
from brunt_web.treatments.models import Vessel
from tests.support.bench import bench_of
from tests.support.plans import Shop, factor
from tests.support.printing import batch
from tests.support.reading import words
from tests.support.workshop import campaign, person, turn
from tests.web.test_bench_actions import Benches

MONDAY = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)
MINUTE = timedelta(minutes=1)


class Days(Benches):
    def setUp(self):
        super().setUp()
        self.shop = self.user.seat.workshop
        self.full()

    def full(self):
        """Somebody is there every day from eight to six."""
        plans.set_hours(self.shop, "UTC", ["8:00-18:00"] * 7, 2)

    def kinds(self):
        return [j.kind for j in jobs_of(self.shop, timezone.now())]


class Jobs(Days):
    def test_everything_that_takes_time_is_a_job(self):
        plans.add_own(self.shop, "One-factor series the floor", "hands", 20)
        shop = Shop(self.user)
        one = shop.plan(factor("treatment", "as printed", "annealed 95 °C, 2 h"))
        shop.print_all(one)
        bars = list(one.specimens.filter(outstanding="treatment"))
        oven = add_vessel(self.shop, "Oven", "oven", "12")
        draft = runs.RunDraft("anneal-oven", {"time": "2 h"}, bars, vessel=oven)
        run = runs.plan_run(self.shop, one, self.user, draft)
        found = jobs_of(self.shop, timezone.now())
        self.assertEqual({j.kind for j in found}, {"test", "own", "run"})
        steps = [j for j in found if j.kind == "run"]
        self.assertEqual([j.minutes for j in steps], [10, 120, 120, 10])
        self.assertEqual([j.attended for j in steps], [True, False, False, True])
        self.assertEqual(steps[1].after, (steps[0].key,))
        self.assertAlmostEqual(steps[1].heat, 373.15)
        self.assertTrue(all(j.lane == f"vessel-{oven.pk}" for j in steps))
        self.assertEqual(steps[3].key, f"run-{run.pk}-last")

    def test_slow_before_fast_on_one_rig(self):
        shop = Shop(self.user)
        one = shop.plan(factor("rate", "5 mm/min", "500 mm/min"))
        shop.print_all(one)
        tests = [j for j in jobs_of(self.shop, timezone.now()) if j.kind == "test"]
        self.assertEqual(tests[1].after, (tests[0].key,))

    def test_a_thirsty_lot_is_printed_within_its_dry_hours(self):
        made = batch(self.user, printed=False)
        made.lot.material.family = "pa12"
        made.lot.material.save()
        run = runs.plan_run(
            self.shop, None, self.user, runs.RunDraft("dry-stock", {"time": "12 h"}, lot=made.lot)
        )
        plates = [j for j in jobs_of(self.shop, timezone.now()) if j.kind == "print"]
        self.assertEqual((plates[0].after, plates[0].gap), ((f"run-{run.pk}-last",), 72 * 60))
        now = MONDAY
        plans.make_plan(self.shop, now)
        table = scheduling_problem(self.shop, now)
        starts = placed_starts(table)
        last = f"run-{run.pk}-last"
        dried = table.moment(starts[last] + table.problem.by_id[last].minutes)
        sheet = sheet_of(self.shop, table, dried, now)
        (wedge,) = next(s for s in sheet.shelves if s.lane.kind == "printer").wedges
        self.assertEqual((wedge.start, wedge.end), (dried, dried + timedelta(hours=72)))
        page = self.client.get(f"/day/?date={dried:%Y-%m-%d}")
        self.assertContains(page, "is dry until")

    def test_a_shelf_filled_by_plates_is_taken_by_whole_plates(self):
        shop = Shop(self.user)
        one = shop.plan(factor("treatment", "as printed", "annealed 95 °C, 2 h"))
        shop.print_all(one)
        made = {"name": "Rack oven", "kind": "oven", "capacity": "6 plates of 8"}
        self.assertEqual(self.client.post("/treatments/vessels/new/", made).status_code, 302)
        rack = Vessel.objects.get(name="Rack oven")
        bars = list(one.specimens.filter(outstanding="treatment"))
        draft = runs.RunDraft("anneal-oven", {"time": "2 h"}, bars, vessel=rack)
        runs.plan_run(self.shop, one, self.user, draft)
        steps = [j for j in jobs_of(self.shop, timezone.now()) if j.kind == "run"]
        self.assertEqual({j.amount for j in steps}, {8})
        self.assertEqual([j.holds for j in steps], [True, True, True, False])
        self.assertContains(self.client.get("/treatments/"), "6 plates of 8")
        refused = self.client.post("/treatments/vessels/new/", {**made, "capacity": "8 l"})
        self.assertContains(refused, "6 plates of 8, or 8 l, 0.25 l each", status_code=422)


class Planned(Days):
    def test_a_plan_keeps_the_rules_and_a_nail(self):
        campaign(self.user)
        one = plans.add_own(self.shop, "Calibrate the frame", "bench", 45)
        now = MONDAY
        plans.make_plan(self.shop, now)
        table = scheduling_problem(self.shop, now)
        starts = placed_starts(table)
        self.assertEqual(set(starts), set(table.jobs))
        self.assertEqual(what_breaks(table, starts), [])
        key = f"own-{one.pk}"
        plans.move(self.shop, key, now + timedelta(hours=5), now)
        plans.make_plan(self.shop, now)
        row = Placement.objects.get(key=key)
        self.assertEqual((row.start, row.pinned), (now + timedelta(hours=5), True))
        plans.take_back_move(self.shop)
        self.assertLess(Placement.objects.get(key=key).start, now + timedelta(hours=5))
        with self.assertRaisesRegex(InputError, "There is no move"):
            plans.take_back_move(self.shop)
        plans.move(self.shop, key, now + timedelta(hours=5), now)
        plans.unpin(self.shop, key)
        plans.make_plan(self.shop, now)
        self.assertLess(Placement.objects.get(key=key).start, now + timedelta(hours=5))

    def test_what_a_move_breaks_is_said_at_once(self):
        first = plans.add_own(self.shop, "First", "bench", 60)
        second = plans.add_own(self.shop, "Second", "bench", 60)
        plans.make_plan(self.shop, MONDAY)
        start = Placement.objects.get(key=f"own-{first.pk}").start
        said = plans.move(self.shop, f"own-{second.pk}", start, MONDAY)
        self.assertEqual(len(said), 1)
        self.assertIn(
            "“Second” and “First” share Bench without a rig",
            said[0].replace("“First” and “Second”", "“Second” and “First”"),
        )
        night = MONDAY + timedelta(hours=14)
        said = plans.move(self.shop, f"own-{second.pk}", night, MONDAY)
        self.assertIn("nobody is", said[0])
        for key, at, sentence in (
            ("nothing-1", night, "no such job"),
            (f"own-{first.pk}", MONDAY - timedelta(days=1), "is over"),
        ):
            with self.assertRaisesRegex(InputError, sentence):
                plans.move(self.shop, key, at, MONDAY)

    def test_a_run_that_is_on_stays_where_it_is(self):
        shop = Shop(self.user)
        one = shop.plan(factor("treatment", "as printed", "annealed 95 °C, 2 h"))
        shop.print_all(one)
        oven = add_vessel(self.shop, "Oven", "oven", "12")
        bars = list(one.specimens.filter(outstanding="treatment"))
        run = runs.plan_run(
            self.shop,
            one,
            self.user,
            runs.RunDraft("anneal-oven", {"time": "2 h"}, bars, vessel=oven),
        )
        now = timezone.now().replace(second=0, microsecond=0)
        for minutes in (-40, -30):
            runs.go_on(run, self.user, now + minutes * MINUTE)
        plans.make_plan(self.shop, now)
        table = scheduling_problem(self.shop, now)
        task = table.problem.by_id[f"run-{run.pk}-1"]
        self.assertEqual((task.pinned, task.minutes, task.attended), (0, 90, False))
        with self.assertRaisesRegex(InputError, "runs already"):
            plans.move(self.shop, task.id, now + timedelta(hours=3), now)

    def test_a_delay_moves_what_comes_after(self):
        first = plans.add_own(self.shop, "Long", "bench", 60, due=MONDAY + timedelta(hours=2))
        plans.add_own(self.shop, "Then", "bench", 30)
        plans.make_plan(self.shop, MONDAY)
        later = MONDAY + timedelta(hours=3)
        found = plans.make_plan(self.shop, later)
        self.assertIn(f"own-{first.pk}", found.late)
        self.assertTrue(all(p.start >= later for p in Placement.objects.all()))

    def test_a_long_set_of_tests_is_begun_in_a_short_spell(self):
        campaign(self.user, replicates=12)
        plans.set_hours(self.shop, "UTC", ["9:00-9:30"] * 7, 1)
        plans.make_plan(self.shop, MONDAY)
        self.assertTrue(Placement.objects.exists())

    def test_a_knot_is_named_in_words(self):
        plans.add_own(self.shop, "A long watch", "bench", 900)
        with self.assertRaisesRegex(InputError, "“A long watch” needs somebody there for 900 min"):
            plans.make_plan(self.shop, MONDAY)


class Zones(Days):
    def test_summer_time_moves_no_reading(self):
        """Europe/Berlin goes to summer time on 29 March 2026 at 2:00; seven days are 604 800 s."""
        one = bench_of(self.user, "creep").specimens.first()
        start = datetime(2026, 3, 25, 9, 0, tzinfo=ZoneInfo("Europe/Berlin"))
        timed.start_clock(turn(one), self.user, start)
        plans.set_hours(self.shop, "Europe/Berlin", ["8:00-18:00"] * 7, 1)
        fixed = [j.fixed for j in jobs_of(self.shop, start) if j.fixed and j.label.endswith("7 d")]
        self.assertEqual((fixed[0] - start.astimezone(UTC)).total_seconds(), 604_800)
        self.assertEqual(fixed[0].astimezone(ZoneInfo("Europe/Berlin")).hour, 10)

    def test_working_hours_follow_the_wall_clock_over_the_change(self):
        plans.set_hours(self.shop, "Europe/Berlin", ["9:00-17:00"] * 7, 1)
        there = spells(hours_of(self.shop), datetime(2026, 3, 28, 0, 0, tzinfo=UTC), 2)
        self.assertEqual([a.astimezone(UTC).hour for a, _ in there[:3]], [8, 7, 7])

    def test_pages_show_the_workshops_zone(self):
        plans.set_hours(self.shop, "Asia/Tokyo", ["9:00-17:00"] * 7, 1)
        page = self.client.get("/day/")
        self.assertContains(page, "Asia/Tokyo (JST)")

    def test_hours_that_cannot_be(self):
        for zone, line, sentence in (
            ("Mars/Olympus", "9-17", "no time zone"),
            ("UTC", "nine to five", "not a time span"),
            ("UTC", "9:00-9:00", "ends when it starts"),
            ("UTC", "9:00-25:00", "not a time span"),
        ):
            with self.subTest(line), self.assertRaisesRegex(InputError, sentence):
                plans.set_hours(self.shop, zone, [line] * 7, 1)
        plans.set_hours(self.shop, "UTC", ["22-6"] + [""] * 6, 1)
        night = spells(hours_of(self.shop), MONDAY, 1)[0]
        self.assertEqual((night[1] - night[0]).total_seconds(), 8 * 3600)


class Pages(Days):
    def test_from_nothing_to_a_plan(self):
        self.assertContains(self.client.get("/day/"), "Nothing is running and nothing is waiting.")
        campaign(self.user)
        self.assertContains(self.client.get("/day/"), "nothing is planned yet")
        self.assertContains(self.client.post("/day/plan/", follow=True), " placed.")
        key = Placement.objects.first().key
        later = (timezone.now() + timedelta(days=2)).replace(hour=10, minute=0)
        moved = self.client.post("/day/move/", {"key": key, "start": later.isoformat()})
        self.assertEqual(moved.json(), {"broken": []})
        self.assertTrue(Placement.objects.get(key=key).pinned)
        saved = self.client.get("/day/savings/")
        self.assertEqual(saved.status_code, 200)
        self.client.post("/day/unpin/", {"key": key})
        self.assertFalse(Placement.objects.get(key=key).pinned)
        for form, sentence in (
            ({"key": key}, "When"),
            ({"key": "x", "start": later.isoformat()}, "no such job"),
        ):
            answer = self.client.post("/day/move/", form)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(sentence, answer.json()["error"])
        for date in ("2026-12-31", "nonsense", "2026-02-30", "0001-01-01"):
            self.assertEqual(self.client.get("/day/", {"date": date}).status_code, 200)

    def test_own_jobs_and_hours_by_their_forms(self):
        good = {"label": "Clean the nozzle", "length": "25 min", "lane": "hands", "attended": "on"}
        self.client.post("/day/own/", good)
        job = OwnJob.objects.get()
        self.assertEqual((job.minutes, job.attended), (25, True))
        for wrong, sentence in (
            ({"label": ""}, "Type a name"),
            ({"length": ""}, "Type the duration"),
            ({"length": "900 d"}, "two weeks"),
            ({"due": "2026-01-01 10:00", "not_before": "2026-01-02 10:00"}, "due before"),
        ):
            with self.subTest(sentence):
                answer = self.client.post("/day/own/", good | wrong)
                self.assertContains(answer, sentence, status_code=422)
        self.client.post(f"/day/own/{job.pk}/done/")
        self.assertNotIn("own", self.kinds())
        week = {f"day-{i}": "9:00-12:00" for i in range(7)}
        self.client.post("/day/hours/", {"zone": "Europe/Berlin", "people": "3", **week})
        self.assertEqual(hours_of(self.shop).people, 3)
        bad = self.client.post(
            "/day/hours/", {"zone": "UTC", "people": "1", **week, "day-2": "soon"}
        )
        self.assertContains(bad, "not a time span", status_code=422)

    def test_what_is_due_is_told_to_every_page(self):
        self.assertEqual(self.client.get("/due/").json()["within"], 0)
        one = bench_of(self.user, "creep").specimens.first()
        timed.start_clock(turn(one), self.user, timezone.now() - timedelta(minutes=58))
        told = self.client.get("/due/").json()
        self.assertEqual((told["late"], told["within"]), (1, 2))
        self.assertIn(one.code, told["next"][0]["label"])
        page = words(self.client.get("/day/"))
        self.assertRegex(page, rf"(window, )?“{one.code} .+” is .+ late[.,]")
        self.assertNotIn("Nothing is late", page)

    def test_a_calendar_a_parser_reads_and_an_address_that_can_be_revoked(self):
        one = bench_of(self.user, "creep").specimens.first()
        timed.start_clock(turn(one), self.user, timezone.now())
        plans.add_own(self.shop, "Übung; mit, Zeichen \\ und 你好", "hands", 30)
        plans.make_plan(self.shop, timezone.now())
        file = self.client.get("/day/brunt.ics")
        events = Calendar.from_ical(file.content).walk("VEVENT")
        self.assertIn("Übung; mit, Zeichen \\ und 你好", [str(e["SUMMARY"]) for e in events])
        day = next(e for e in events if str(e["SUMMARY"]).endswith("1 d"))
        wait = day.decoded("DTSTART") - timezone.now()
        self.assertAlmostEqual(wait.total_seconds(), 86400, delta=60)
        self.client.post("/day/feed/")
        address = f"/calendar/{Feed.objects.get().token}.ics"
        self.client.logout()
        self.assertEqual(self.client.get(address).status_code, 200)
        self.client.force_login(self.user, backend="brunt_web.people.backend.SeatBackend")
        self.client.post("/day/feed/off/")
        self.assertEqual(self.client.get(address).status_code, 404)
        self.assertEqual(self.client.get("/calendar/guess.ics").status_code, 404)

    def test_another_workshops_day_is_its_own(self):
        campaign(person("stranger"))
        self.assertContains(self.client.get("/day/"), "nothing is waiting")


class Weighed(Days):
    def test_a_weighing_is_due_every_two_hours_then_daily(self):
        shop = Shop(self.user)
        one = shop.plan(factor("treatment", "as printed", "hot water 80 °C, 45 min"))
        shop.print_all(one)
        bars = list(one.specimens.filter(outstanding="treatment"))
        draft = runs.RunDraft("anneal-water", {}, bars, accepted="a trial")
        run = runs.plan_run(self.shop, one, self.user, draft)
        start = timezone.now() - timedelta(days=2)
        for minutes in (0, 10, 40, 85, 100):
            runs.go_on(run, self.user, start + minutes * MINUTE)

        def due():
            return next(j.fixed for j in jobs_of(self.shop, timezone.now()) if j.kind == "weigh")

        out = start + 100 * MINUTE
        self.assertEqual(due(), out + timedelta(hours=2))
        for hours in (2, 20):
            measure(bars[0], self.user, out + timedelta(hours=hours), {"mass": "1.28"}, "weighed")
        self.assertEqual(due(), out + timedelta(hours=44))
        self.assertIn("weigh run", words(self.client.get("/day/")))
