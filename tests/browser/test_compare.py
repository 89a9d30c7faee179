"""Compare by keyboard: every view reached and left, picks kept, drawings saved that open by themselves."""

import numpy as np

from brunt_web.comparison.tabs import VIEWS
from tests.support.browser import BrowserTestCase
from tests.support.workshop import campaign, fill

PLA, ASA, PC = "Fernhall PLA", "Tarn ASA", "Tarn PC"


class Compare(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.one = campaign(self.user, materials=(PLA, ASA, PC))
        fill(
            self.one,
            self.user,
            {PLA: ["500", "505", ">498"], ASA: ["400", "404", "409"], PC: ["600", "607", "598"]},
        )
        fill(
            self.one,
            self.user,
            {PLA: ["250", "245", "252"], ASA: ["300", "305", "296"], PC: ["300", "310", "301"]},
            "upright",
        )

    def address(self, view=""):
        return f"/campaigns/{self.one.pk}/compare/{view}"

    def press(self, key: str, heading: str) -> None:
        """A key of the page, until its view is there."""
        self.page.keyboard.press(key)
        self.page.wait_for_function(
            "(text) => document.querySelector('h1')?.innerText === text", arg=heading
        )

    def test_every_view_by_its_key_and_picks_kept(self):
        self.open(self.address("profile/"))
        self.page.keyboard.press("ArrowDown")
        self.page.wait_for_url("**chosen=*")
        chosen = self.page.url.split("chosen=")[1].split("&")[0]
        self.page.keyboard.press("l")
        self.page.wait_for_url("**lit=*")
        headings = {"trade-off": "Trade-off", "failure-modes": "Failure modes"}
        for key, view in VIEWS.items():
            self.press(view.letter, headings.get(key, view.name))
            self.assertIn(f"chosen={chosen}", self.page.url)
            self.assertIn(f"lit={chosen}", self.page.url)
            self.assertEqual(self.page.locator("nav.tabs [aria-current]").inner_text(), view.name)
        self.press("p", "Profile")
        self.assertEqual(self.page.locator("tr.is-chosen.is-lit").count(), 1)
        self.page.keyboard.press("2")
        self.page.wait_for_url("**sort=2*")
        self.page.keyboard.press("t")
        self.sees("Every specimen as a table")
        self.assertTrue(self.page.locator("details[open] table").is_visible())

    def saved(self, kind: str) -> bytes:
        """The file a view is saved as."""
        with self.page.expect_download() as waiting:
            self.page.locator(f"[data-save={kind}]").click()
        return open(waiting.value.path(), "rb").read()

    def test_saved_drawings_open_by_themselves(self):
        import io

        from lxml import etree
        from PIL import Image

        for view in ("", "profile/", "two-factors/", "trade-off/", "anisotropy/"):
            self.open(self.address(view))
            if view == "two-factors/":
                continue
            root = etree.fromstring(self.saved("svg"))
            texts = " ".join(t.text or "" for t in root.iter("{http://www.w3.org/2000/svg}text"))
            self.assertIn(PC, texts, view)
            self.assertGreater(len(list(root.iter("{http://www.w3.org/2000/svg}circle"))), 2, view)
            self.assertNotIn("Save SVG", texts)
            picture = np.array(Image.open(io.BytesIO(self.saved("png"))).convert("L"))
            self.assertGreater(picture.shape[1], 1500)
            self.assertGreater((picture < 128).sum(), 2000, view)
        self.page.set_content(etree.tostring(root).decode())
        self.assertEqual(self.page.locator("svg").first.evaluate("(s) => s.tagName"), "svg")

    def test_from_a_mark_to_its_specimen(self):
        self.open(self.address("profile/"))
        mark = self.page.locator(".pf-cell a").first
        mark.focus()
        self.page.keyboard.press("Enter")
        self.page.wait_for_url("**/specimens/**")

    def test_weights_are_typed(self):
        self.open(self.address("trade-off/"))
        first = self.page.locator("form input[inputmode=decimal]").first
        first.fill("0")
        self.page.get_by_role("button", name="Apply weights").click()
        self.page.wait_for_url("**w*=0*")
        self.sees("leads in")

    def test_small_screens_do_not_scroll_sideways(self):
        for wide, high in ((390, 800), (1024, 768)):
            self.page.set_viewport_size({"width": wide, "height": high})
            for view in VIEWS:
                self.open(self.address("" if view == "ranking" else f"{view}/"))
                over = self.page.evaluate("document.documentElement.scrollWidth - innerWidth")
                self.assertLessEqual(over, 0, (view, wide))


class Forty(BrowserTestCase):
    """Forty rows with names of 80 characters, in Arabic and Chinese too: nothing runs off the page."""

    def setUp(self):
        super().setUp()
        words = (
            "Tarn ASA reinforced with " + "very " * 20,
            "خيط ألياف زجاجية " * 6,
            "玻璃纤维增强聚酰胺" * 9,
        )
        names = [f"{i:02d} {words[i % 3]}"[:80] for i in range(40)]
        self.one = campaign(self.user, materials=names, replicates=2, orientations=("flat",))
        loads = {n: [str(400 + 5 * i), str(404 + 5 * i)] for i, n in enumerate(names)}
        fill(self.one, self.user, loads)

    def test_no_view_scrolls_sideways(self):
        for width in (1280, 1024, 390):
            self.page.set_viewport_size({"width": width, "height": 800})
            for view in ("", "profile/", "paired/", "trade-off/", "failure-modes/", "summary/"):
                self.open(f"/campaigns/{self.one.pk}/compare/{view}")
                over = self.page.evaluate("document.documentElement.scrollWidth - innerWidth")
                self.assertLessEqual(over, 0, (width, view))
