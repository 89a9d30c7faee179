"""What a new user must be able to do, done in a browser; by keyboard where a tester would."""

import re
import tempfile
from pathlib import Path

from brunt_web.campaigns.models import Campaign
from brunt_web.results.models import Result
from brunt_web.testing.models import Measurement, Reading, Test
from tests.support.browser import BrowserTestCase
from tests.support.printing import batch, recipe
from tests.support.workshop import campaign, fill

PLA, ASA = "Fernhall PLA", "Tarn ASA"


class Goals(BrowserTestCase):
    def focused(self) -> str:
        return self.page.evaluate("() => document.activeElement.id")

    def test_bench_by_keyboard(self):
        one = campaign(self.user)
        self.open(f"/campaigns/{one.pk}/")
        self.page.keyboard.press("b")
        self.page.wait_for_url("**/bench/")
        first = self.heading()
        self.assertEqual(self.focused(), "f-width")
        self.type_and_enter("5.02 5.01 5.00")
        self.type_and_enter("2.01")
        self.page.keyboard.type("58.4 kg")
        self.sees("read as kilogram-force")
        self.sees("56.9", "#answer")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("b")
        self.page.keyboard.press("g")
        self.page.keyboard.press("Enter")
        self.goes_on(first)
        self.assertEqual(Test.objects.get().place, "gauge")
        self.assertEqual(Reading.objects.get().text, "58.4 kg")
        self.assertAlmostEqual(
            Result.objects.get().lower / 1e6, 58.4 * 9.80665 / (5.01 * 2.01), places=6
        )

    def test_outcomes_by_single_keys_and_undo(self):
        one = campaign(self.user)
        self.open(f"/campaigns/{one.pk}/bench/")
        first = self.heading()
        for text in ("5", "2"):
            self.type_and_enter(text)
        self.page.keyboard.type("612 N")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("h")
        self.sees("≥ 61.2", "#answer")
        self.page.keyboard.press("Enter")
        self.goes_on(first)
        self.assertEqual(Result.objects.get().observation.kind, "at_least")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("u")
        self.page.wait_for_function(
            "(was) => document.querySelector('h1').innerText === was", arg=first
        )
        self.assertEqual(Test.objects.count(), 0)
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("v")
        self.type_and_enter("slipped in the jaw")
        self.goes_on(first)
        self.assertEqual(Test.objects.get().reason, "slipped in the jaw")

    def test_slipped_unit_is_asked_about_and_changed_only_by_hand(self):
        one = campaign(self.user)
        self.open(f"/campaigns/{one.pk}/bench/")
        self.type_and_enter("5")
        self.type_and_enter("2")
        self.page.keyboard.type("48")
        self.sees("reads like kgf")
        self.assertEqual(self.page.locator("#f-force").input_value(), "48")
        self.page.get_by_role("button", name="Change to 48 kgf").click()
        self.page.wait_for_function(
            "() => document.querySelector('#answer').innerText.includes('47.1')"
        )

    def test_double_enter_stores_once(self):
        one = campaign(self.user)
        self.open(f"/campaigns/{one.pk}/bench/")
        first = self.heading()
        self.type_and_enter("5")
        self.type_and_enter("2")
        self.type_and_enter("500")
        self.page.keyboard.press("Enter")
        self.goes_on(first)
        self.page.wait_for_timeout(300)
        self.assertEqual(Test.objects.count(), 1)

    def test_bad_reading_stays_beside_its_field(self):
        one = campaign(self.user)
        self.open(f"/campaigns/{one.pk}/bench/")
        self.type_and_enter("5")
        self.type_and_enter("2")
        self.type_and_enter("fifty")
        self.sees("does not start with a number")
        self.assertEqual(self.page.locator("#f-force").input_value(), "fifty")
        self.assertEqual(Test.objects.count(), 0)

    def test_compare_and_its_switches(self):
        one = campaign(self.user)
        fill(one, self.user, {PLA: ["500", "510", "505"], ASA: ["400", "410", "405"]})
        fill(one, self.user, {PLA: ["250", "270", "260"], ASA: ["150", "170", "160"]}, "upright")
        self.open(f"/campaigns/{one.pk}/compare/")
        self.sees("Fernhall PLA leads")
        self.assertEqual(self.page.locator(".ranking-chart tbody tr").count(), 2)
        self.assertEqual(self.page.locator(".ranking-chart .l-dot").count(), 6)
        self.page.get_by_role("link", name="% of reference").click()
        self.page.wait_for_url("**show=reference**")
        self.page.get_by_label("reference", exact=True).select_option(label=ASA)
        self.sees("% of Tarn ASA")
        self.page.get_by_role("link", name="Upright ÷ flat").click()
        self.page.wait_for_function(
            "() => document.querySelector('.h-lead').innerText === 'Upright ÷ flat'"
        )
        self.page.locator(".ranking-chart a.value").first.click()
        self.sees("Fieller")

    def test_own_campaign_from_question_to_ranking(self):
        campaign(self.user)
        self.open("/")
        self.page.get_by_role("link", name="New campaign").click()
        self.page.get_by_role("link", name="Which of several materials").click()
        self.page.wait_for_load_state("networkidle")
        self.page.keyboard.type("Which for the cable guide?")
        self.page.get_by_label(PLA).check()
        self.page.get_by_text("Not in the library yet?").click()
        self.page.get_by_label("New material 1, name").fill("Weir PP")
        self.page.get_by_label("New material 1, family").select_option("pp")
        self.page.get_by_role("checkbox", name="Layer adhesion, upright").uncheck()
        self.page.get_by_label(re.compile("How many")).fill("2")
        self.sees("4", "#panel .tally strong >> nth=1")
        self.page.get_by_role("button", name="Create specimens").click()
        self.sees("4 specimens have their IDs")
        mine = Campaign.objects.get(question__startswith="Which for the cable")
        self.page.keyboard.press("b")
        self.sees("4 specimens not made yet")
        self.page.get_by_role("link", name="Fill plates, or mark").click()
        self.page.get_by_role("button", name="Mark all as made").click()
        self.sees("4 specimens made")
        self.open(f"/campaigns/{mine.pk}/")
        self.page.keyboard.press("b")
        self.bars_read("500", "300", "520", "310")
        self.sees("Nothing is ready to test")
        self.page.get_by_role("link", name="See the results").click()
        self.assertEqual(Result.objects.filter(turn__campaign=mine).count(), 4)
        self.assertEqual(self.page.locator(".ranking-chart tbody tr").count(), 2)

    def test_csv_in_and_out(self):
        one = campaign(self.user)
        self.open(f"/campaigns/{one.pk}/import-data/")
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "results.csv"
            file.write_text(
                "material;orientation;load [kgf];width [mm];thickness [mm]\nFernhall PLA;flat;58,4;5,02;2,01\nnobody;flat;1;1;1\n"
            )
            self.page.get_by_label("File: CSV").set_input_files(file)
            self.sees("1 refused")
            self.sees("There is no condition")
            self.assertTrue(self.page.get_by_role("button", name="Import 1 row").is_disabled())
            text = self.page.locator("textarea#text")
            text.fill(text.input_value().replace("nobody;flat;1;1;1\n", ""))
            self.page.get_by_role("button", name="Preview", exact=True).click()
            self.assertEqual(Test.objects.count(), 0)
            self.page.get_by_role("button", name="Import 1 row").click()
            self.sees("1 row is imported")
            # A file that is right at once is stored at the first press.
            self.open(f"/campaigns/{one.pk}/import-data/")
            file.write_text(
                "material;orientation;load [kgf];width [mm];thickness [mm]\r\nFernhall PLA;flat;58,9;5,02;2,01\r\n"
            )
            self.page.get_by_label("File: CSV").set_input_files(file)
            self.page.get_by_role("button", name="Import 1 row").click()
            self.sees("1 row is imported")
            self.open(f"/campaigns/{one.pk}/")
            self.page.get_by_text("Export", exact=True).click()
            with self.page.expect_download() as download:
                self.page.get_by_role("link", name="CSV, UTF-8", exact=True).click()
            self.assertIn("58.4 kgf", download.value.path().read_text().replace("58,4", "58.4"))

    def test_the_bench_line(self):
        one = campaign(self.user)
        code = one.specimens.last().code
        self.open("/")
        self.page.keyboard.press(" ")
        self.type_and_enter(code[:-1])
        self.sees("Did you mean")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("/")
        self.type_and_enter(code.lower())
        self.page.wait_for_url(f"**/{code}/bench/")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press(" ")
        self.type_and_enter("58.4 kgf")
        self.page.wait_for_function("() => document.querySelector('#f-force').value === '58.4 kgf'")


class AskAndPrint(BrowserTestCase):
    def test_plan_a_one_factor_from_nothing(self):
        campaign(self.user)
        self.open("/campaigns/shapes/")
        self.page.get_by_role("link", name="Which value of a setting").click()
        self.page.wait_for_url("**/campaigns/new/**")
        self.page.wait_for_load_state("networkidle")
        self.page.keyboard.type("How hot for the cable guide?")
        self.page.get_by_label(PLA).check()
        self.sees("4", "#panel .tally")
        self.page.get_by_role("button", name="Remove level 250 °C").click()
        levels = self.page.get_by_label("Factor 1, levels")
        levels.focus()
        self.page.keyboard.press("End")
        self.page.keyboard.type("; 260; 270")
        self.page.keyboard.press("Enter")
        self.sees("270", ".chips")
        self.sees("5", "#panel .tally strong >> nth=0")
        self.page.get_by_label("Difference to see, %").fill("10")
        self.sees(re.compile("of each detect the difference you want"), "#panel")
        self.page.get_by_role("button", name="Create specimens").click()
        self.sees("40 specimens have their IDs")

    def test_plan_a_grid_and_leave_one_out(self):
        campaign(self.user)
        self.open("/campaigns/new/?shape=grid")
        self.page.keyboard.type("Walls or infill?")
        self.page.get_by_label(PLA).check()
        self.page.locator(
            ".grid-cell", has=self.page.get_by_label("Exclude Walls 2, Infill 20 %")
        ).click()
        self.sees("3", "#panel .tally strong >> nth=0")
        self.page.get_by_role("button", name="Create specimens").click()
        self.sees("12 specimens have their IDs")
        self.assertEqual(Campaign.objects.latest("id").conditions.count(), 3)

    def test_accept_a_confounder(self):
        one = campaign(self.user)
        for condition, name in zip(one.conditions.all(), ("Coupons", "Thin"), strict=True):
            condition.recipe = recipe(one.workshop, name, walls="4" if name == "Coupons" else "2")
            condition.save()
        self.open(f"/campaigns/{one.pk}/ask/")
        self.sees("Walls differs and is not a factor")
        self.page.get_by_label("Accept, because").fill("solid at this width either way")
        self.page.keyboard.press("Enter")
        self.sees("Accepted by")
        self.open(f"/campaigns/{one.pk}/compare/")
        self.sees("solid at this width either way")

    def test_print_the_label_sheet(self):
        one = campaign(self.user)
        self.open(f"/campaigns/{one.pk}/labels/")
        self.page.emulate_media(media="print")
        self.assertFalse(self.page.locator(".top").is_visible())
        self.assertEqual(self.page.locator(".label-card").count(), one.specimens.count())
        self.assertGreater(len(self.page.pdf(format="A4")), 5000)

    def test_measure_a_batch_by_keyboard(self):
        made = batch(self.user)
        self.open(f"/batches/{made.pk}/measure/")
        for texts in (("5.02 5.03", "2.01", "1.27"), ("5.60", "2.00", "1.30")):
            for text in texts:
                self.type_and_enter(text)
        self.sees("width +12.0 % from nominal")
        self.eventually(lambda: Measurement.objects.count() == 6)
        self.type_and_enter("wide")
        self.type_and_enter("2")
        self.type_and_enter("1.2")
        self.sees("does not start with a number")

    def test_gcode_fills_only_when_pressed(self):
        self.open("/library/recipes/new/")
        self.page.get_by_label("Layer height, mm").fill("0.15")
        self.page.locator("#gcode").set_input_files(
            {
                "name": "a.gcode",
                "mimeType": "text/plain",
                "buffer": b"; layer height = 0.2\nM104 S235\nG1 X1 E1 F3000\nG1 X9 E2\n",
            }
        )
        self.sees("3 settings found")
        self.assertEqual(self.page.get_by_label("Nozzle temperature, °C").input_value(), "")
        self.page.get_by_role("button", name="Fill the 2 empty fields").click()
        self.assertEqual(self.page.get_by_label("Nozzle temperature, °C").input_value(), "235 °C")
        self.assertEqual(self.page.get_by_label("Layer height, mm").input_value(), "0.15")
        self.page.get_by_role("button", name="replace 0.15").click()
        self.assertEqual(self.page.get_by_label("Layer height, mm").input_value(), "0.2 mm")
