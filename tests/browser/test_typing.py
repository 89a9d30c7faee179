"""What is typed at the bench is never lost, and the cursor is where the next number goes."""

from brunt_web.testing.models import Clock, Test
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase

FOCUS = "() => document.activeElement.id || document.activeElement.dataset.startClock !== undefined && 'start'"


class Typing(BrowserTestCase):
    def bench(self, method: str, **changed):
        one = bench_of(self.user, method, **changed)
        self.open(f"/campaigns/{one.pk}/bench/")
        self.first = self.heading()
        return one

    def at(self, wanted: str):
        """Wait until the cursor is there."""
        self.page.wait_for_function(f"(wanted) => ({FOCUS})() === wanted", arg=wanted)

    def test_every_bench_has_the_cursor_where_a_number_goes(self):
        """Digits go into a field, and Enter never starts a clock unseen."""
        for method, field in (
            ("creep", "f-width"),
            ("deflection-ladder", "f-width"),
            ("part-break", "f-force"),
            ("tension", "f-width"),
            ("drop", "f-drops-row"),
        ):
            with self.subTest(method):
                self.bench(method)
                self.at(field)
                self.page.keyboard.type("4")
                self.assertEqual(self.page.locator(f"#{field}").input_value(), "4")
                self.assertFalse(Clock.objects.exists())

    def test_sizes_typed_before_the_clock_starts_are_kept(self):
        self.bench("deflection-ladder")
        self.at("f-width")
        self.type_and_enter("10.02")
        self.at("f-thickness")
        self.page.keyboard.type("4.01")
        self.page.get_by_role("button", name="start clock").click()
        self.page.locator("[data-take-field]").wait_for()
        self.at("f-take")
        sizes = [self.page.locator(f"#f-{k}").input_value() for k in ("width", "thickness")]
        self.assertEqual(sizes, ["10.02", "4.01"])

    def test_skip_and_reload_drop_nothing(self):
        self.bench("tension", replicates=1)
        self.type_and_enter("5.01")
        self.type_and_enter("2.02")
        self.page.keyboard.type("47 kgf")
        self.page.get_by_role("button", name="Skip").click()
        self.page.wait_for_function(
            "(was) => document.querySelector('h1').innerText !== was", arg=self.first
        )
        self.assertEqual(self.page.locator("#f-width").input_value(), "")
        self.page.locator(f".queue a[data-code='{self.first}']").click()
        self.page.wait_for_load_state("networkidle")
        typed = [
            self.page.locator(f"#f-{k}").input_value() for k in ("width", "thickness", "force")
        ]
        self.assertEqual(typed, ["5.01", "2.02", "47 kgf"])
        self.page.reload()
        self.page.wait_for_load_state("networkidle")
        self.assertEqual(self.page.locator("#f-force").input_value(), "47 kgf")

    def test_undo_gives_the_text_back(self):
        self.bench("tension")
        for text in ("5", "2"):
            self.type_and_enter(text)
        self.page.keyboard.type("51 kgf")
        self.sees("50.0", "#answer .answer")
        self.page.keyboard.press("Enter")
        self.goes_on(self.first)
        self.assertEqual(Test.objects.count(), 1)
        self.page.get_by_role("button", name="Undo").click()
        self.page.wait_for_load_state("networkidle")
        self.assertEqual(self.heading(), self.first)
        self.assertEqual(self.page.locator("#f-force").input_value(), "51 kgf")

    def test_enter_does_not_loop_over_what_is_optional(self):
        self.bench("part-break")
        self.at("f-force")
        self.page.keyboard.type("6 kgf")
        self.sees("58.8", "#answer .answer")
        self.page.keyboard.press("Enter")
        self.goes_on(self.first)
        self.assertEqual(Test.objects.count(), 1)

    def test_broken_now_read_later(self):
        self.bench("tension", replicates=1)
        for text in ("5", "2"):
            self.type_and_enter(text)
        self.page.get_by_role("button", name="Enter later").click()
        self.goes_on(self.first)
        self.assertTrue(Test.objects.get().turn.reading_outstanding)

    def test_cracked_at_assembly_asks_for_no_load(self):
        self.bench("pull-out", replicates=1)
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("a")
        self.page.keyboard.press("Enter")
        self.goes_on(self.first)
        self.assertEqual(Test.objects.get().outcome, "cracked_at_assembly")
