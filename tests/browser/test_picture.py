"""An angle, a length and an outline picked on a photo, kept, moved by keys, taken to the bench."""

from io import BytesIO
from math import cos, radians, sin

from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image, ImageDraw

from brunt_web.testing.actions.photos import add_photo
from brunt_web.testing.models import PictureReading
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase
from tests.support.media import own_media
from tests.support.workshop import NOW, turns_of

PIVOT, ARM, SWING = (600, 200), 400, 62.0


def still() -> SimpleUploadedFile:
    """A film still made for this: a pendulum at 62°, a rule of 50 mm in 500 px."""
    picture = Image.new("RGB", (1200, 900), "#d9dde0")
    pen = ImageDraw.Draw(picture)
    end = (PIVOT[0] + ARM * sin(radians(SWING)), PIVOT[1] + ARM * cos(radians(SWING)))
    pen.line([PIVOT, end], fill="#222", width=8)
    pen.ellipse([end[0] - 16, end[1] - 16, end[0] + 16, end[1] + 16], fill="#833")
    pen.line([(100, 800), (600, 800)], fill="#26348b", width=6)
    pen.rectangle([700, 650, 900, 750], fill="#777")
    held = BytesIO()
    picture.save(held, "PNG")
    return SimpleUploadedFile("still.png", held.getvalue())


class Picking(BrowserTestCase):
    def setUp(self):
        super().setUp()
        own_media(self)
        self.campaign = bench_of(self.user, "impact")
        self.turn = turns_of(self.campaign).order_by("run_order").first()
        photo = add_photo(self.turn.specimen, self.user, NOW, still(), "film still")
        self.open(f"/photos/{photo.pk}/measure/")

    def press(self, x, y):
        box = self.page.locator("svg.pic-photo").bounding_box()
        scale = min(box["width"] / 1200, box["height"] / 900)
        left = box["x"] + (box["width"] - 1200 * scale) / 2
        top = box["y"] + (box["height"] - 900 * scale) / 2
        self.page.mouse.click(left + x * scale, top + y * scale)

    def test_an_angle_from_a_film_still_goes_to_the_bench(self):
        self.page.keyboard.press("s")
        self.press(100, 800)
        self.press(600, 800)
        self.page.keyboard.type("50 mm")
        self.page.keyboard.press("Tab")
        self.page.locator("[data-tool=angle]").click()
        end = (PIVOT[0] + ARM * sin(radians(SWING)), PIVOT[1] + ARM * cos(radians(SWING)))
        self.press(*PIVOT)
        self.press(*end)
        self.page.locator("svg.pic-photo").press("Enter")
        self.page.locator("[data-tool=area]").click()
        for corner in ((700, 650), (900, 650), (900, 750), (700, 750)):
            self.press(*corner)
        self.page.locator("svg.pic-photo").press("Enter")
        self.sees("mm²", "[data-list]")
        self.page.get_by_role("button", name="Save with photo").click()
        self.sees("Kept with the photo")
        angle = PictureReading.objects.get(kind="angle")
        self.assertAlmostEqual(angle.value, radians(SWING), delta=4 * angle.uncertainty)
        self.assertLess(angle.uncertainty, radians(0.6))
        face = PictureReading.objects.get(kind="area")
        self.assertAlmostEqual(face.value * 1e6, 200.0, delta=4 * face.uncertainty * 1e6)
        spot = self.page.locator("[data-spot='1 1']")
        spot.focus()
        for _ in range(3):
            self.page.keyboard.press("Shift+ArrowRight")
        self.page.get_by_role("button", name="Save with photo").click()
        self.page.wait_for_timeout(300)
        self.sees("Kept with the photo")
        moved = PictureReading.objects.get(kind="angle")
        self.assertEqual(moved.pk, angle.pk)
        self.assertGreater(moved.value, angle.value)
        row = self.page.locator("[data-row='1']")
        self.page.wait_for_selector("[data-row='1'] form")
        row.get_by_label("Field at the bench").select_option(f"{self.turn.at}|end_angle")
        row.get_by_role("button", name="Put it there").click()
        self.page.wait_for_selector("#f-end_angle")
        self.assertRegex(self.page.locator("#f-end_angle").input_value(), r"^\d\d\.\d+ ± 0\.\d+ °$")
