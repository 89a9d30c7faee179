"""A report read by a link and revoked, on paper and as files; a package out and in again."""

import io
import re
from tempfile import NamedTemporaryFile

from pypdf import PdfReader

from brunt_web.campaigns.models import Campaign
from brunt_web.jobs.answering import answer_job
from brunt_web.jobs.models import WAITING, Job
from brunt_web.people.models import Workshop
from tests.support.browser import BrowserTestCase
from tests.support.workshop import campaign, fill

PLA, ASA = "Fernhall PLA", "Tarn ASA"


def paper(page):
    """The page as it prints: (number of sheets, their text), by a PDF reader."""
    read = PdfReader(io.BytesIO(page.pdf(prefer_css_page_size=True)))
    text = " ".join(sheet.extract_text() for sheet in read.pages)
    return len(read.pages), re.sub(r"\s+", " ", text), read.pages[0].mediabox


class Reports(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.one = campaign(self.user)
        fill(self.one, self.user, {PLA: ["500", "501", "502"], ASA: ["300", "301", ">320"]})
        fill(self.one, self.user, {PLA: ["250", "251", "252"]}, "upright")

    def reader(self):
        """A browser that is not signed in."""
        other = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(other.close)
        return other.new_page()

    def test_a_link_is_read_without_an_account_and_revoked(self):
        self.open(f"/campaigns/{self.one.pk}/report/")
        self.page.fill("#id_summary", "PLA it is.")
        self.page.get_by_role("button", name="Save", exact=True).click()
        self.sees("Saved. It is shown in the report")
        self.page.fill("#id_name", "The board")
        self.page.get_by_role("button", name="Create link").click()
        self.sees("PLA it is.", "table")
        self.page.get_by_role("button", name="Create link").click()
        self.sees("Link created:")
        address = self.page.locator("[data-copy]").input_value()
        stranger = self.reader()
        opened = stranger.goto(address)
        self.assertEqual(opened.status, 200)
        self.assertIn("PLA it is.", stranger.inner_text("main"))
        self.assertIn("Tension, flat: Fernhall PLA leads", stranger.inner_text("main"))
        self.assertEqual(stranger.locator(".line, .corner, form").count(), 0)
        stranger.locator(".rp-ranking-chart a").first.click()
        self.assertRegex(stranger.url, r"#t\d+-[A-Z0-9-]+$")
        with stranger.expect_download() as given:
            stranger.get_by_role("link", name="Data package").click()
        self.assertEqual(given.value.suggested_filename, "brunt-package.zip")
        with stranger.expect_download() as given:
            stranger.locator("[data-save=svg]").first.click()
        self.assertEqual(given.value.suggested_filename, "tension-flat.svg")
        with open(given.value.path(), encoding="utf-8") as file:
            drawn = file.read()
        self.assertIn("Fernhall PLA", drawn)
        self.assertNotIn("Layer adhesion", drawn)
        self.page.get_by_role("button", name="Revoke").click()
        self.sees("Link revoked")
        gone = stranger.goto(address)
        self.assertEqual(gone.status, 410)
        self.assertIn("was revoked on", stranger.inner_text("main"))

    def test_on_paper_it_is_whole_and_the_short_one_is_one_sheet(self):
        self.open(f"/campaigns/{self.one.pk}/report/")
        sheets, text, box = paper(self.page)
        self.assertEqual((round(box.width), round(box.height)), (595, 842))
        self.assertGreater(sheets, 1)
        for told in ("Which for the pawl?", "How conditioned", "Tension bar 1BA", "peak load 500 N", "ISO 527-1", "Cite as", "qualified engineer"):  # fmt: skip
            self.assertIn(told, text)
        for code in self.one.specimens.values_list("code", flat=True)[:6]:
            self.assertIn(code, text)
        self.assertNotIn("Create link", text)
        self.open(f"/campaigns/{self.one.pk}/report/?short=1")
        sheets, text, _ = paper(self.page)
        self.assertEqual(sheets, 1)
        self.assertIn("Fernhall PLA leads", text)

    def test_forty_long_names_fit_one_sheet_and_no_screen_scrolls(self):
        names = [f"{'Ilex tough resin with a very long house name for its bottle ' * 2}"[:70] + f" {i:02d}" for i in range(37)]  # fmt: skip
        names += ["برج الزجاج القديم", "玻璃屋测试材料", "Weir"]
        many = campaign(self.user, materials=names, orientations=("flat",), replicates=2, question="Which of forty, " * 10)  # fmt: skip
        fill(many, self.user, {n: [f"{400 + 3 * i}", f"{404 + 3 * i}"] for i, n in enumerate(names)})  # fmt: skip
        self.open(f"/campaigns/{many.pk}/report/?short=1")
        sheets, text, _ = paper(self.page)
        self.assertEqual(sheets, 1)
        self.assertIn("more, in the whole report", text)
        for width in (390, 1024):
            self.page.set_viewport_size({"width": width, "height": 768})
            for short in ("", "?short=1"):
                self.open(f"/campaigns/{many.pk}/report/{short}")
                over = self.page.evaluate("document.documentElement.scrollWidth - innerWidth")
                self.assertLessEqual(over, 0, (width, short))

    def work(self):
        """What the jobs' worker would do with the form that was sent last."""
        waiting = Job.objects.filter(state=WAITING)
        self.eventually(waiting.exists)
        answer_job(waiting.get())

    def test_a_package_out_and_in(self):
        self.open(f"/campaigns/{self.one.pk}/")
        self.page.get_by_text("Export", exact=True).click()
        with self.page.expect_download() as given:
            self.page.get_by_text("Data package (zip)").click()
        with open(given.value.path(), "rb") as file:
            content = file.read()
        self.open("/packages/")
        self.page.get_by_role("button", name="Preview", exact=True).click()
        self.sees("Choose the package first.")
        with NamedTemporaryFile(suffix=".zip") as file:
            file.write(content)
            file.flush()
            self.page.set_input_files("#id_file", file.name)
            self.page.get_by_role("button", name="Preview", exact=True).click()
            self.work()
            self.sees("is complete. Nothing has been imported yet.")
            self.assertEqual(Workshop.objects.count(), 1)
            self.page.fill("#id_name", "From next door")
            self.page.get_by_role("button", name="Import").click()
            self.work()
            self.sees("“From next door” is imported")
        self.page.get_by_role("button", name="Switch to “From next door”").click()
        self.sees("You are in “From next door” now.")
        self.page.locator(".card").click()
        self.page.wait_for_url("**/campaigns/*/")
        copy = Campaign.objects.exclude(pk=self.one.pk).get()
        self.assertIn(f"/campaigns/{copy.pk}/", self.page.url)
        self.open(f"/campaigns/{copy.pk}/compare/")
        self.sees("Fernhall PLA leads")
