"""Load case from empty to a chosen thickness, by hand and by key; the card answers while one types."""

from brunt_web.decisions.models import LoadCase
from tests.support.browser import BrowserTestCase
from tests.support.workshop import campaign, fill


class Drawing(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.one = campaign(self.user, materials=("Fernhall PLA", "Tarn ASA"))
        fill(self.one, self.user, {"Fernhall PLA": ["500", "501", "502"], "Tarn ASA": ["300", "301", "302"]})  # fmt: skip
        fill(self.one, self.user, {"Fernhall PLA": ["250", "251", "252"], "Tarn ASA": ["290", "291", "292"]}, "upright")  # fmt: skip

    def verdict(self, text: str) -> None:
        self.page.wait_for_function(
            "(text) => document.querySelector('#load-case-verdict').innerText.includes(text)",
            arg=text,
        )

    def test_from_empty_to_chosen(self):
        self.open(f"/campaigns/{self.one.pk}/decide/")
        self.verdict("Type the load")
        self.page.locator("label.du-mode", has_text="pulled").click()
        self.page.locator("#span").wait_for()
        self.page.fill("#name", "Vent-crank arm")
        self.page.fill("#load", "9.2 kgf")
        self.page.fill("#width", "12 mm")
        self.verdict("Make it of Fernhall PLA, 0.2")
        self.page.fill("#thickness", "1.5")
        self.verdict("1.50 mm deep as it stands")
        self.page.fill("#thickness", "fish")
        self.page.wait_for_function(
            "() => document.querySelector('#thickness-problem').textContent !== ''"
        )
        self.assertEqual(self.page.input_value("#thickness"), "fish")
        self.page.fill("#thickness", "1.5")
        self.verdict("as it stands")
        self.page.locator(".du-verdict h1").click()
        self.page.keyboard.press("r")
        self.verdict("Tarn ASA")
        self.page.get_by_role("button", name="Save", exact=True).click()
        self.page.wait_for_url("**/load-cases/**")
        self.page.keyboard.press("c")
        self.sees("Tarn ASA is chosen")
        self.assertEqual(str(LoadCase.objects.get().chosen), "Tarn ASA")

    def test_small_screens_do_not_scroll_sideways(self):
        for width in (390, 1024):
            self.page.set_viewport_size({"width": width, "height": 800})
            self.open(f"/campaigns/{self.one.pk}/decide/new/")
            self.page.fill("#load", "100 N")
            self.page.fill("#arm", "60 mm")
            self.page.wait_for_timeout(600)
            over = self.page.evaluate("document.documentElement.scrollWidth - innerWidth")
            self.assertLessEqual(over, 0, width)

    def test_the_drawing_is_taken_hold_of(self):
        self.open(f"/campaigns/{self.one.pk}/decide/new/")
        self.page.fill("#load", "9,2 kgf")
        self.page.fill("#arm", "60 mm")
        for key, far, more in (("arm", (60, 0), True), ("load", (0, 60), False)):
            before = self.page.input_value(f"#{key}")
            self.drawn(before)
            box = self.page.locator(f"[data-drag={key}] .du-grip").bounding_box()
            x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
            self.page.mouse.move(x, y)
            self.page.mouse.down()
            self.page.mouse.move(x + far[0], y + far[1], steps=4)
            self.page.mouse.up()
            after = self.page.input_value(f"#{key}")
            first, last = (float(t.split()[0].replace(",", ".")) for t in (before, after))
            self.assertEqual(last > first, more, (before, after))
            self.assertEqual(before.split()[1], after.split()[1])
        self.assertIn(",", self.page.input_value("#load"))
        self.drawn(self.page.input_value("#load"))

    def drawn(self, text):
        """The drawing shows what was typed, and nothing more is on its way."""
        self.page.wait_for_function(
            "(text) => document.querySelector('.du-drawing')?.textContent.includes(text)", arg=text
        )
        self.page.wait_for_load_state("networkidle")
