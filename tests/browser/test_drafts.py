"""Long forms keep what was typed over a reload, and forget it once it is saved or discarded."""

from brunt_web.library.models import Recipe
from tests.support.browser import BrowserTestCase
from tests.support.workshop import campaign


class Drafts(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.one = campaign(self.user)

    def value(self, name: str) -> str:
        return self.page.locator(f"form[data-draft] [name='{name}']").first.input_value()

    def type_reload_and_find(self, address: str, typed: dict[str, str]):
        """What is typed into a form stands there after a reload, and says that it is not saved."""
        self.open(address)
        for name, text in typed.items():
            self.page.locator(f"form[data-draft] [name='{name}']").first.fill(text)
        self.page.reload()
        self.page.wait_for_load_state("networkidle")
        self.sees("it is not saved yet")
        self.assertEqual({name: self.value(name) for name in typed}, typed)

    def test_each_long_form_survives_a_reload(self):
        base = f"/campaigns/{self.one.pk}"
        for address, typed in (
            ("/library/recipes/new/", {"name": "Solid, slow", "layer_height": "0.15 mm"}),
            (f"{base}/decide/new/", {"name": "Vent-crank arm", "load": "20 kgf"}),
            ("/library/procedures/?method=flexure", {"name": "Bending, 64 mm span"}),
        ):
            with self.subTest(address):
                self.type_reload_and_find(address, typed)

    def test_a_question_with_rows_that_were_added_survives_a_reload(self):
        self.open("/campaigns/new/?shape=grid")
        self.page.locator("[name='question']").fill("Walls or infill?")
        rows = {"f-0-levels": "2; 4", "f-1-levels": "20 %; 80 %"}
        for name, text in rows.items():
            self.page.locator(f"[name='{name}']").fill(text)
        self.page.locator("[data-factor]").last.locator("[name$=-levels]").fill("1; 2; 3")
        count = self.page.locator("[data-factor]").count()
        self.page.get_by_label("Fernhall PLA").check()
        self.page.reload()
        self.page.wait_for_load_state("networkidle")
        self.sees("it is not saved yet")
        self.assertEqual(self.value("question"), "Walls or infill?")
        self.assertEqual({name: self.value(name) for name in rows}, rows)
        self.assertEqual(self.page.locator("[data-factor]").count(), count)
        self.assertTrue(self.page.get_by_label("Fernhall PLA").is_checked())

    def test_a_draft_goes_when_it_is_discarded_or_saved(self):
        self.type_reload_and_find("/library/recipes/new/", {"name": "Solid, slow"})
        self.page.get_by_role("button", name="Discard this draft").click()
        self.page.wait_for_load_state("networkidle")
        self.assertEqual(self.value("name"), "")
        self.assertEqual(self.page.get_by_text("it is not saved yet").count(), 0)
        self.page.locator("[name='name']").first.fill("Solid, slow")
        self.page.locator("form[data-draft] [name='layer_height']").fill("0.2 mm")
        self.page.locator("form[data-draft] .btn.main").first.click()
        self.eventually(lambda: Recipe.objects.filter(name="Solid, slow").exists())
        self.open("/library/recipes/new/")
        self.assertEqual(self.value("name"), "")
        self.assertEqual(self.page.get_by_text("it is not saved yet").count(), 0)
