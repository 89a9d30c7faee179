"""Every method's bench with its example typed: drawn, answered, accessible, within the screen."""

from axe_playwright_python.sync_playwright import Axe

from brunt_core.methods.registry import methods
from tests.support.bench import TYPED, bench_of
from tests.support.browser import BrowserTestCase

RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]

# The classes and kinds of fields on a page, without its words and numbers.
LAYOUT = """() => [...new Set([...document.querySelectorAll('main *')].flatMap((e) => [...e.classList, e.type ?? '']))]
  .sort().join(' ')"""


class EveryMethod(BrowserTestCase):
    def test_each_bench_answers_and_is_accessible(self):
        """The rules of accessibility are run once a distinct layout; they look at nothing else."""
        self.layouts = set()
        found = {key: self.tried(key) for key in methods()}
        self.assertEqual({k: v for k, v in found.items() if v != ([], 0)}, {})

    def tried(self, key: str) -> tuple[list, int]:
        """Open it, type the example, wait for answer and drawing; what axe says, and what sticks out."""
        code = bench_of(self.user, key).specimens.first().code
        self.open(f"/specimens/{code}/bench/")
        before = self.page.locator("#drawing").inner_html()
        self.fill(TYPED[key])
        if methods()[key].timed:
            self.page.locator("[data-start-clock]").wait_for()
        else:
            self.page.locator("#answer[data-ready]").wait_for()
            self.page.wait_for_function(
                "(was) => document.querySelector('#drawing').innerHTML !== was", arg=before
            )
        wide = "() => Math.max(document.documentElement.scrollWidth - innerWidth, 0)"
        return self.violations(), self.page.evaluate(wide)

    def fill(self, texts: dict[str, str]):
        """What can be typed, into its field."""
        for summary in self.page.locator("summary", has_text="More readings").all():
            summary.click()
        for key, text in texts.items():
            field = self.page.locator(f"#f-{key}")
            if field.count():
                field.fill(text)

    def violations(self) -> list:
        layout = self.page.evaluate(LAYOUT)
        if layout in self.layouts:
            return []
        self.layouts.add(layout)
        found = Axe().run(self.page, options={"runOnly": RULES}).response["violations"]
        return [(v["id"], [n["html"][:160] for n in v["nodes"]][:3]) for v in found]

    def test_stepwise_and_drops_by_keyboard(self):
        """6 .. 8 kgf is between; drops are added one by one with Enter and stored with the last."""
        self.open(f"/campaigns/{bench_of(self.user, 'drop').pk}/bench/")
        first = self.heading()
        for text in ("400 p", "450 f"):
            self.type_and_enter(text)
        self.assertEqual(self.page.locator("#f-drops").input_value(), "400 p; 450 f")
        self.sees("400 – 450", "#answer .answer")
        self.page.keyboard.press("Enter")
        self.goes_on(first)
        self.open(f"/campaigns/{bench_of(self.user, 'part-break').pk}/bench/")
        first = self.heading()
        self.page.locator("#f-mass").fill("22 g")
        self.page.locator("#f-force").focus()
        self.page.keyboard.type("6 .. 8 kgf")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("w")
        self.sees("58.8 – 78.5", "#answer .answer")
        self.page.keyboard.press("Enter")
        self.goes_on(first)
