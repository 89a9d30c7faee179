"""Own parts, G-code, bring-up and the recipe's cut, done in a browser as a tester would; numbers made up."""

import trimesh

from brunt_web.library.models import Procedure, Recipe, SpecimenVariant
from brunt_web.printing.models import Plate
from brunt_web.results.models import Result
from tests.core.test_gcode import COMMA_PAIRS, HEAD_COLONS, TAIL_EQUALS
from tests.support.browser import BrowserTestCase
from tests.support.plans import Shop, factor
from tests.support.printing import batch, recipe
from tests.support.workshop import made


def stl() -> bytes:
    foot = trimesh.creation.box((60, 20, 6)).apply_translation((30, 10, 3))
    lip = trimesh.creation.box((6, 20, 40)).apply_translation((3, 10, 20))
    return trimesh.boolean.union([foot, lip], engine="manifold").export(file_type="stl")


def file(lines, name="plate.gcode"):
    return {"name": name, "mimeType": "text/plain", "buffer": "\n".join(lines).encode()}


class Making(BrowserTestCase):
    def press(self, view: str, across: float, up: float):
        """Press on a view at shares of its width and height."""
        box = self.page.locator(f'[data-view="{view}"] .t-press').bounding_box()
        self.page.mouse.click(box["x"] + box["width"] * across, box["y"] + box["height"] * (1 - up))
        self.sees("Marked.")

    def beads(self, which: str) -> int:
        """How many beads of a kind are drawn."""
        counts = "groups => groups.reduce((n, g) => n + Number(g.dataset.beads), 0)"
        return self.page.locator(which).evaluate_all(counts)

    def test_an_own_part_from_its_file_to_newtons(self):
        plans = Shop(self.user)
        self.open("/library/parts/new/")
        self.page.get_by_label("Name").fill("Lip bracket")
        self.page.locator("[type=file]").set_input_files(
            {"name": "lip.stl", "mimeType": "model/stl", "buffer": stl()}
        )
        self.page.get_by_role("button", name="Import").click()
        self.sees("on its largest face")
        self.press("above", 0.9, 0.5)
        self.page.get_by_label("Section of interest").check()
        self.press("side", 0.2, 0.1)
        self.page.get_by_label("Where it may fail first").check()
        self.page.locator("[name=place-0-name]").fill("inner corner")
        self.press("side", 0.05, 0.5)
        self.sees("A load of 1 N causes")
        part = SpecimenVariant.objects.get()
        self.assertEqual(part.part["places"][0]["label"], "inner corner")
        self.page.get_by_role("link", name="New procedure").click()
        self.page.wait_for_url("**method=part-break")
        self.page.locator("#id_name").fill("Break the bracket")
        self.page.get_by_label("Specimen type").select_option(label="Lip bracket")
        self.page.get_by_role("button", name="Save procedure").click()
        self.eventually(lambda: Procedure.objects.filter(name="Break the bracket").exists())
        procedure = Procedure.objects.get(name="Break the bracket")
        one = made(plans.plan(factor("condition", "room", "60 °C"), procedures=[procedure]), self.user)  # fmt: skip
        room = one.turns.filter(condition__label__contains="room").first()
        self.open(f"/specimens/{room.code}/bench/")
        self.page.locator("#f-force").fill("12 kgf")
        self.sees("118", "#answer")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("i")
        self.page.keyboard.press("Enter")
        self.eventually(lambda: Result.objects.filter(property_key="peak_load").exists())
        found = {r.property_key: r.lower for r in Result.objects.all()}
        self.assertAlmostEqual(found["peak_load"], 12 * 9.80665, places=4)
        self.assertAlmostEqual(
            found["section_stress"], found["peak_load"] * part.part["stress_per_load"], delta=5e3
        )

    def test_g_code_of_three_dialects_into_a_recipe_and_against_a_batch(self):
        for lines in (TAIL_EQUALS, HEAD_COLONS, COMMA_PAIRS):
            self.open("/library/recipes/new/")
            if self.page.get_by_role("button", name="Discard this draft").count():
                self.page.get_by_role("button", name="Discard this draft").click()
                self.page.wait_for_load_state("networkidle")
            self.page.locator("#gcode").set_input_files(file(lines))
            self.page.get_by_role("button", name="empty fields").click()
            self.page.wait_for_function(
                "() => document.querySelector('[name=walls]').value === '4'"
            )
            self.sees("bending bar 80", "#drawn")
            self.assertEqual(self.page.locator("[name=infill]").input_value(), "35 %")
            self.assertEqual(self.page.locator("[name=nozzle_temperature]").input_value(), "238 °C")
        self.page.get_by_label("Name", exact=True).fill("From a file")
        self.page.get_by_role("button", name="Save", exact=True).click()
        self.sees("From a file, version 1 is stored")
        found = batch(self.user, printed=False)
        self.open(f"/batches/{found.pk}/")
        self.page.get_by_text("Printed with something else").click()
        self.page.locator("#gcode-1").set_input_files(file(TAIL_EQUALS))
        self.page.get_by_role("button", name="Only compare with plate sheet").click()
        self.sees("215 °C", "#against")
        self.sees("238 °C", "#against")
        self.assertIsNone(Plate.objects.get().printed_at)

    def test_bringing_up_ends_in_a_version(self):
        one = recipe(self.user.seat.workshop)
        self.open(f"/library/recipes/{one.pk}/")
        self.page.get_by_role("link", name="Tune").click()
        self.sees("Temperature tower")
        for row, grade in enumerate("254321"):
            self.page.locator(f'[name="seen-{row}"][value="{grade}"]').check()
        self.sees("is the best of 6", "#says")
        self.page.get_by_role("button", name="Create next version").click()
        self.page.wait_for_url("**/recipes/*/")
        found = Recipe.objects.get(version=2)
        self.assertEqual(found.settings["nozzle_temperature"]["shown"], "225 °C")
        self.assertIn("Temperature tower", found.reason)
        self.sees("Temperature tower: ")

    def test_the_cut_answers_to_keys(self):
        one = recipe(self.user.seat.workshop, infill="20", top_layers="3", bottom_layers="3")
        self.open(f"/library/recipes/{one.pk}/")
        walls = self.page.locator("[name=walls]")
        before = self.beads(".b-wall")
        walls.focus()
        self.page.keyboard.press("ArrowDown")
        self.assertEqual(walls.input_value(), "3")
        self.sees("was 4")
        self.assertLess(self.beads(".b-wall"), before)
        self.assertGreater(self.beads(".bead.lit"), 0)
        self.page.locator("[data-cut]").focus()
        self.page.keyboard.press("ArrowRight")
        self.page.keyboard.press("ArrowRight")
        self.assertEqual(self.page.locator(".cutsheet").get_attribute("data-lit"), "wall")
        self.page.keyboard.press("Enter")
        self.assertEqual(self.page.evaluate("() => document.activeElement.name"), "walls")
        self.page.locator("[name=layer_height]").fill("20 mm")
        self.sees("is outside 0.02", "#drawn")
        self.page.locator("[name=layer_height]").fill("0.3")
        self.sees("layers come to", "#drawn")
