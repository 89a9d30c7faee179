"""Library and Print on the web."""

import io
import zipfile

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone
from PIL import Image

from brunt_core.errors import InputError
from brunt_web.campaigns.models import HistoryEvent, Specimen
from brunt_web.campaigns.queries import next_up
from brunt_web.interface.pictures import clean_picture
from brunt_web.library.actions.lots import add_lot, log_drying
from brunt_web.library.actions.standard_procedures import ensure_standard_procedures
from brunt_web.library.models import Lot, Printer, Procedure, Recipe, SpecimenVariant
from brunt_web.printing.actions.batches import BatchDraft, make_batch, note_print, reprint
from brunt_web.printing.models import Batch, Grade, Plate, Print
from tests.support.printing import SETTINGS, batch, recipe
from tests.support.workshop import BACKEND, NOW, campaign, person


def first_print(batch) -> Print:
    """The first print of a batch."""
    return Print.objects.filter(plate__batch=batch).select_related("specimen__campaign").first()


class Library(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.shop = cls.user.seat.workshop

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def test_recipe_is_copied_once_used_and_compared(self):
        self.client.post("/library/recipes/new/", {"kind": "filament", "name": "Solid", **SETTINGS})
        one = Recipe.objects.get()
        self.client.post(f"/library/recipes/{one.pk}/", SETTINGS | {"walls": "3"})
        self.assertEqual([r.settings["walls"]["shown"] for r in Recipe.objects.all()], ["3"])
        made = batch(self.user)
        self.client.post(f"/library/recipes/{made.recipe_id}/", SETTINGS | {"walls": "2"})
        versions = Recipe.objects.filter(name="Coupons").order_by("version")
        self.assertEqual(
            [(r.version, r.settings["walls"]["shown"]) for r in versions], [(1, "4"), (2, "2")]
        )
        page = self.client.get(f"/library/recipes/{versions[0].pk}/against/{versions.last().pk}/")
        self.assertContains(page, "differs")

    def test_all_of_them_made_asks_about_filled_plates_and_takes_them_off(self):
        made = batch(self.user, printed=False)
        one = made.campaign
        lying = Print.objects.filter(plate__batch=made).count()
        self.assertGreater(lying, 0)
        address = reverse("mark-as-made", args=[one.pk])
        asked = self.client.post(address, {"how": "bought", "words": "from Dray"})
        self.assertContains(
            asked, f"{lying} of these specimens lie on filled plates", status_code=409
        )
        self.assertFalse(one.specimens.filter(made="made").exists())
        self.assertEqual(Print.objects.filter(plate__batch=made).count(), lying)
        self.client.post(address, {"how": "bought", "words": "from Dray", "off_plates": "on"})
        self.assertFalse(one.specimens.exclude(made="made").exists())
        self.assertFalse(Print.objects.exists() or Plate.objects.exists() or Batch.objects.exists())
        told = set(
            HistoryEvent.objects.filter(specimen__campaign=one).values_list("kind", flat=True)
        )
        self.assertLessEqual({"off_plate", "made"}, told)

    def test_of_a_plate_that_others_share_only_these_are_taken_off(self):
        made = batch(self.user, printed=False)
        one = made.campaign
        other = one.conditions.exclude(label="Fernhall PLA").get()
        plate = made.plates.first()
        moved = other.specimens.first()
        Print.objects.create(specimen=moved, plate=plate, x=0.0, y=0.0)
        pla = one.conditions.get(label="Fernhall PLA")
        address = reverse("mark-as-made", args=[one.pk])
        self.client.post(address, {"condition": pla.pk, "how": "bought", "off_plates": "on"})
        self.assertEqual([p.specimen for p in Print.objects.all()], [moved])
        self.assertFalse(one.specimens.filter(condition=other, made="made").exists())

    def test_recipe_keeps_what_cannot_be_read(self):
        bad = self.client.post(
            "/library/recipes/new/",
            {
                "kind": "filament",
                "name": "X",
                "nozzle_temperature": "soon",
                "layer_height": "20 mm",
                "walls": "4",
            },
        )
        for text in ('value="soon"', "is outside 0.02 to 1.2 mm", 'value="4"'):
            self.assertContains(bad, text, status_code=422)
        self.assertEqual(Recipe.objects.count(), 0)
        resin = self.client.post(
            "/library/recipes/new/",
            {"kind": "resin", "name": "R", "exposure": "2.5 s", "cure_time": "6"},
            follow=True,
        )
        self.assertContains(resin, "R, version 1 is stored")

    def test_gcode_is_read_and_never_stored(self):
        text = b"; layer height = 0.2\nM104 S999\nG1 X1 E1 F3000\nG1 X9 E2\n"
        found = self.client.post(
            "/library/recipes/gcode/",
            {"gcode": SimpleUploadedFile("a.gcode", text), "kind": "filament"},
        ).json()
        self.assertEqual(
            {f["key"]: bool(f["problem"]) for f in found["found"]},
            {"layer_height": False, "nozzle_temperature": True, "speed": False},
        )
        bad = self.client.post(
            "/library/recipes/gcode/",
            {"gcode": SimpleUploadedFile("a.gcode", b"hello\n" * 30), "kind": "filament"},
        )
        self.assertContains(bad, "not a G-code file", status_code=422)
        self.assertEqual(Recipe.objects.count(), 0)

    def test_lot_drying_and_warning(self):
        campaign(self.user)
        material = self.shop.materials.first()
        material.family = "pa12"
        material.save()
        self.client.post(
            "/library/lots/new/",
            {"material": material.pk, "name": "spool 1", "bought": "1 kg", "price": "58"},
        )
        lot = Lot.objects.get()
        self.assertEqual(lot.price_per_kg, 58)
        address = f"/library/lots/{lot.pk}/"
        self.assertContains(self.client.get(address), "no drying is logged")
        self.assertContains(
            self.client.post(address + "dried/", {"temperature": "900", "duration": "8 h"}),
            "between 20 and 200",
            status_code=422,
        )
        self.assertContains(
            self.client.post(
                address + "dried/",
                {"temperature": "70", "duration": "8 h", "before": "1000 g", "after": "1010 g"},
            ),
            "swapped",
            status_code=422,
        )
        self.client.post(
            address + "dried/",
            {"temperature": "70 °C", "duration": "8 h", "before": "1042 g", "after": "1038 g"},
        )
        self.assertContains(self.client.get(address), "0.38 %")
        self.assertNotContains(self.client.get(address), "dry it")
        self.client.post(address + "weighed/", {"remaining": "640 g"})
        self.assertAlmostEqual(Lot.objects.get().remaining, 0.64)

    def test_own_specimen_type_from_drawing_to_procedure(self):
        address = "/library/types/tension-1ba/"
        sizes = {
            "overall": "90",
            "parallel": "40",
            "radius": "30",
            "wide": "12",
            "narrow": "6",
            "thickness": "3",
            "gauge": "30",
            "outer_radius": "0",
        }
        self.assertContains(
            self.client.post(address + "drawn/", sizes | {"radius": "0.2"}),
            "cannot climb",
            status_code=422,
        )
        self.assertContains(self.client.post(address + "drawn/", sizes), "18.00</strong>mm²")
        self.client.post(address + "own/", sizes | {"name": "House bar"})
        own = SpecimenVariant.objects.get()
        page = f"/library/types/own-{own.pk}/"
        ensure_standard_procedures(self.user.seat.workshop)
        self.client.post(
            page + "procedure/",
            {"procedure": Procedure.objects.first().pk, "name": "Tension, house bar"},
        )
        self.assertEqual(
            Procedure.objects.get(name="Tension, house bar").geometry.nominal,
            {"width": 6, "thickness": 3},
        )
        self.assertGreater(len(self.client.get(f"/library/types/own-{own.pk}.stl").content), 1000)
        self.assertEqual(self.client.get("/library/types/nothing/").status_code, 404)


class Printing(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)

    def test_batch_by_form_and_its_problems(self):
        one = campaign(self.user, orientations=("flat",), printed=False)
        shop, address = self.user.seat.workshop, f"/campaigns/{one.pk}/print/"
        procedure = one.procedures.get()
        self.assertContains(self.client.get(address), "Add a printer first")
        self.assertContains(
            self.client.post(address, {"procedure": procedure.pk}),
            "Choose a printer",
            status_code=422,
        )
        printer = Printer.objects.create(workshop=shop, name="B", bed_width=60, bed_depth=60)
        form = {"printer": printer.pk, "procedure": procedure.pk, "gap": "5"}
        self.assertContains(self.client.post(address, form), "several materials", status_code=422)
        lot = add_lot(shop, shop.materials.first(), "s")
        self.assertContains(
            self.client.post(address, form | {"lot": lot.pk}), "the bed of 60", status_code=422
        )
        Printer.objects.update(bed_width=220, bed_depth=220)
        self.assertContains(
            self.client.post(address, form | {"lot": lot.pk, "gap": "-3"}),
            "between 0 and 200",
            status_code=422,
        )
        self.assertContains(
            self.client.post(address, form | {"lot": lot.pk}, follow=True), "Plate 1"
        )

    def test_state_follows_printing_failing_and_reprinting(self):
        made = batch(self.user, printed=False)
        specimen = first_print(made).specimen
        self.assertEqual(specimen.made, "planned")
        self.client.post(f"/batches/{made.pk}/plates/1/printed/")
        self.assertLess(Lot.objects.get().remaining, 1.0)
        specimen = Specimen.objects.get(pk=specimen.pk)
        self.assertEqual(specimen.made, "made")
        self.client.post(
            f"/batches/{made.pk}/outcome/",
            {"specimen": specimen.code, "failed": "1", "defects": ["warping", "clog"]},
        )
        specimen = Specimen.objects.get(pk=specimen.pk)
        self.assertEqual((specimen.made, specimen.print.defects), ("failed", ["warping", "clog"]))
        self.assertNotEqual(next_up(made.campaign).specimen, specimen)
        self.client.post(f"/batches/{made.pk}/reprint/", {"specimen": specimen.code})
        self.assertEqual(Specimen.objects.get(replaces=specimen).condition, specimen.condition)
        with self.assertRaisesRegex(InputError, "replaced by"):
            reprint(Specimen.objects.get(pk=specimen.pk), self.user)
        with self.assertRaisesRegex(InputError, "not on the list"):
            note_print(first_print(made), self.user, NOW, False, ["gremlins"], "")

    def test_a_spare_takes_the_place_of_a_lost_one(self):
        made = batch(self.user)
        lost = first_print(made)
        spare = lost.specimen.condition.specimens.exclude(pk=lost.specimen_id).first()
        Specimen.objects.filter(pk=spare.pk).update(spare=True)
        note_print(lost, self.user, NOW, True, [], "")
        self.assertFalse(Specimen.objects.get(pk=spare.pk).spare)

    def test_files_carry_ids(self):
        made = batch(self.user)
        body = self.client.get(f"/batches/{made.pk}/plate-1.3mf")
        model = zipfile.ZipFile(io.BytesIO(body.content)).read("3D/3dmodel.model").decode()
        for one in Print.objects.select_related("specimen"):
            self.assertIn(f'name="{one.specimen.code}"', model)
        self.assertEqual(self.client.get(f"/batches/{made.pk}/plate-9.3mf").status_code, 404)
        self.assertContains(
            self.client.get(f"/campaigns/{made.campaign_id}/labels/"),
            "<svg",
            count=made.campaign.specimens.count() + 1,
        )

    def test_measuring_flags_at_once(self):
        made = batch(self.user)
        code = first_print(made).specimen.code
        address = f"/specimens/{code}/measure/"
        done = self.client.post(
            address, {"width": "5.02 5.04", "thickness": "2.01", "mass": "1.28"}
        ).json()
        self.assertEqual((done["deviations"]["width"], done["flags"]), ("+0.6 %", []))
        flags = self.client.post(
            address, {"width": "5.6", "thickness": "2.01", "mass": "1.0"}
        ).json()["flags"]
        self.assertIn("width +12.0 % from nominal", flags)
        self.assertIn("voids or under-extrusion", " ".join(flags))
        bad = self.client.post(address, {"width": "wide", "thickness": "2"})
        self.assertEqual((bad.status_code, bad.json()["field"]), (422, "width"))
        self.assertContains(self.client.get(f"/specimens/{code}/bench/"), 'value="5.6"')
        self.assertContains(self.client.get(f"/batches/{made.pk}/measure/"), "from nominal")

    def test_grades_and_photos(self):
        made = batch(self.user)
        picture = io.BytesIO()
        image = Image.new("RGB", (80, 60), "red")
        exif = image.getexif()
        exif[0x010E] = "secret place"
        image.save(picture, "JPEG", exif=exif)
        address = f"/batches/{made.pk}/grade/"
        self.client.post(
            address,
            {
                "aspect": "bridge",
                "score": "4",
                "measured": "0.4 mm",
                "note": "fine",
                "photo": SimpleUploadedFile("p.jpg", picture.getvalue()),
            },
        )
        stored = Grade.objects.get()
        self.assertAlmostEqual(stored.measured, 0.0004)
        shown = b"".join(self.client.get(f"/grades/{stored.pk}/photo/").streaming_content)
        self.assertNotIn(b"secret place", shown)
        for typed, sentence in (
            ({"score": "9"}, "between 1 and 5"),
            ({"aspect": "taste"}, "Choose what is graded"),
            ({"measured": "lots"}, "not start with a number"),
            ({"photo": SimpleUploadedFile("p.jpg", b"not a picture")}, "not a JPEG"),
        ):
            self.assertContains(
                self.client.post(address, {"aspect": "warp", "score": "3"} | typed),
                sentence,
                status_code=422,
            )
        with self.assertRaisesRegex(InputError, "40 MB"):
            clean_picture(SimpleUploadedFile("x.jpg", b"0" * 40_000_001), 2000)

    def test_damp_lot_is_warned_of_at_print_time(self):
        made = batch(self.user, printed=False)
        made.lot.material.family = "pa6"
        made.lot.material.save()
        self.assertContains(self.client.get(f"/batches/{made.pk}/"), "dry it again")
        log_drying(
            made.lot,
            self.user,
            timezone.now(),
            temperature=353.15,
            duration=12 * 3600,
        )
        self.assertNotContains(self.client.get(f"/batches/{made.pk}/"), "dry it")

    def test_nothing_waits(self):
        made = batch(self.user)
        with self.assertRaisesRegex(InputError, "waits to be printed"):
            make_batch(
                made.campaign,
                self.user,
                BatchDraft(made.printer, made.campaign.procedures.get(), 1, lot=made.lot),
            )
        self.assertTrue(recipe(self.user.seat.workshop, "Another"))
