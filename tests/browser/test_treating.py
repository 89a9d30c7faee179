"""Treat, feedstock and the day sheet as somebody meets them in a browser."""

from dataclasses import replace
from datetime import timedelta
from pathlib import Path

from django.utils import timezone

from brunt_core.treatments.diffusion import uptake
from brunt_web.campaigns.models import Specimen
from brunt_web.days.actions import plans
from brunt_web.days.models import Placement
from brunt_web.demonstration.flakes import drawn_flakes
from brunt_web.feedstock.actions import qualifications
from brunt_web.feedstock.models import Attempt, Picture
from brunt_web.testing.actions.record_test import measure
from brunt_web.treatments.actions import logs, runs
from brunt_web.treatments.actions.library import add_vessel
from brunt_web.treatments.models import Run
from tests.support.browser import BrowserTestCase
from tests.support.media import own_media
from tests.support.plans import Shop, factor
from tests.support.workshop import entry, put
from tests.web.test_feedstock import GOOD

STEP = "annealed 95 °C, 2 h"
MINUTE = timedelta(minutes=1)


class Treating(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.shop = Shop(self.user)
        self.place = self.user.seat.workshop

    def annealed(self, n=2):
        one = self.shop.plan(factor("treatment", "as printed", STEP), n=n)
        self.shop.print_all(one)
        return one, list(one.specimens.filter(outstanding="treatment").order_by("pk"))

    def sees(self, text):
        self.page.get_by_text(text).first.wait_for()

    def press(self, key, holds):
        """A key on the page itself, and what must then hold on the server."""
        self.page.locator("h1").first.click()
        self.page.keyboard.press(key)
        self.eventually(holds)
        self.page.wait_for_load_state("networkidle")

    def test_annealing_from_before_sizes_to_effect(self):
        add_vessel(self.place, "Oven", "oven", "12")
        one, bars = self.annealed()
        self.open(f"/campaigns/{one.pk}/treat/")
        self.page.get_by_role("link", name="Start a run of 2").click()
        self.sees("What goes in")
        self.assertEqual(self.page.locator("[name=p-temperature]").input_value(), "95.0 °C")
        self.page.get_by_label("In", exact=True).select_option(label="Oven")
        self.page.get_by_role("button", name="Start run").click()
        self.sees("Put in cold")
        run = Run.objects.get()
        self.open(f"/runs/{run.number}/measure/")
        for size in ("75.0", "5.0", "2.0", "0", "75.2", "75.2", "1.28"):
            self.type_and_enter(size)
        self.sees("stored")
        self.open(f"/runs/{run.number}/")
        for done in range(1, 6):
            self.press(
                "n", lambda n=done: run.steps.filter(ended_at__isnull=False).count() >= n - 1
            )
        self.eventually(lambda: Run.objects.get().state == "done")
        self.assertEqual(Specimen.objects.filter(treated=True).count(), 2)
        self.open(f"/runs/{run.number}/measure/")
        for size in ("73.5", "4.95", "2.06", "0.2", "73.7", "73.7", "1.279"):
            self.type_and_enter(size)
        self.sees("stored")
        for bar in one.specimens.all():
            load = entry("600 N" if bar in bars else "500 N")
            put(bar, self.user, replace(load, at=timezone.now()))
        self.open(f"/campaigns/{one.pk}/treat/change/")
        self.sees("x, length")
        self.sees("× 1.0204")
        self.sees("Treated ÷ control")
        self.page.keyboard.press("]")
        self.sees("change ×  16")

    def test_a_moisture_series_to_settling(self):
        one, bars = self.annealed()
        run = runs.plan_run(
            self.place,
            one,
            self.user,
            runs.RunDraft("anneal-oven", {"time": "1 h"}, bars, what=STEP),
        )
        start = timezone.now() - timedelta(days=9)
        measure(bars[0], self.user, start, {"mass": "1.2800"}, "as made")
        for minutes in (0, 5, 65, 70, 75):
            runs.go_on(run, self.user, start + minutes * MINUTE)
        for hours in (2, 4, 8, 16, 30, 54, 78, 102, 126, 150, 174):
            mass = 1.28 * (1.012 - 0.008 * float(uptake(2e-6 * (hours - 2) * 3600)))
            measure(
                bars[0],
                self.user,
                start + timedelta(hours=hours),
                {"mass": f"{mass:.5f}"},
                "weighed",
            )
        self.open(f"/runs/{run.number}/weigh/")
        self.page.get_by_label(f"Mass of {bars[0].code}").fill("1.28512")
        self.page.keyboard.press("Enter")
        self.sees("stored")
        self.open(f"/campaigns/{one.pk}/treat/change/")
        self.sees("settled since")
        self.sees("Constant mass: nothing more to weigh.")

    def test_a_remelt_ended_by_its_core(self):
        oven = add_vessel(self.place, "Oven", "oven", "12")
        one, bars = self.annealed()
        texts = {"temperature": "190 °C", "gap": "10"}
        draft = runs.RunDraft("remelt", texts, bars, what=STEP, vessel=oven, accepted="a trial")
        run = runs.plan_run(self.place, one, self.user, draft)
        start = timezone.now() - 95 * MINUTE
        for minutes in (0, 20):
            runs.go_on(run, self.user, start + minutes * MINUTE)
        run.refresh_from_db()
        logs.bring_log(run, self.user, "time min,core\n0,22\n30,31\n45,80.1\n60,117.4\n75,141\n")
        self.open(f"/runs/{run.number}/")
        self.sees("Core at temperature in")
        self.page.locator("h1").click()
        self.page.keyboard.press("Enter")
        self.type_and_enter("157.5")
        self.sees("22.5 K to go")
        self.page.locator("h1").click()
        self.page.keyboard.press("Enter")
        self.page.locator("#read-text").fill("soon")
        self.page.keyboard.press("Enter")
        self.sees("does not start with a number")
        self.page.locator("#read-text").fill("181 °C")
        self.page.locator("#read-at").fill("")
        self.page.keyboard.press("Enter")
        self.sees("within 10 K of the set point")
        self.press("n", lambda: run.steps.get(key="heat").ended_at is not None)
        self.sees("then cool")
        self.page.keyboard.press("x")
        self.page.keyboard.type("1")
        self.page.locator("#out-why").fill("it stuck to the tin")
        self.page.get_by_role("button", name="Take out specimen").click()
        self.sees("Taken out")
        self.eventually(lambda: Specimen.objects.get(pk=bars[0].pk).made == "failed")

    def test_the_day_after_a_delay(self):
        plans.set_hours(self.place, "UTC", ["0:00-23:55"] * 7, 2)
        long = plans.add_own(self.place, "Long watch", "bench", 60)
        plans.add_own(self.place, "Then this", "bench", 30)
        self.open("/day/")
        self.sees("nothing is planned yet")
        self.page.locator("h1").click()
        self.page.keyboard.press("p")
        self.sees("2 jobs placed")
        before = Placement.objects.get(key=f"own-{long.pk}").start
        tray = self.page.locator(f"[data-job='own-{long.pk}']")
        if tray.count():
            tray.focus()
            self.page.keyboard.press("ArrowRight")
            self.eventually(lambda: Placement.objects.get(key=f"own-{long.pk}").start > before)
            self.assertTrue(Placement.objects.get(key=f"own-{long.pk}").pinned)
            self.page.wait_for_load_state("networkidle")
        Placement.objects.update(start=timezone.now() - timedelta(hours=2), pinned=False)
        self.open("/day/")
        self.page.locator("h1").click()
        self.page.keyboard.press("p")
        self.sees("jobs placed")
        now = timezone.now() - 5 * MINUTE
        self.assertTrue(all(p.start >= now for p in Placement.objects.all()))
        self.page.get_by_role("button", name="What would save time?").click()
        self.sees("No change that was tried saves time")


class Feeding(BrowserTestCase):
    def setUp(self):
        super().setUp()
        folder = own_media(self)
        self.photo = Path(folder) / "flakes.png"
        self.photo.write_bytes(drawn_flakes(3, 700, 500))
        self.qualification = qualifications.begin(self.user.seat.workshop, self.user, "Bag 3")

    def sees(self, text):
        self.page.get_by_text(text).first.wait_for()

    def test_a_ladder_with_one_failed_gate(self):
        for gate in ("dry", "particles", "heat"):
            qualifications.record_attempt(
                self.qualification, self.user, timezone.now(), gate, GOOD[gate]
            )
        self.open(f"/feedstock/{self.qualification.pk}/")
        self.page.locator("#even-masses").fill("4.6; 5.3; 4.2; 5.0; 4.4")
        self.page.locator("#even-masses").press("Enter")
        self.sees("Flow consistency failed:")
        self.sees("What to do:")
        self.page.locator("#dry-weighings").fill("0 h: 500; 4 h: 497.2; 6 h: 497.1")
        self.page.locator("#dry-weighings").press("Enter")
        self.sees("tried 2 times")
        self.assertEqual(Attempt.objects.filter(passed=False).count(), 1)

    def test_particles_from_a_photo(self):
        self.open(f"/feedstock/{self.qualification.pk}/")
        self.page.locator("#photo").set_input_files(str(self.photo))
        self.page.get_by_role("button", name="Analyse").click()
        self.sees("Click two points of the ruler.")
        picture = self.page.locator("[data-picture]")
        box = picture.bounding_box()
        scale = box["width"] / 700
        for x in (60, 160):
            self.page.mouse.click(box["x"] + x * scale, box["y"] + 463 * scale)
        self.page.get_by_label("Length between the points").fill("5 mm")
        self.page.get_by_role("button", name="Find the particles").click()
        self.sees("Particle sizes")
        found = Picture.objects.get()
        self.assertAlmostEqual(found.scale / 5e-5, 1, delta=0.03)
        strays = len(found.strays)
        self.page.locator("polygon.is-good").first.focus()
        self.page.keyboard.press("Delete")
        self.eventually(lambda: len(Picture.objects.get().strays) == strays + 1)
