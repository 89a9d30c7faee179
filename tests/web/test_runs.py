"""Treatment runs: planned, pressed through, logged, taken out of, stopped; what the history keeps."""

from dataclasses import replace
from datetime import timedelta
from unittest import mock

from django.utils import timezone

from brunt_core.errors import InputError
from brunt_core.treatments.diffusion import uptake
from brunt_web.campaigns.actions.make import take_out as take_out_of_state
from brunt_web.campaigns.history import outstanding_words
from brunt_web.campaigns.models import HistoryEvent, Specimen, Turn
from brunt_web.campaigns.queries import next_up, ready
from brunt_web.days.jobs import jobs_of
from brunt_web.library.models import Drying
from brunt_web.testing.actions.record_test import measure
from brunt_web.testing.marks import marks_at, marks_of
from brunt_web.treatments.actions import logs, runs, taking_out
from brunt_web.treatments.actions.library import add_own_kind, add_vessel
from brunt_web.treatments.models import Inside, OwnKind, Run, Vessel
from brunt_web.treatments.run_view import view_of
from tests.support.plans import Shop, factor, of_materials
from tests.support.printing import batch
from tests.support.reading import words
from tests.support.workshop import NOW, entry, person, put
from tests.web.test_history import DAY, Histories

STEP = "annealed 95 °C, 2 h"
MINUTE = timedelta(minutes=1)


class Treated(Histories):
    """A plan with an annealed level, all printed."""

    def setUp(self):
        super().setUp()
        self.shop = Shop(self.user)
        self.one = self.shop.plan(factor("treatment", "as printed", STEP))
        self.shop.print_all(self.one)
        self.bars = list(self.one.specimens.filter(outstanding="treatment").order_by("pk"))
        self.start = timezone.now() - DAY

    def draft(self, kind="anneal-oven", bars=None, **more):
        texts = more.pop("texts", {"temperature": "95 °C", "time": "2 h", "held": "held flat"})
        return runs.RunDraft(
            kind_key=kind,
            texts=texts,
            specimens=self.bars if bars is None else bars,
            what=more.pop("what", STEP),
            event="treated",
            **more,
        )

    def run_of(self, **more) -> Run:
        return runs.plan_run(self.user.seat.workshop, self.one, self.user, self.draft(**more))

    def through(self, run: Run, *minutes: float) -> None:
        """Press it on at these minutes from the start."""
        for m in minutes:
            runs.go_on(run, self.user, self.start + m * MINUTE)


class Going(Treated):
    def test_from_plan_to_history(self):
        run = self.run_of()
        self.assertEqual([s.seconds for s in run.steps.all()][1], 7200)
        self.through(run, 0, 10, 130, 250, 260)
        run.refresh_from_db()
        self.assertEqual(run.state, "done")
        for bar in self.bars:
            bar.refresh_from_db()
            self.assertEqual((bar.outstanding, bar.treated), ("", True))
            event = HistoryEvent.objects.get(specimen=bar, kind="treated")
            self.assertIn(f"run {run.number}", event.what)
            self.assertEqual(event.at, self.start + 260 * MINUTE)
        kept = [(s.started_at, s.ended_at) for s in run.steps.all()]
        self.assertEqual(kept[1], (self.start + 10 * MINUTE, self.start + 130 * MINUTE))
        with self.assertRaisesRegex(InputError, "is over"):
            self.through(run, 300)

    def test_each_press_is_taken_back(self):
        run = self.run_of()
        self.through(run, 0, 10, 130, 250, 260)
        now = self.start + 270 * MINUTE
        runs.step_back(run, self.user, now)
        self.assertEqual(Specimen.objects.filter(outstanding="treatment").count(), len(self.bars))
        for _ in range(4):
            runs.step_back(run, self.user, now)
        run.refresh_from_db()
        self.assertEqual((run.state, run.started_at), ("planned", None))
        with self.assertRaisesRegex(InputError, "Nothing has started"):
            runs.step_back(run, self.user, now)
        self.through(run, 0, 10, 130, 250, 260)
        self.assertEqual(Specimen.objects.filter(outstanding="treatment").count(), 0)

    def test_a_step_cannot_end_before_it_began_nor_before_printing(self):
        run = self.run_of()
        self.through(run, 60)
        with self.assertRaisesRegex(InputError, "cannot have ended before"):
            self.through(run, 30)
        runs.step_back(run, self.user, self.start)
        with self.assertRaisesRegex(InputError, "cannot have been before"):
            runs.go_on(run, self.user, self.start - 4000 * DAY)

    def test_not_in_two_runs_nor_twice_nor_too_many(self):
        run = self.run_of()
        with self.assertRaisesRegex(InputError, rf"lies in run {run.number}"):
            self.run_of()
        self.through(run, 0, 10, 130, 250, 260)
        with self.assertRaisesRegex(InputError, "had “annealed 95 °C, 2 h” already"):
            self.run_of()
        self.assertTrue(self.run_of(again="the oven was cold").number > run.number)
        tin = add_vessel(self.user.seat.workshop, "Tin", "oven", "1")
        with self.assertRaisesRegex(InputError, "Tin takes 1; 2 are ticked"):
            self.run_of(vessel=tin, again="x")
        with self.assertRaisesRegex(InputError, "Tick the specimens"):
            self.run_of(bars=[])

    def test_what_does_not_suit_is_said_and_may_be_done_with_a_reason(self):
        texts = {"solvent": "acetone", "time": "15 min"}
        with self.assertRaisesRegex(InputError, "does not dissolve PLA"):
            self.run_of(kind="vapour", texts=texts)
        run = self.run_of(kind="vapour", texts=texts, accepted="to show that it does nothing")
        self.assertEqual(run.accepted, "to show that it does nothing")
        with self.assertRaisesRegex(InputError, "missing|start with a number"):
            self.run_of(kind="anneal-oven", texts={"temperature": "hot"})

    def test_broken_off_frees_what_is_in_it(self):
        run = self.run_of()
        self.through(run, 0)
        with self.assertRaisesRegex(InputError, "Give a reason"):
            runs.abort_run(run, self.user, self.start, " ")
        runs.abort_run(run, self.user, self.start + MINUTE, "power cut")
        self.assertEqual(HistoryEvent.objects.filter(kind="out_of_run").count(), len(self.bars))
        self.assertEqual(Specimen.objects.filter(outstanding="treatment").count(), len(self.bars))
        self.assertTrue(self.run_of())


class InStep(Treated):
    """Runs, tests and other runs that reach for the same specimen."""

    def done(self) -> Run:
        run = self.run_of()
        self.through(run, 0, 10, 130, 250, 260)
        return run

    def test_what_lies_in_the_oven_is_not_tested_without_a_reason(self):
        run = self.done()
        self.assertEqual(next_up(self.one).specimen.pk, self.first_waiting().specimen_id)
        again = self.run_of(again="the oven was cold")
        self.through(again, 300)
        bar = self.bars[0]
        with self.assertRaisesRegex(InputError, rf"lies in run {run.number + 1} \(annealed"):
            put(bar, self.user, entry())
        page = self.client.get(f"/specimens/{bar.code}/bench/")
        self.assertContains(page, "take it out first")
        self.assertNotIn(next_up(self.one).specimen, self.bars)
        put(bar, self.user, entry(untimely="it was seen to crack"))
        self.through(again, 310, 430, 550, 560)
        row = Inside.objects.get(run=again, specimen=bar)
        self.assertEqual((row.fate, row.reason), ("other", "tested while the run was on"))
        events = HistoryEvent.objects.filter(kind="treated")
        self.assertEqual(events.filter(specimen=bar).count(), 1)
        self.assertEqual(events.filter(specimen=self.bars[1]).count(), 2)

    def first_waiting(self):
        return ready(self.one).first()

    def test_a_weighing_may_be_taken_from_what_lies_in(self):
        run = self.run_of(again="x")
        self.through(run, 0)
        turn = Turn.objects.select_related("specimen", "procedure").get(specimen=self.bars[0])
        turn.procedure.destroys = False
        self.assertNotIn("lies in run", outstanding_words(turn, timezone.now()))
        turn.procedure.destroys = True
        self.assertIn("lies in run", outstanding_words(turn, timezone.now()))

    def test_what_holds_a_specimen_is_told_both_ways(self):
        def held():
            rows = Specimen.objects.filter(pk__in=[b.pk for b in self.bars]).order_by("pk")
            return [s.lies_in for s in rows]

        run = self.run_of()
        words = f"run {run.number} ({STEP})"
        self.assertEqual(held(), ["", ""])
        self.through(run, 0)
        self.assertEqual(held(), [words, words])
        row = Inside.objects.get(run=run, specimen=self.bars[0])
        taking_out.take_out_of_run(row, self.user, self.start + MINUTE, "other", "a look")
        self.assertEqual(held(), ["", words])
        taking_out.undo_taking_out(row, self.user, self.start + MINUTE)
        self.assertEqual(held(), [words, words])
        runs.step_back(run, self.user, self.start + MINUTE)
        self.assertEqual(held(), ["", ""])
        self.through(run, 0, 10, 130, 250, 260)
        self.assertEqual(held(), ["", ""])
        runs.step_back(run, self.user, self.start + 270 * MINUTE)
        self.assertEqual(held(), [words, words])
        runs.abort_run(run, self.user, self.start + 280 * MINUTE, "power cut")
        self.assertEqual(held(), ["", ""])

    def test_an_end_that_was_built_on_is_not_taken_back(self):
        run = self.done()
        other = self.run_of(again="once more")
        with self.assertRaisesRegex(InputError, f"lies in run {other.number} now"):
            runs.step_back(run, self.user, self.start + 270 * MINUTE)
        run.refresh_from_db()
        self.assertEqual(run.state, "done")
        runs.abort_run(other, self.user, self.start + 280 * MINUTE, "not needed")
        put(self.bars[0], self.user, replace(entry(), at=timezone.now()))
        with self.assertRaisesRegex(InputError, "tested after this run ended"):
            runs.step_back(run, self.user, timezone.now())
        self.assertEqual(Specimen.objects.filter(treated=True).count(), len(self.bars))

    def test_spent_or_failed_between_plan_and_start(self):
        run = self.run_of()
        put(self.bars[0], self.user, entry(untimely="no time"))
        with self.assertRaisesRegex(InputError, "was destroyed by a test since this was planned"):
            self.through(run, 0)
        row = Inside.objects.get(run=run, specimen=self.bars[0])
        taking_out.take_out_of_run(row, self.user, self.start, "other", "it is tested")
        self.through(run, 0)
        with self.assertRaisesRegex(InputError, "destroyed by a test since"):
            taking_out.undo_taking_out(row, self.user, self.start)

    def test_put_back_only_where_it_is_free(self):
        run = self.run_of()
        self.through(run, 0)
        row = Inside.objects.get(run=run, specimen=self.bars[0])
        taking_out.take_out_of_run(row, self.user, self.start + MINUTE, "other", "for another oven")
        other = self.run_of(bars=self.bars[:1])
        with self.assertRaisesRegex(InputError, f"lies in run {other.number} now"):
            taking_out.undo_taking_out(row, self.user, self.start + 2 * MINUTE)
        row.refresh_from_db()
        self.assertTrue(row.out_at)


class TakenOut(Treated):
    def out(self, run, fate, reason="stuck to its neighbour", control=None, minute=20.0):
        row = Inside.objects.get(run=run, specimen=self.bars[0])
        return taking_out.take_out_of_run(
            row, self.user, self.start + minute * MINUTE, fate, reason, control
        )

    def test_one_lost_is_failed_and_the_rest_are_treated(self):
        run = self.run_of()
        self.through(run, 0, 10)
        with self.assertRaisesRegex(InputError, "Give a reason"):
            self.out(run, "lost", " ")
        self.out(run, "lost")
        with self.assertRaisesRegex(InputError, "out already"):
            self.out(run, "lost")
        self.through(run, 130, 250, 260)
        lost, kept = (Specimen.objects.get(pk=b.pk) for b in self.bars)
        self.assertEqual((lost.made, lost.treated), ("failed", False))
        self.assertEqual((kept.made, kept.treated), ("made", True))

    def test_another_is_printed_in_its_place(self):
        run = self.run_of()
        self.through(run, 0)
        self.out(run, "reprint", minute=1)
        more = Specimen.objects.get(replaces=self.bars[0])
        self.assertEqual((more.made, more.condition), ("planned", self.bars[0].condition))

    def test_a_slip_is_put_back(self):
        run = self.run_of()
        self.through(run, 0)
        row = self.out(run, "lost", minute=1)
        taking_out.undo_taking_out(row, self.user, self.start + 2 * MINUTE)
        bar = Specimen.objects.get(pk=self.bars[0].pk)
        self.assertEqual(bar.made, "made")
        self.through(run, 10, 130, 250, 260)
        self.assertTrue(Specimen.objects.get(pk=bar.pk).treated)

    def test_a_control_only_while_it_is_cool(self):
        run = self.run_of()
        control = self.one.conditions.exclude(pk=self.bars[0].condition_id).first()
        self.through(run, 0)
        logs.add_reading(run, self.user, self.start + 5 * MINUTE, "oven", "41 °C")
        with self.assertRaisesRegex(InputError, "Choose the condition"):
            self.out(run, "control")
        self.out(run, "control", control=control, minute=6)
        self.assertEqual(Specimen.objects.get(pk=self.bars[0].pk).condition, control)
        logs.add_reading(run, self.user, self.start + 15 * MINUTE, "oven", "88 °C")
        row = Inside.objects.get(run=run, specimen=self.bars[1])
        with self.assertRaisesRegex(InputError, "above 60 °C"):
            taking_out.take_out_of_run(
                row, self.user, self.start + 16 * MINUTE, "control", "slip", control
            )


class Logged(Treated):
    def remelt(self) -> Run:
        run = self.run_of(
            kind="remelt",
            texts={"temperature": "190 °C", "gap": "10"},
            accepted="the bars are solid enough",
        )
        self.through(run, 0, 20)
        return Run.objects.get(pk=run.pk)

    def test_the_core_is_foreseen_and_reached(self):
        run = self.remelt()
        now = self.start + 100 * MINUTE
        view = view_of(run, now)
        self.assertIn("Too few", view.problem)
        text = "time min,core\n0,22\n30,31\n45,80.1\n60,117.4\n75,141\n90,157.5\n"
        count, _ = logs.bring_log(run, self.user, text)
        self.assertEqual(count, 6)
        view = view_of(run, now)
        minutes = (view.strip.at - self.start).total_seconds() / 60
        self.assertAlmostEqual(minutes, 133.4, delta=0.5)
        low, high = view.strip.between
        self.assertTrue(low < view.strip.at < high)
        self.assertTrue(view.chart.forecast and view.chart.gaps)
        names = {t.key: t for t in view.chart.traces}
        last = names["core"].points[-1]
        self.assertLess(names["core"].name_at[0], last[0])
        self.assertEqual(len(view.pack.lines), 3)
        self.assertLess(view.pack.bars[0].celsius, 190)
        logs.add_reading(run, self.user, self.start + 140 * MINUTE, "core", "182 °C")
        view = view_of(run, self.start + 141 * MINUTE)
        self.assertTrue(view.forecast.reached)
        self.assertEqual([c.state for c in view.checks if c.label == "Core"], ["yes"])

    def test_readings_that_cannot_be(self):
        run = self.remelt()
        for what, text, minute, sentence in (
            ("core", "hot", 30, "does not start"),
            ("core", "900 °C", 30, "no temperature of an oven"),
            ("humidity", "140 %", 30, "between 0 and 100"),
            ("wind", "3", 30, "Choose what was read"),
            ("core", "30 °C", -5, "before the run started"),
        ):
            with self.subTest(text), self.assertRaisesRegex(InputError, sentence):
                logs.add_reading(run, self.user, self.start + minute * MINUTE, what, text)
        logs.add_reading(run, self.user, self.start + 30 * MINUTE, "core", "30 °C")
        logs.add_reading(run, self.user, self.start + 30 * MINUTE, "core", "30 °C")
        with self.assertRaisesRegex(InputError, "already"):
            logs.add_reading(run, self.user, self.start + 30 * MINUTE, "core", "31 °C")
        with self.assertRaisesRegex(InputError, "no column"):
            logs.bring_log(run, self.user, "a,b\n1,2\n")
        self.assertEqual(run.log.count(), 1)


class Pages(Treated):
    def post(self, run, press, /, **form):
        return self.client.post(f"/runs/{run.number}/{press}/", form)

    def test_from_the_station_to_the_end(self):
        station = self.client.get(f"/campaigns/{self.one.pk}/treat/")
        self.assertContains(station, "Start a run of 2")
        address = f"/campaigns/{self.one.pk}/treat/new/"
        form = self.client.get(address, {"step": STEP, "event": "treated"})
        self.assertContains(form, "95.0 °C")
        told = {
            "step": STEP,
            "event": "treated",
            "kind": "anneal-oven",
            "what": STEP,
            "p-temperature": "95 °C",
            "p-time": "2 h",
            "p-held": "free",
            "specimens": [b.code for b in self.bars],
        }
        refused = self.client.post(address, {**told, "p-time": "long"})
        self.assertContains(refused, "does not start", status_code=422)
        self.client.post(address, told)
        run = Run.objects.get()
        page = self.client.get(f"/runs/{run.number}/")
        self.assertContains(page, "Put in cold")
        for _ in range(5):
            self.post(run, "on")
        self.assertIn("Done", words(self.client.get(f"/runs/{run.number}/")))
        self.assertEqual(Specimen.objects.filter(treated=True).count(), 2)
        self.post(run, "back")
        self.assertEqual(Specimen.objects.filter(treated=True).count(), 0)

    def test_two_who_press_at_once_go_on_once(self):
        run = self.run_of()
        self.assertEqual(self.post(run, "on", seen="-1").status_code, 302)
        again = self.post(run, "on", seen="-1")
        self.assertContains(again, "It has gone on already", status_code=422)
        self.assertEqual(run.steps.filter(started_at__isnull=False).count(), 1)
        self.assertContains(self.client.get(f"/runs/{run.number}/"), 'value="0">')

    def test_refusals_stand_on_the_page(self):
        run = self.run_of()
        self.post(run, "on")
        for what, form, sentence in (
            ("read", {"what": "oven", "text": "warm"}, "does not start"),
            ("read", {"what": "oven", "text": "90", "at": "2999-01-01 10:00"}, "in the future"),
            (
                "out",
                {"specimen": "0", "fate": "lost", "reason": "x"},
                "neither a number nor an ID",
            ),
            ("out", {"specimen": "1", "fate": "eaten", "reason": "x"}, "what happens to it"),
            ("log", {}, "Paste a log"),
            ("stop", {"note": ""}, "Give a reason"),
        ):
            with self.subTest(sentence):
                self.assertContains(self.post(run, what, **form), sentence, status_code=422)
        self.assertRedirects(
            self.post(run, "out", specimen="1", fate="other", reason="for a bend"),
            f"/runs/{run.number}/",
        )
        self.post(run, "in", specimen="1")
        self.assertIsNone(Inside.objects.get(run=run, place=1).out_at)

    def test_the_thermometer_reads_a_minute_apart(self):
        oven = add_vessel(self.user.seat.workshop, "Oven", "oven", "12", 1500, "simulated")
        run = self.run_of(vessel=oven)
        self.assertFalse(self.post(run, "live").json()["fresh"])
        runs.go_on(run, self.user, timezone.now())
        self.assertTrue(self.post(run, "live").json()["fresh"])
        self.assertFalse(self.post(run, "live").json()["fresh"])
        self.assertEqual(run.log.get().source, "thermometer")

    def test_of_another_workshop(self):
        run = self.run_of()
        self.client.force_login(person("stranger"), backend="brunt_web.people.backend.SeatBackend")
        self.assertEqual(self.client.get(f"/runs/{run.number}/").status_code, 404)
        self.assertEqual(self.post(run, "on").status_code, 404)


class Library(Histories):
    def test_vessels_and_kinds_of_ones_own(self):
        made = {"name": "Oven 2", "kind": "oven", "capacity": "8", "watts": "1800"}
        self.client.post("/treatments/vessels/new/", made)
        self.assertEqual(Vessel.objects.get().capacity, 8)
        again = self.client.post("/treatments/vessels/new/", made)
        self.assertContains(again, "already", status_code=422)
        steps = "Put in\nTumble: 30 min\nStand until steady: settled\nTake out"
        self.client.post(
            "/treatments/kinds/new/", {"name": "Tumble", "event": "treated", "steps": steps}
        )
        kind = OwnKind.objects.get().kind
        self.assertEqual([s.ends for s in kind.steps], ["key", "time", "settled", "key"])
        self.assertContains(self.client.get("/treatments/"), "Tumble")
        for wrong, sentence in (("Tumble: long", "does not start"), ("", "one step at least")):
            answer = self.client.post(
                "/treatments/kinds/new/", {"name": "B", "event": "treated", "steps": wrong}
            )
            self.assertContains(answer, sentence, status_code=422)
        with self.assertRaisesRegex(InputError, "already"):
            add_own_kind(self.user.seat.workshop, "Tumble", "treated", "x")

    def test_a_lot_is_dried_by_a_run(self):
        made = batch(self.user)
        lot = made.lot
        answer = self.client.post(
            "/treatments/dry/", {"lot": lot.pk, "p-temperature": "70 °C", "p-time": "12 h"}
        )
        run = Run.objects.get()
        self.assertRedirects(answer, f"/runs/{run.number}/")
        start = timezone.now() - DAY
        for minutes in (0, 5, 725):
            runs.go_on(run, self.user, start + minutes * MINUTE)
        for minutes, mass in ((1, "1042 g"), (726, "1038.5 g")):
            logs.add_reading(run, self.user, start + minutes * MINUTE, "mass", mass)
        for mass, sentence in (
            ("700 g", "more than any filament"),
            ("1100 g", "heavier"),
            ("0 g", "zero"),
        ):
            with self.assertRaisesRegex(InputError, sentence):
                logs.add_reading(run, self.user, start + 727 * MINUTE, "mass", mass)
        runs.go_on(run, self.user, start + 730 * MINUTE)
        dried = Drying.objects.get(lot=lot)
        self.assertAlmostEqual(dried.duration, 720 * 60)
        self.assertAlmostEqual(dried.temperature, 343.15)
        self.assertAlmostEqual(dried.before - dried.after, 0.0035)
        self.assertContains(self.client.get(f"/runs/{run.number}/"), "Done")


class BeforeAndAfter(Treated):
    """Sizes, water and strength of treated bars beside their controls, over the pages."""

    def setUp(self):
        super().setUp()
        self.plain = list(self.one.specimens.exclude(pk__in=[b.pk for b in self.bars]))
        self.run = self.run_of()

    def size(self, bar, minutes, name, **texts):
        measure(bar, self.user, self.start + minutes * MINUTE, texts, name)

    def treat(self):
        for i, bar in enumerate(self.bars):
            self.size(bar, -60, "as made", length=f"{75 + i / 10}", width="5", thickness="2")
        self.through(self.run, 0, 10, 130, 250, 260)
        for i, bar in enumerate(self.bars):
            after = {"length": f"{(75 + i / 10) * 0.98:.3f}", "width": "4.95", "thickness": "2.06"}
            self.size(bar, 270, "after", **after, bow="0.9" if i else "0")

    def page(self, **query):
        return self.client.get(f"/campaigns/{self.one.pk}/treat/change/", query)

    def test_changes_factors_and_the_bow_limit(self):
        self.treat()
        page = self.page()
        (change,) = page.context["changes"]
        means = {a.change.axis: round(a.change.mean, 4) for a in change.axes}
        self.assertEqual(means, {"x": -0.02, "y": -0.01, "z": 0.03})
        self.assertIn("x 1.0204", change.factors)
        doubtful = [r.specimen.code for r in change.rows if r.distortion.doubtful]
        self.assertEqual(doubtful, [self.bars[1].code])
        self.assertContains(page, "its strength is doubtful")
        self.assertContains(self.page(times="32"), "change ×  32")
        self.assertContains(self.page(times="5000", what="nothing"), "change ×  8")

    def test_water_from_both_sides_and_when_to_weigh(self):
        self.treat()
        for bar, begin, end in ((self.bars[0], 0.012, 0.004), (self.plain[0], 0.0, 0.004)):
            self.size(bar, -50, "as made", mass="1.2800")
            for hours in (0, 3, 8, 14, 17, 19):
                share = begin + (end - begin) * float(uptake(4e-6 * hours * 3600))
                self.size(bar, 140 + 60 * hours, "weighed", mass=f"{1.28 * (1 + share):.4f}")
        water = self.page().context["water"]
        self.assertEqual([c.name for c in water.curves], ["treated", "control"])
        self.assertEqual([len(c.points) for c in water.curves], [6, 6])
        self.assertTrue(water.curves[0].fit and water.met_when)
        self.assertLess(water.apart, 0.1)
        self.assertTrue(water.next_weighing)

    def test_shares_are_of_the_dry_mass_where_it_is_known(self):
        self.treat()
        bar = self.bars[0]
        self.size(bar, -90, "dry", mass="1.2700")
        self.size(bar, -80, "as made", mass="1.2800")
        for hours in (0, 4, 8):
            self.size(bar, 140 + 60 * hours, "weighed", mass="1.2827")
        curve = self.page().context["water"].curves[0]
        self.assertIn("+1.000 %", curve.points[0][2])

    def test_an_unchanged_mass_is_a_weighing_of_its_own(self):
        bar = self.bars[0]
        for hours in (0, 2, 4):
            self.size(bar, 60 * hours, "weighed", mass="1.2800")
        self.size(bar, 241, "weighed", mass="1.2801")
        masses = [m.text for m in marks_at([bar])[bar.pk] if m.key == "mass"]
        self.assertEqual(masses, ["1.2800", "1.2800", "1.2801"])

    def test_effect_with_its_verdict_and_price(self):
        self.treat()
        loads = {"treated": ("600 N", "610 N"), "plain": ("500 N", "505 N")}
        for bars, texts in ((self.bars, loads["treated"]), (self.plain, loads["plain"])):
            for bar, load in zip(bars, texts, strict=True):
                put(bar, self.user, entry(load))
        effect = self.page().context["effect"]
        (row,) = effect.rows
        self.assertAlmostEqual(row.effect.ratio.value, 605 / 502.5, places=3)
        self.assertIn("higher by", row.effect.words)
        self.assertIn("Better in tension, flat", effect.sentence)
        self.assertEqual((effect.price.lost, effect.price.of), (0, 2))
        self.assertIn("4.3 h", effect.price.hours)

    def test_rows_are_measured_and_weighed_by_keyboard(self):
        code = self.bars[0].code
        base = f"/runs/{self.run.number}/"
        self.assertContains(self.client.get(base + "measure/"), f"before run {self.run.number}")
        good = self.client.post(base + f"measure/{code}/", {"length": "75.1", "bow": "0"})
        self.assertEqual(good.json(), {"deviations": {}, "flags": []})
        bad = self.client.post(base + f"measure/{code}/", {"length": "long"})
        self.assertEqual((bad.status_code, bad.json()["field"]), (422, "length"))
        self.assertEqual(self.client.post(base + "measure/ZZ-ZZZ/", {}).status_code, 404)
        self.through(self.run, 0)
        self.assertContains(self.client.get(base + "weigh/"), self.plain[0].code)
        self.client.post(base + f"weigh/{self.plain[0].code}/", {"mass": "1.2801 g"})
        self.assertEqual(marks_of(self.plain[0])["mass"].moment.detail["moment"], "weighed")

    def test_empty_it_says_what_to_do(self):
        self.assertContains(self.page(), "No specimen has had this treatment yet")


class StateAtTest(Histories):
    """What happened before a test goes with it, whatever was planned."""

    def test_minutes_out_of_the_freezer_are_said(self):
        shop = Shop(self.user)
        one = shop.plan(factor("condition", "room", "−18 °C"))
        shop.print_all(one)
        cold = list(one.specimens.filter(outstanding="state").order_by("pk"))
        start = NOW + 2 * DAY
        draft = runs.RunDraft("freeze", {}, cold, what="−18 °C", event="conditioned")
        run = runs.plan_run(self.user.seat.workshop, one, self.user, draft)
        for hours in (0, 1, 30):
            runs.go_on(run, self.user, start + hours * 60 * MINUTE)
        out = start + 31 * 60 * MINUTE
        take_out_of_state(cold, self.user, out)
        put(cold[0], self.user, replace(entry("480 N"), at=out + MINUTE))
        put(cold[1], self.user, replace(entry("500 N"), at=out + 40 * MINUTE))
        told = Turn.objects.get(specimen=cold[1]).tested_as.state
        self.assertEqual((told.conditioned, told.out), ("−18 °C", 2400.0))
        page = words(self.client.get(f"/campaigns/{one.pk}/compare/"))
        self.assertIn(f"{cold[1].code} was tested up to 40 min out of “−18 °C”", page)
        self.assertNotIn(f"{cold[0].code} was tested up to", page)
        history_page = words(self.client.get(f"/specimens/{cold[1].code}/"))
        self.assertIn("State: −18 °C", history_page)

    def test_an_unplanned_state_is_never_ranked_silently(self):
        shop = Shop(self.user)
        one = shop.plan(of_materials(shop.pla, shop.petg))
        shop.print_all(one)
        dried = list(one.specimens.filter(condition__label=shop.pla.name))
        draft = runs.RunDraft("acclimatised", {"time": "1 d"}, dried, what="acclimatised 90 d")
        run = runs.plan_run(self.user.seat.workshop, one, self.user, draft)
        for hours in (0, 1, 30):
            runs.go_on(run, self.user, NOW + 2 * DAY + hours * 60 * MINUTE)
        for bar in one.specimens.all():
            put(bar, self.user, replace(entry("500 N"), at=NOW + 5 * DAY))
        page = words(self.client.get(f"/campaigns/{one.pk}/compare/"))
        self.assertIn("not tested alike", page)
        self.assertIn("acclimatised 90 d", page)


class Bent(Treated):
    def test_a_bowed_bar_is_doubtful_on_compare(self):
        plain = self.one.specimens.exclude(pk__in=[b.pk for b in self.bars]).first()
        measure(plain, self.user, NOW + DAY, {"length": "75", "bow": "0.9"}, "before test")
        put(plain, self.user, replace(entry("500 N"), at=NOW + 2 * DAY))
        page = words(self.client.get(f"/campaigns/{self.one.pk}/compare/"))
        self.assertIn(f"{plain.code} was bowed by 1.2 % of its length", page)


class Nonsense(Treated):
    def test_nothing_breaks_a_page(self):
        run = self.run_of()
        self.through(run, 0)
        base, treat = f"/runs/{run.number}/", f"/campaigns/{self.one.pk}/treat/"
        wild = ("\x00", "²", "9" * 400, "-1", "نصّ 中文 <script>", "1e999", "' or 1=1 --")
        for text in wild:
            for address, form in (
                (base + "on/", {"at": text}),
                (base + "read/", {"what": text, "text": text, "at": text}),
                (base + "read/", {"what": "core", "text": text}),
                (base + "log/", {"text": f"time,core\n{text},{text}\n"}),
                (base + "out/", {"specimen": text, "fate": text, "reason": text, "control": text}),
                (base + "in/", {"specimen": text}),
                (base + "stop/", {"note": ""}),
                (treat + "new/", {"kind": text, "step": text, "event": text, "specimens": text}),
                (
                    treat + "new/",
                    {"kind": "remelt", "p-temperature": text, "specimens": self.bars[0].code},
                ),
                ("/treatments/vessels/new/", {"name": text, "kind": text, "capacity": text}),
                (
                    "/treatments/kinds/new/",
                    {"name": text, "event": text, "steps": f"{text}: {text}"},
                ),
                ("/treatments/dry/", {"lot": text, "p-time": text}),
                ("/day/move/", {"key": text, "start": text}),
                ("/day/unpin/", {"key": text}),
                ("/day/own/", {"label": text, "length": text, "lane": text, "due": text}),
                ("/day/hours/", {"zone": text, "people": text, "day-0": text}),
                ("/feedstock/new/", {"name": text, "kind": text, "material": text, "lot": text}),
            ):
                with self.subTest(address, text=text[:9]):
                    self.assertLess(self.client.post(address, form).status_code, 500)
            for address in (treat + "change/", treat + "new/", "/day/"):
                query = {"what": text, "times": text, "date": text, "step": text, "kind": text}
                self.assertLess(self.client.get(address, query).status_code, 500)
        for address in ("/calendar/%00.ics", base + "measure/%00/", "/runs/99999999999/"):
            self.assertLess(self.client.get(address).status_code, 500)
        self.assertTrue(
            all(b.made == "made" for b in Specimen.objects.filter(pk__in=[b.pk for b in self.bars]))
        )


class Exposed(Histories):
    def test_a_trend_over_weeks_and_when_to_look_again(self):
        shop = Shop(self.user)
        one = shop.plan(factor("age", "fresh", "4 weeks outdoors", "8 weeks outdoors"), n=3)
        shop.print_all(one)
        loads = {"fresh": 500, "4 weeks outdoors": 460, "8 weeks outdoors": 420}
        for bar in one.specimens.select_related("condition"):
            level = next(v for v in bar.condition.level_words.values())
            load = loads[level] + 4 * bar.replicate
            weeks = {"f": 0, "4": 28, "8": 56}[level[0]]
            put(bar, self.user, replace(entry(f"{load} N"), at=NOW + (weeks + 1) * DAY))
        page = self.client.get(f"/campaigns/{one.pk}/treat/change/")
        (drawn,) = page.context["ageing"]
        (course,) = drawn.courses
        self.assertEqual((course.name, len(course.dots)), ("outdoors", 9))
        self.assertAlmostEqual(course.found.weekly, -10 / 508, places=3)
        self.assertIn("It loses 2.0 % a week", words(page))
        draft = runs.RunDraft("exposure", {"time": "28 d", "inspect": "7 d"})
        more = shop.plan(factor("treatment", "as printed", "outdoors 4 weeks"))
        shop.print_all(more)
        bars = list(more.specimens.filter(outstanding="treatment"))
        run = runs.plan_run(
            self.user.seat.workshop, more, self.user, replace(draft, specimens=bars)
        )
        start = timezone.now() - 3 * DAY
        for minutes in (0, 10):
            runs.go_on(run, self.user, start + minutes * MINUTE)
        look = next(j for j in jobs_of(self.user.seat.workshop, timezone.now()) if j.kind == "look")
        self.assertEqual(look.fixed, start + 10 * MINUTE + 7 * DAY)
        base, bar = f"/runs/{run.number}/look/", bars[0]
        self.assertEqual(look.url, base)
        self.assertContains(self.client.get(base), "sag unloaded")
        for typed, sentence in (
            ({"grey_scale": "6"}, "from 5, no change, to 1"),
            ({"grey_scale": "4.2"}, "in halves"),
            ({"sag_loaded": "1", "sag_unloaded": "2"}, "more without its load"),
            ({"sag_loaded": "-1"}, "cannot be less than zero"),
        ):
            answer = self.client.post(f"{base}{bar.code}/", typed)
            self.assertEqual(answer.status_code, 422, typed)
            self.assertIn(sentence, answer.json()["error"])
        seen = {"sag_loaded": "4.0", "sag_unloaded": "1.0", "grey_scale": "4.5"}
        for days in (2, 1, 0):
            with mock.patch("django.utils.timezone.now", return_value=start + (3 - days) * DAY):
                self.assertEqual(self.client.post(f"{base}{bar.code}/", seen).status_code, 200)
        page = self.client.get(f"/campaigns/{more.pk}/treat/change/?what={run.what}")
        (watch,) = page.context["looks"]
        self.assertEqual([len(w.looks) for w in watch.watched], [3])
        self.assertIn("sags 4.00 mm, 75 % springs back, colour grade 4.5 after 2.99 d", words(page))
        self.assertNotIn("sag", self.client.get(f"/runs/{run.number}/measure/").context["rows"][0])
        look = next(j for j in jobs_of(self.user.seat.workshop, timezone.now()) if j.kind == "look")
        self.assertEqual(look.fixed, start + 3 * DAY + 7 * DAY)
