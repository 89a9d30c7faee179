"""A large file read behind with progress and cancel; printed sheets; the system's own colours."""

import io
import tempfile
from pathlib import Path
from threading import Thread

from django.db import connection
from pypdf import PdfReader

from brunt_web.jobs.answering import answer_job
from brunt_web.jobs.models import CANCELLED, Job
from tests.support.browser import BrowserTestCase
from tests.support.media import own_media
from tests.support.workshop import campaign


def done_behind(job):
    """What the worker would do, on a link of its own."""

    def work():
        answer_job(Job.objects.get(pk=job.pk))
        connection.close()

    thread = Thread(target=work)
    thread.start()
    thread.join(60)


class Behind(BrowserTestCase):
    def setUp(self):
        super().setUp()
        own_media(self)

    def waiting(self):
        """The job that was just sent."""
        for _ in range(200):
            if found := Job.objects.filter(state="waiting").first():
                return found
            self.page.wait_for_timeout(50)
        raise AssertionError("no job came")

    def test_a_large_gcode_file_fills_the_recipe_when_it_is_read(self):
        self.open("/library/recipes/new/")
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "long.gcode"
            file.write_text(
                "; layer_height = 0.24\n" + "G1 X1.123 Y2.456 E0.0123 F3000\n" * 140_000
            )
            self.page.locator("[data-gcode] input[type=file]").set_input_files(file)
            job = self.waiting()
            self.sees("Waiting")
            Job.objects.filter(pk=job.pk).update(done=1_000_000, total=4_000_000, unit="MB")
            done_behind(job)
            self.sees("140001 lines read")
            self.page.get_by_role("button", name="Fill the").click()
            self.assertEqual(self.page.locator('[name="layer_height"]').input_value(), "0.24 mm")
            self.page.locator("[data-gcode] input[type=file]").set_input_files(file)
            job = self.waiting()
            self.page.get_by_role("button", name="Cancel").click()
            self.sees("Nothing was saved")
            self.assertEqual(Job.objects.get(pk=job.pk).state, CANCELLED)

    def test_a_jobs_page_moves_and_becomes_the_answer(self):
        one = campaign(self.user)
        self.open(f"/campaigns/{one.pk}/import-data/")
        rows = "condition;procedure;load;width;thickness;note\n"
        rows += f"Fernhall PLA;flat;58.4 kgf;5 mm;2 mm;{'hung from the beam ' * 22}\n" * 100
        self.page.get_by_label("or paste its lines").fill(rows)
        self.page.get_by_role("button", name="Preview", exact=True).click()
        job = self.waiting()
        self.sees("This runs in the background")
        Job.objects.filter(pk=job.pk).update(state="running", done=9, total=30, unit="rows read")
        self.sees("9 of 30 rows read")
        Job.objects.filter(pk=job.pk).update(state="waiting")
        done_behind(job)
        self.sees("100 rows")
        self.page.get_by_role("button", name="Import 100 rows").click()
        store = self.waiting()
        done_behind(store)
        self.sees("100 rows are imported")


class Sheets(BrowserTestCase):
    def pdf(self, path):
        self.open(path)
        return PdfReader(io.BytesIO(self.page.pdf(prefer_css_page_size=True)))

    def test_every_sheet_says_what_it_is_of_and_when_it_was_printed(self):
        one = campaign(self.user, question="Which filament for the vent-crank arm?")
        for path, upright in ((f"/campaigns/{one.pk}/", False), (f"/campaigns/{one.pk}/bench/", True), ("/changes/", True)):  # fmt: skip
            with self.subTest(path):
                sheets = self.pdf(path).pages
                for number, sheet in enumerate(sheets, 1):
                    text = sheet.extract_text().replace("\ufb01", "fi")
                    self.assertRegex(text, r"printed \d+ \w+ \d{4}, \d\d:\d\d UTC")
                    self.assertIn(f"{number} of {len(sheets)}", text)
                    if "/campaigns/" in path:
                        self.assertIn("vent-crank arm", text)
                self.assertEqual(sheets[0].mediabox.height > sheets[0].mediabox.width, upright)

    def test_the_bench_is_not_cut(self):
        one = campaign(self.user)
        text = "".join(p.extract_text() for p in self.pdf(f"/campaigns/{one.pk}/bench/").pages)
        for said in ("Peak load", "Width", "Thickness", "did not break", "upper grip", "lower grip", "Wear glasses"):  # fmt: skip
            self.assertIn(said, text)

    def test_in_the_systems_own_colours_drawings_stay_and_what_is_chosen_shows(self):
        one = campaign(self.user)
        self.page.emulate_media(forced_colors="active")
        self.open(f"/campaigns/{one.pk}/compare/")
        ground = "e => getComputedStyle(e).backgroundColor"
        chosen = self.page.locator("main a[aria-current]").first.evaluate(ground)
        other = self.page.locator("main nav a:not([aria-current])").first.evaluate(ground)
        self.assertNotEqual(chosen, other)
        self.open(f"/campaigns/{one.pk}/")
        sheet = self.page.locator("main svg").first.evaluate(ground)
        self.assertEqual(sheet, "rgb(247, 249, 249)")
