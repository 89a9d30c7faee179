"""A live instrument at the bench: the figure runs, the peak is held, the curve goes with the entry, nothing is lost."""

import os
import subprocess
import sys
import time
import urllib.request

from django.test import override_settings

from brunt_command.beside import free_port
from brunt_command.places import ROOT
from brunt_web.library.models import Rig
from brunt_web.testing.models import Curve, Test, TimedReading
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase
from tests.support.workshop import entry, put

# A serial port of the browser's own, as a page sees one: lines are put into it by the test.
SERIAL = """
window.wire = null;
Object.defineProperty(navigator, "serial", { value: { requestPort: async () => ({
  open: async () => {},
  close: async () => {},
  readable: new ReadableStream({ start(c) { window.wire = (text) => c.enqueue(new TextEncoder().encode(text)); window.cut = () => c.error(new Error("lost"));
  } }),
  writable: new WritableStream(),
}) } });
"""


class Shown(BrowserTestCase):
    def test_every_button_of_a_live_bench_is_above_the_line_at_the_foot(self):
        one = bench_of(self.user, "tension")
        procedure = one.procedures.get()
        procedure.rig = Rig.objects.create(
            workshop=one.workshop, name="Frame", capacity=500.0, instrument="sim:load-cell"
        )
        procedure.save()
        for wide, high in ((1280, 800), (1366, 700), (1024, 768), (1920, 1080)):
            self.page.set_viewport_size({"width": wide, "height": high})
            self.open(f"/campaigns/{one.pk}/bench/")
            self.sees("Connect Frame")
            hidden, whole = self.page.evaluate(
                """() => {
                  const foot = document.querySelector(".line").getBoundingClientRect().top;
                  const under = [...document.querySelectorAll(".store-row button, .corner a, .corner button")]
                    .filter((b) => b.getBoundingClientRect().bottom > foot).map((b) => b.innerText);
                  return [under, document.documentElement.scrollHeight <= innerHeight];
                }"""
            )
            self.assertEqual((hidden, whole), ([], True), f"{wide} × {high}")

    def test_a_question_about_a_reading_comes_into_sight_and_the_field_stays(self):
        one = bench_of(self.user, "tension", replicates=3)
        bars = list(one.conditions.first().specimens.order_by("pk"))
        for bar in bars[:2]:
            put(bar, self.user, entry("500 N"))
        for wide, high in ((1280, 720), (1280, 800), (1024, 768)):
            self.page.set_viewport_size({"width": wide, "height": high})
            self.open(f"/specimens/{bars[2].code}/bench/")
            for name, text in (("width", "5"), ("thickness", "2"), ("force", "51")):
                self.page.locator(f"#f-{name}").fill(text)
            self.sees("Check this value")
            self.page.wait_for_timeout(100)
            asked, field, (top, foot) = self.page.evaluate(
                """() => {
                  const at = (what) => document.querySelector(what).getBoundingClientRect();
                  const pane = at(".readout-in");
                  return [at(".note-box").top + 24, at("#f-force").top, [pane.top, pane.bottom]];
                }"""
            )
            self.assertLess(asked, foot, f"{wide} × {high}")
            self.assertGreaterEqual(field, top - 1, f"{wide} × {high}")


class Bridged(BrowserTestCase):
    def begin_bridge(self):
        """One of its own for each test: an instrument stays with the page that had it for some seconds."""
        self.bridge = subprocess.Popen(
            [sys.executable, "-m", "brunt_command.instruments.bridge", "--port", str(self.port)],
            cwd=ROOT,
            env={**os.environ, "PYTHONPATH": str(ROOT)},
        )
        for _ in range(200):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{self.port}/health", timeout=1).close()
                break
            except OSError:
                time.sleep(0.05)

    def end_bridge(self):
        self.bridge.terminate()
        self.bridge.wait(10)

    def setUp(self):
        super().setUp()
        self.port = free_port("127.0.0.1", 0)
        self.begin_bridge()
        self.addCleanup(self.end_bridge)
        csp = {
            "DIRECTIVES": {
                "default-src": ["'self'"],
                "connect-src": ["'self'", f"http://*:{self.port}"],
                "img-src": ["'self'", "data:", "blob:"],
            }
        }
        changed = override_settings(BRIDGE_PORT=self.port, CONTENT_SECURITY_POLICY=csp)
        changed.enable()
        self.addCleanup(changed.disable)
        self.allowed = (f"http://127.0.0.1:{self.port}/",)

    def bench(self, method, instrument, **more):
        one = bench_of(self.user, method, **more)
        procedure = one.procedures.get()
        rig = procedure.rig
        if rig is None:
            rig = Rig.objects.create(workshop=one.workshop, name="Dial", dimension="length")
            procedure.rig = rig
            procedure.save()
        rig.instrument = instrument
        rig.save()
        self.open(f"/campaigns/{one.pk}/bench/")
        return one

    def pulled(self) -> str:
        """Begun, until it breaks: what stands in the field then."""
        self.page.get_by_role("button", name="Start", exact=True).click()
        self.sees("held as the peak", "[data-live-says]")
        held = self.page.locator("#f-force").input_value()
        self.assertRegex(held, r"^\d{3}\.\d N$")
        return held

    def test_pulled_until_it_breaks_and_stored_with_its_curve(self):
        self.bench("tension", "sim:load-cell")
        code = self.heading()
        self.page.locator("#f-width").fill("4")
        self.page.locator("#f-thickness").fill("3")
        self.page.get_by_role("button", name="Connect").click()
        self.sees("simulated", "[data-live-says]")
        self.page.wait_for_function(
            "() => /N$/.test(document.querySelector('[data-live-now]').textContent)"
        )
        held = self.pulled()
        self.assertEqual(self.page.locator("[data-live-peak]").inner_text(), held)
        self.page.wait_for_selector("#answer[data-ready]")
        self.page.locator("#f-force").press("Enter")
        self.page.wait_for_function(
            "(was) => document.querySelector('h1').innerText !== was", arg=code
        )
        self.stored()
        test = Test.objects.get()
        self.assertEqual((test.turn.code, test.readings.get(key="force").text), (code, held))
        self.assertGreater(Curve.objects.get(turn=test.turn).points, 100)
        self.assertIn("live", Curve.objects.get().name)
        self.assertEqual(self.page.locator("[data-live-peak]").inner_text() == held, False)

    def test_behind_a_proxy_with_its_own_address_and_with_decimal_commas(self):
        """Shown with a comma where the workshop writes so; typed with a point, which cannot be a thousand."""
        shop = self.user.seat.workshop
        shop.comma = True
        shop.save()
        with override_settings(BRIDGE_PORT=1, BRIDGE_AT=f"http://127.0.0.1:{self.port}"):
            self.bench("tension", "sim:load-cell")
            self.page.get_by_role("button", name="Connect").click()
            self.page.wait_for_function(
                "() => /^-?\\d+,\\d+ N$/.test(document.querySelector('[data-live-now]').textContent)"
            )
            held = self.pulled()
        self.assertEqual(self.page.locator("[data-live-peak]").inner_text(), held.replace(".", ","))
        self.sees(held.replace(".", ","), "[data-live-says]")

    def test_a_clock_that_is_due_takes_the_figure_itself(self):
        self.bench("creep", "sim:dial")
        self.page.get_by_role("button", name="Connect").click()
        self.sees("simulated", "[data-live-says]")
        for name in ("width", "thickness"):
            field = self.page.locator(f"#f-{name}")
            if field.count():
                field.fill("4")
        self.page.locator("[data-start-clock]").click()
        self.page.wait_for_selector("[data-take-field]")
        self.page.get_by_role("button", name="Start", exact=True).click()
        self.page.wait_for_timeout(500)
        self.page.evaluate(
            "() => { document.querySelector('[data-prompt]').dataset.target = '0.1'; }"
        )
        for _ in range(200):
            if TimedReading.objects.exists():
                break
            self.page.wait_for_timeout(50)
        reading = TimedReading.objects.get()
        self.assertRegex(reading.text, r"^1\.\d+ mm$")

    def test_a_browser_s_own_serial_port_that_is_lost(self):
        self.page.add_init_script(SERIAL)
        self.bench("tension", "browser:9600")
        self.page.get_by_role("button", name="Connect").click()
        self.page.wait_for_function("() => window.wire")
        self.page.evaluate(
            "() => { for (let i = 0; i < 60; i += 1) window.wire(`${i / 100} s; ${i * 8} N; ${i / 50} mm\\n`); }"
        )
        self.sees("472", "[data-live-peak]")
        self.page.evaluate("() => window.cut()")
        self.sees("The port was lost", "[data-live-says]")
        self.page.evaluate("() => document.querySelector('[data-live-take]')?.click()")
        self.assertEqual(self.page.locator("#f-force").input_value(), "", "no figure over a gap")

    def feed(self, text):
        self.page.evaluate("(text) => window.wire(text)", text)

    def test_no_figure_over_lines_that_are_missing_and_begin_clears(self):
        """The instrument's clock leaps from 0.6 s to 9 s: a fall seen over that is no break."""
        self.page.add_init_script(SERIAL)
        self.bench("tension", "browser:9600")
        self.page.get_by_role("button", name="Connect").click()
        self.page.wait_for_function("() => window.wire")
        self.feed("".join(f"{i / 100} s; {i * 5} N; {i / 50} mm\n" for i in range(60)))
        self.sees("295", "[data-live-peak]")
        self.feed("".join(f"{9 + i / 100} s; 0.1 N; 9 mm\n" for i in range(20)))
        self.sees("Lines are missing", "[data-live-says]")
        self.page.get_by_role("button", name="Capture").click()
        self.sees("this pull gives no figure", "[data-live-says]")
        field = self.page.locator("#f-force")
        self.assertEqual(field.input_value(), "")
        field.fill("290")
        self.page.get_by_role("button", name="Start", exact=True).click()
        self.assertEqual(field.input_value(), "", "Begin clears the field")
        self.feed(
            "".join(f"{19.7 + i / 100} s; 0.1 N; 0 mm\n" for i in range(30))
            + "".join(f"{20 + i / 100} s; {i * 6} N; {i / 50} mm\n" for i in range(60))
            + "".join(f"{20.6 + i / 100} s; 0.2 N; 1.2 mm\n" for i in range(10))
        )
        self.sees("held as the peak", "[data-live-says]")
        self.assertEqual(field.input_value(), "354.0 N")

    def test_a_bridge_killed_in_a_pull_gives_no_peak(self):
        self.bench("tension", "sim:load-cell")
        self.page.get_by_role("button", name="Connect").click()
        self.sees("simulated", "[data-live-says]")
        self.page.get_by_role("button", name="Start", exact=True).click()
        self.page.wait_for_function(
            "() => parseFloat(document.querySelector('[data-live-peak]').textContent) > 60"
        )
        self.bridge.kill()
        self.bridge.wait(10)
        self.sees("Cut off", "[data-live-says]")
        self.begin_bridge()
        self.sees("Lines are missing", "[data-live-says]")
        self.page.wait_for_timeout(1500)
        self.assertEqual(self.page.locator("#f-force").input_value(), "")
        self.pulled()

    def test_a_second_tester_sees_who_has_it_and_no_figure_and_may_take_it_over(self):
        self.bench("tension", "sim:load-cell")
        code = self.heading()
        self.page.get_by_role("button", name="Connect").click()
        self.sees("simulated", "[data-live-says]")
        second = self.page.context.new_page()
        self.addCleanup(second.close)
        second.goto(self.page.url)
        second.get_by_role("button", name="Connect").click()
        said = second.locator("[data-live-says]")
        said.filter(has_text=f"In use by {self.user.username} for {code} since").wait_for()
        self.pulled()
        self.assertEqual(second.locator("#f-force").input_value(), "")
        self.assertEqual(second.locator("[data-live-peak]").inner_text(), "–")
        second.get_by_role("button", name="Take over").click()
        said.filter(has_text="simulated").wait_for()
        self.sees("In use by", "[data-live-says]")

    def test_a_reload_replays_no_peak_of_before(self):
        self.bench("tension", "sim:load-cell")
        self.page.get_by_role("button", name="Connect").click()
        self.sees("simulated", "[data-live-says]")
        self.pulled()
        self.page.locator("#f-force").fill("")
        self.page.reload()
        self.page.get_by_role("button", name="Connect").click()
        self.sees("simulated", "[data-live-says]")
        self.page.wait_for_timeout(1500)
        self.assertLess(
            float(self.page.locator("[data-live-peak]").inner_text().removesuffix(" N")), 5
        )
        self.assertEqual(self.page.locator("#f-force").input_value(), "")
