"""A device whose clock is turned, a server that is away: readings stand at their time, and what waits is told."""

from datetime import timedelta

from django.contrib.sessions.models import Session
from django.utils import timezone

from brunt_web.testing.models import Test
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase

# A clock that can be turned while the page stands, and stays turned over a reload.
TURNED = """
(() => {
  const real = Date.now.bind(Date), Real = Date;
  const by = () => Number(sessionStorage.getItem("turned") ?? 0);
  window.Date = class extends Real { constructor(...a) { super(...(a.length ? a : [real() + by()])); } };
  window.Date.now = () => real() + by();
  window.Date.parse = Real.parse; window.Date.UTC = Real.UTC;
})();
"""
DAY = 86_400_000


class Turned(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.page.add_init_script(TURNED)
        self.one = bench_of(self.user, "tension")
        self.open(f"/campaigns/{self.one.pk}/bench/")
        self.page.wait_for_function("() => localStorage.getItem('brunt-clock')")

    def turn(self, by):
        self.page.evaluate("(by) => sessionStorage.setItem('turned', by)", by)

    def away(self):
        self.page.route(
            "**/*", lambda r: r.abort() if r.request.method == "POST" else r.continue_()
        )

    def back(self):
        self.page.unroute("**/*")

    def enter(self):
        for name, text in (("width", "5"), ("thickness", "2"), ("force", "500 N")):
            self.page.locator(f"#f-{name}").fill(text)
        self.page.wait_for_timeout(300)
        self.page.locator("#f-force").press("Enter")
        self.sees("Not saved yet", "#outbox")

    def stored_at(self):
        for _ in range(200):
            if Test.objects.exists():
                return Test.objects.get().at
            self.page.wait_for_timeout(50)
        raise AssertionError("nothing was saved")

    def near(self, at, other, seconds=15):
        self.assertLess(abs((at - other).total_seconds()), seconds)

    def test_turned_a_day_or_a_month_forward_while_it_waits(self):
        self.away()
        self.enter()
        when = timezone.now()
        self.turn(31 * DAY)
        self.back()
        self.near(self.stored_at(), when)

    def test_turned_back_while_it_waits(self):
        self.away()
        self.enter()
        when = timezone.now()
        self.turn(-DAY)
        self.back()
        self.near(self.stored_at(), when)

    def test_turned_while_it_waits_and_the_page_is_loaded_again(self):
        self.away()
        self.enter()
        when = timezone.now()
        self.turn(DAY)
        self.back()
        self.page.reload()
        self.near(self.stored_at(), when)

    def test_entered_on_a_clock_turned_before_it_is_asked_once_the_clock_is_right(self):
        self.away()
        self.turn(DAY)
        self.enter()
        self.turn(0)
        self.page.reload()
        self.back()
        self.sees("clock was changed while the entry waited", "#outbox")
        self.assertFalse(Test.objects.exists())
        field = self.page.locator("#outbox input[type=datetime-local]")
        said = timezone.localtime() - timedelta(hours=2)
        here = self.page.evaluate("() => new Date().getTimezoneOffset()")
        shown = said.astimezone() if not here else said
        field.fill(f"{shown.astimezone(timezone.get_fixed_timezone(-here)):%Y-%m-%dT%H:%M}")
        self.page.wait_for_timeout(
            3000
        )  # the outbox looks for the server meanwhile; what is typed stays
        self.page.get_by_role("button", name="Save with this time").click()
        self.near(self.stored_at(), said, 75)

    def test_a_page_left_open_and_in_order_asks_nothing(self):
        self.away()
        self.enter()
        when = timezone.now()
        self.page.wait_for_timeout(1500)
        self.back()
        self.page.reload()
        self.near(self.stored_at(), when, 5)


class Away(BrowserTestCase):
    def test_the_bench_opened_again_without_a_server_shows_the_queue_and_what_waits(self):
        one = bench_of(self.user, "tension")
        self.open(f"/campaigns/{one.pk}/bench/")
        code = self.heading()
        self.page.wait_for_function(
            "() => navigator.serviceWorker.ready.then((r) => Boolean(r.active))"
        )
        self.page.wait_for_function("() => navigator.serviceWorker.controller")
        self.page.context.set_offline(True)
        for name, text in (("width", "5"), ("thickness", "2"), ("force", "512 N")):
            self.page.locator(f"#f-{name}").fill(text)
        self.page.locator("#f-force").press("Enter")
        self.sees("Not saved yet", "#outbox")
        self.page.reload()
        self.sees("The server cannot be reached")
        self.sees("1 entry waits in this browser")
        self.sees(f"{code}: ", "[data-waits]")
        self.assertIn("512 N", self.page.locator("[data-waits]").inner_text())
        nexts = self.page.locator("[data-queue] li").all_inner_texts()
        self.assertGreater(len(nexts), 1)
        self.assertFalse(any(code in one for one in nexts))
        self.page.context.set_offline(False)
        for _ in range(300):
            if Test.objects.exists():
                break
            self.page.wait_for_timeout(50)
        self.assertEqual(Test.objects.get().turn.code, code)

    def test_signed_out_the_door_says_how_many_wait(self):
        one = bench_of(self.user, "tension")
        self.open(f"/campaigns/{one.pk}/bench/")
        self.page.evaluate(
            """() => localStorage.setItem("brunt-outbox", JSON.stringify(
                 Array.from({ length: 12 }, (_, i) => ({ key: String(i), user: "0", code: "X", fields: [] }))))"""
        )
        Session.objects.all().delete()
        self.page.goto(f"{self.live_server_url}/sign-in/")
        self.sees("12 entries wait for you in this browser")


class Heads(BrowserTestCase):
    def test_the_counts_in_the_head_follow_each_entry(self):
        one = bench_of(self.user, "tension")
        self.open(f"/campaigns/{one.pk}/bench/")
        small = self.page.locator(".stage-bar [data-stage=test] small")
        first = int(small.inner_text().split()[0])
        for i in range(1, 3):
            code = self.heading()
            for name, text in (("width", "5"), ("thickness", "2"), ("force", f"50{i} N")):
                self.page.locator(f"#f-{name}").fill(text)
            self.page.wait_for_selector("#answer[data-ready]")
            self.page.locator("#f-force").press("Enter")
            self.page.wait_for_function(
                "(was) => document.querySelector('h1').innerText !== was", arg=code
            )
            self.page.wait_for_function(
                "(n) => document.querySelector('.stage-bar [data-stage=test] small').innerText.startsWith(`${n} `)",
                arg=first - i,
            )
