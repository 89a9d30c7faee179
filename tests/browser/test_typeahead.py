"""Fast typists on slow networks: every value stands where it was typed, whatever the server's pace."""

import json

from django.test import tag

from brunt_web.campaigns.models import Turn
from brunt_web.testing.models import Measurement, Reading, Test
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase

# Notes which specimens stood at the bench, in their order.
WATCH = """() => {
  const stood = [];
  const look = () => {
    const code = document.querySelector('[data-code-here]')?.textContent;
    if (code && !stood.includes(code)) { stood.push(code); sessionStorage.setItem('stood', JSON.stringify(stood)); }
  };
  look();
  new MutationObserver(look).observe(document.body, { subtree: true, childList: true, characterData: true });
}"""


class TypeAhead(BrowserTestCase):
    def slow(self, latency: int):
        """Every answer takes at least so many milliseconds from now on."""
        wire = self.context.new_cdp_session(self.page)
        wire.send("Network.enable")
        line = {
            "offline": False,
            "latency": latency,
            "downloadThroughput": -1,
            "uploadThroughput": -1,
        }
        wire.send("Network.emulateNetworkConditions", line)

    def bench(self, method: str = "tension", replicates: int = 5, **changed):
        one = bench_of(self.user, method, replicates=replicates, **changed)
        self.open(f"/campaigns/{one.pk}/bench/")
        self.page.evaluate(WATCH)
        return one

    def loads(self, count: int) -> list[str]:
        """So many loads, no two alike, all plausible on 5 × 2 mm."""
        return [f"{430 + i % 97}.{i % 10}" for i in range(count)]

    def type_rows(self, loads, delay: float):
        """Width, thickness, load, and straight on with the next specimen."""
        for i, load in enumerate(loads):
            self.page.keyboard.type(f"5.0{i % 4}\n2.0{i % 3}\n{load}\n", delay=delay)

    def stored_rows(self, one) -> list[tuple[str, str, str]]:
        """What was stored, in the order in which the specimens stood at the bench."""
        rows = []
        stood = json.loads(self.page.evaluate("() => sessionStorage.getItem('stood')"))
        tested = Turn.objects.filter(campaign=one, test__isnull=False).select_related("specimen")
        for turn in sorted(tested, key=lambda turn: stood.index(turn.specimen.code)):
            sizes = {
                m.key: m.text for m in Measurement.objects.filter(moment__specimen=turn.specimen)
            }
            (load,) = Reading.objects.filter(test__turn=turn)
            rows.append((sizes["width"], sizes["thickness"], load.text))
        return rows

    def every_value_where_it_was_typed(self, latency: int, count: int, delay: float):
        one = self.bench(replicates=min((count + 1) // 2 + 1, 100))
        self.slow(latency)
        loads = self.loads(count)
        self.type_rows(loads, delay)
        for _ in range(60 + count * (latency * 4 + 1000) // 1000):
            if Test.objects.count() >= count:
                break
            self.page.wait_for_timeout(1000)
        wanted = [(f"5.0{i % 4}", f"2.0{i % 3}", load) for i, load in enumerate(loads)]
        shown = self.page.locator("#main").inner_text()[:600]
        self.assertEqual(self.stored_rows(one), wanted, shown)

    def test_thirty_specimens_in_a_row(self):
        self.every_value_where_it_was_typed(latency=60, count=30, delay=0)

    @tag("long")
    def test_two_hundred_specimens_in_a_row(self):
        self.every_value_where_it_was_typed(latency=60, count=200, delay=0)

    def test_at_25_ms_a_key_and_2_s_of_latency(self):
        self.every_value_where_it_was_typed(latency=2000, count=6, delay=25)

    def test_at_120_ms_a_key_and_150_or_800_ms_of_latency(self):
        for latency in (150, 800):
            with self.subTest(latency):
                Test.objects.all().delete()
                self.every_value_where_it_was_typed(latency, count=5, delay=120)

    def test_a_question_is_not_answered_by_what_was_typed_ahead(self):
        """2.00515 N asks; the keys of the next specimen wait until it is answered."""
        one = self.bench(replicates=2)
        self.slow(400)
        self.page.keyboard.type("5.02\n2.02\n0.00515\n5.01\n2.01\n505\n", delay=20)
        self.sees("Check this value")
        self.page.wait_for_timeout(1500)
        self.assertEqual(Test.objects.count(), 0)
        self.sees("Typed ahead: 5.01 ⏎ 2.01 ⏎ 505 ⏎")
        self.page.keyboard.press("Escape")
        self.page.keyboard.type("515")
        self.page.keyboard.press("Enter")
        self.eventually(lambda: Test.objects.count() == 2)
        self.assertEqual(self.stored_rows(one), [("5.02", "2.02", "515"), ("5.01", "2.01", "505")])

    def test_an_implausible_value_asks_once_and_one_key_answers(self):
        one = self.bench(replicates=2)
        self.page.keyboard.type("5.02\n2.02\n5\n")
        self.sees("Check this value")
        self.page.wait_for_function("() => document.activeElement.matches('[data-keep]')")
        self.page.wait_for_timeout(600)
        self.assertEqual(Test.objects.count(), 0)
        self.page.keyboard.press("Enter")
        self.eventually(lambda: Test.objects.count() == 1)
        self.assertEqual(self.stored_rows(one), [("5.02", "2.02", "5")])
        self.assertEqual(Test.objects.get().answers[0]["answer"], "kept")

    def test_enter_pressed_twice_does_not_move_what_is_typed_next(self):
        one = self.bench(replicates=2)
        self.slow(300)
        self.page.keyboard.type("5.02\n2.02\n505\n\n5.01\n2.01\n515\n", delay=15)
        self.eventually(lambda: Test.objects.count() == 2)
        rows = [("5.02", "2.02", "505"), ("5.01", "2.01", "515")]
        self.assertEqual(self.stored_rows(one), rows)

    def test_tab_goes_through_the_fields_and_digits_pick_no_mode(self):
        self.bench(replicates=2)
        self.page.keyboard.type("5.02\n2.02\n505")
        self.page.keyboard.press("Tab")
        self.page.keyboard.type("1.93")
        self.assertEqual(self.page.locator("#f-mass").input_value(), "1.93")
        self.page.keyboard.press("Enter")
        self.eventually(lambda: Test.objects.count() == 1)
        test = Test.objects.get()
        self.assertEqual(test.mode, "")
        kept = {
            m.key: m.text for m in Measurement.objects.filter(moment__specimen=test.turn.specimen)
        }
        kept |= {r.key: r.text for r in test.readings.all()}
        self.assertEqual(
            kept, {"width": "5.02", "thickness": "2.02", "force": "505", "mass": "1.93"}
        )

    def test_tab_reaches_every_field_the_note_and_save(self):
        self.bench(replicates=2)
        met = []
        for _ in range(20):
            met.append(
                self.page.evaluate(
                    "() => document.activeElement.id || document.activeElement.innerText"
                )
            )
            self.page.keyboard.press("Tab")
        fields = self.page.evaluate(
            "() => [...document.querySelectorAll('.readout input:not([data-of-day]), .readout textarea')].map((e) => e.id)"
        )
        self.assertEqual(met[:3], ["f-width", "f-thickness", "f-force"])
        self.assertLessEqual(set(fields), set(met))
        save = next(i for i, name in enumerate(met) if name.startswith("Save"))
        self.assertEqual(met[save - 1], "note")

    def test_digits_outside_a_field_choose_nothing_and_alt_with_a_digit_the_mode(self):
        self.bench(replicates=2)
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("3")
        self.assertEqual(self.page.locator("[name=mode]:checked").count(), 0)
        self.page.keyboard.press("h")
        self.assertEqual(self.page.locator("[name=outcome]:checked").input_value(), "held")
        self.page.locator("#f-force").focus()
        self.page.keyboard.press("Alt+3")
        self.page.keyboard.press("Alt+b")
        self.assertEqual(self.page.locator("[name=mode]:checked").input_value(), "oblique")
        self.assertEqual(self.page.locator("[name=outcome]:checked").input_value(), "broke")
        self.assertEqual(self.page.locator("#f-force").input_value(), "")

    def test_a_server_that_fails_does_not_let_the_next_readings_into_this_form(self):
        """The entry waits in the browser; the next specimen's numbers get the next specimen's form."""
        one = self.bench(replicates=3)
        self.page.route("**/bench/", lambda route: route.fulfill(status=503) if route.request.method == "POST" else route.continue_())  # fmt: skip
        self.type_rows(self.loads(3), 20)
        self.sees("Not saved yet")
        self.page.wait_for_timeout(1500)
        self.page.unroute("**/bench/")
        self.eventually(lambda: Test.objects.count() == 3)
        wanted = [(f"5.0{i}", f"2.0{i}", load) for i, load in enumerate(self.loads(3))]
        self.assertEqual(self.stored_rows(one), wanted)
