"""What was broken on the screen: links to what is missing, counts that agree, a custom unit."""

from html import unescape
from uuid import uuid4

from django.test import TestCase
from django.utils.html import strip_tags

from brunt_core.quantities import parse
from brunt_web.asking.templatetags.plans import levels_words
from brunt_web.library.models import Printer
from brunt_web.results.models import Result
from brunt_web.testing.actions.record_test import Entry
from brunt_web.testing.models import Reading
from tests.support.bench import bench_of
from tests.support.workshop import BACKEND, NOW, campaign, fill, person, put, turn


def plain(page) -> str:
    """A page's text without its tags."""
    return " ".join(unescape(strip_tags(page.content.decode())).split())


class Links(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)

    def test_a_new_recipe_is_linked_from_library_ask_and_print(self):
        one = campaign(self.user, printed=False)
        for address in ("/library/", "/library/add/", "/campaigns/new/?shape=rank", f"/campaigns/{one.pk}/print/"):  # fmt: skip
            self.assertContains(self.client.get(address), 'href="/library/recipes/new/"')

    def test_what_a_plate_lacks_leads_to_the_form_it_names(self):
        one = campaign(self.user, printed=False)
        address = f"/campaigns/{one.pk}/print/"
        page = self.client.get(address)
        self.assertContains(page, 'href="/library/add/#printer-form"')
        self.assertContains(page, 'href="/library/add/#lot-form"')
        self.assertContains(self.client.get("/library/add/"), 'id="printer-form"')
        self.assertContains(self.client.get("/library/add/"), 'id="lot-form"')
        printer = Printer.objects.create(
            workshop=self.user.seat.workshop, name="Mast", bed_width=200, bed_depth=200
        )
        sent = {
            "procedure": one.procedures.first().pk, "printer": printer.pk, "gap": "5", "each": "1",
        }  # fmt: skip
        asked = self.client.post(address, sent)
        self.assertContains(asked, "choose the lot", status_code=422)
        self.assertContains(asked, '<a href="#lot">Choose the lot</a>', status_code=422)

    def test_a_title_holds_text_alone_and_counts_agree(self):
        day = self.client.get("/day/").content.decode()
        title = day.split("<title>")[1].split("</title>")[0]
        self.assertNotIn("<", title)
        self.assertNotIn("&lt;", title)
        one = campaign(self.user, materials=("Fernhall PLA", "Tarn ASA"))
        plan = plain(self.client.get(f"/campaigns/{one.pk}/ask/"))
        self.assertIn("2 materials = 2 conditions", plan)
        self.assertEqual(levels_words(one.factors.get(), ["one"]), "material")


class CustomUnit(TestCase):
    def test_a_custom_measurement_takes_its_own_unit(self):
        user = person()
        one = bench_of(user, "measure", parameters={"name": "Gap", "unit": "mm"}, replicates=4)
        bars = list(one.specimens.order_by("pk"))
        for bar, text in zip(bars, ("0.15 mm", "0.15", "150 µm", "0.16 mm; 0.14 mm"), strict=False):
            put(turn(bar), user, Entry(uuid4(), NOW, {"value": text}, ""))
            found = Result.objects.get(turn__specimen=bar)
            self.assertAlmostEqual(found.lower, 0.15, places=12)
            self.assertEqual(Reading.objects.get(test__turn__specimen=bar).text, text)
        self.client.force_login(user, backend=BACKEND)
        page = self.client.get(f"/specimens/{bars[0].code}/")
        self.assertContains(page, "0.15 mm")
        self.assertEqual(parse("0.15 mm", "length").si, 0.00015)


class SmallLies(TestCase):
    def test_one_test_in_each_of_many_conditions_opens_the_summary(self):
        """Variance components had as many means as values: a division by nothing."""
        user = person()
        self.client.force_login(user, backend=BACKEND)
        names = [f"Lot {i} PLA" for i in range(5)]
        one = campaign(user, materials=names, replicates=1, orientations=("flat",))
        fill(one, user, {name: [f"{500 + 9 * i}"] for i, name in enumerate(names)})
        for view in ("summary/", "profile/", ""):
            answer = self.client.get(f"/campaigns/{one.pk}/compare/{view}")
            self.assertEqual(answer.status_code, 200, view)
