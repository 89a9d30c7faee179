"""Measuring on a photo: picks kept and moved, values with their uncertainty, into the field, two at once, junk."""

import json
import re

from django.test import Client, TestCase

from brunt_core.quantities import parse_typed
from brunt_web.changes.models import Change
from brunt_web.testing.models import Photo, PictureReading
from tests.support.bench import bench_of
from tests.support.workshop import BACKEND, NOW, person, turns_of

SCALE = {"kind": "scale", "name": "rule", "text": "50 mm", "picks": [[100, 900], [600, 900]]}
SWING = {"kind": "angle", "name": "swing", "text": "", "picks": [[800, 200], [1100, 500]]}
FACE = {
    "kind": "area",
    "name": "break face",
    "text": "",
    "picks": [[100, 100], [300, 100], [300, 200], [100, 200]],
}


class Pictures(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.campaign = bench_of(cls.user, "impact")
        cls.turn = turns_of(cls.campaign).first()
        cls.photo = Photo.objects.create(
            specimen=cls.turn.specimen, file="x.jpg", width=1600, height=1200, by=cls.user, at=NOW
        )
        cls.page = f"/photos/{cls.photo.pk}/measure/"

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def look(self, *rows):
        return self.client.post(f"{self.page}look/", {"rows": json.dumps(rows)})

    def keep(self, *rows, seen="", browser=None):
        sent = {"rows": json.dumps(rows), "seen": seen}
        return (browser or self.client).post(f"{self.page}keep/", sent)

    def test_values_with_what_the_picks_leave_open(self):
        told = self.look(SCALE, SWING, FACE).json()
        self.assertEqual(told["problems"], ["", "", ""])
        self.assertEqual(told["said"][0], "")
        self.assertRegex(told["said"][1], r"^45\.00 ± 0\.\d+ °$")
        self.assertRegex(told["said"][2], r"^200\.?\d* ± \d\.?\d* mm²$")
        for text, dimension in ((told["said"][1], "angle"), (told["said"][2], "area")):
            self.assertTrue(parse_typed(text, dimension).observation.is_exact)
        alone = self.look(FACE).json()
        self.assertIn("Set a scale first", alone["problems"][0])

    def test_scales_that_differ_are_told(self):
        other = SCALE | {"picks": [[100, 100], [600, 140]], "text": "53 mm"}
        self.assertIn("did not look square on", self.look(SCALE, other, FACE).json()["doubts"][0])
        self.assertEqual(self.look(SCALE, SCALE, FACE).json()["doubts"], [])

    def test_kept_moved_and_changes_told(self):
        first = self.keep(SCALE, SWING).json()
        rows = list(PictureReading.objects.all())
        self.assertEqual([r.pk for r in rows], first["keys"])
        moved = SWING | {"key": rows[1].pk, "picks": [[800, 200], [1100, 200]]}
        again = self.keep(SCALE | {"key": rows[0].pk}, moved, seen=first["seen"])
        self.assertEqual((again.status_code, PictureReading.objects.count()), (200, 2))
        self.assertAlmostEqual(PictureReading.objects.get(kind="angle").value, 1.5708, places=4)
        told = Change.objects.filter(kind="testing_picturereading", what="~").first()
        self.assertEqual(told.before["picks"], [[800, 200], [1100, 500]])
        self.keep(SCALE | {"key": rows[0].pk})
        self.assertEqual(PictureReading.objects.count(), 1)
        self.assertContains(self.client.get(f"/specimens/{self.turn.code}/"), "Measure on it")

    def test_two_at_once(self):
        seen = re.search(r'data-seen="(\w+)"', self.client.get(self.page).content.decode())[1]
        other = Client()
        other.force_login(person("quill", self.user.seat.workshop), backend=BACKEND)
        self.keep(SCALE, browser=other, seen=seen)
        mine = self.keep(SCALE, SWING, seen=seen)
        self.assertEqual(mine.status_code, 422)
        self.assertIn("changed", mine.json()["error"])
        self.assertEqual(PictureReading.objects.count(), 1)
        self.assertEqual(self.keep(SCALE, SWING, seen=mine.json()["seen"]).status_code, 200)

    def test_into_the_field_of_the_bench(self):
        self.keep(SCALE, SWING)
        row = PictureReading.objects.get(kind="angle")
        field = f"{self.turn.at}|end_angle"
        answer = self.client.post(f"{self.page}{row.pk}/", {"field": field})
        self.assertRedirects(answer, self.turn.address, fetch_redirect_response=False)
        self.assertRegex(
            self.client.get(self.turn.address).content.decode(), r'value="45\.00 ± 0\.\d+ °"'
        )
        self.assertNotContains(self.client.get(self.turn.address), "45.00 ±")
        for odd in ("", "x|end_angle", f"{self.turn.at}|width", f"{self.turn.at}|hammer"):
            self.assertEqual(
                self.client.post(f"{self.page}{row.pk}/", {"field": odd}).status_code, 404
            )

    def test_junk_and_strangers(self):
        for text in (
            "",
            "x",
            "[1]",
            "{}",
            "[" * 5000,
            '[{"kind": "scale"}]',
            '[{"kind": "x", "picks": []}]',
            '[{"kind": "area", "picks": [["a", 1]]}]',
            '[{"kind": "area", "picks": [[1e999, 1]]}]',
            '[{"kind": "area", "picks": [[NaN, 1], [1, 2], [3, 4]]}]',
            json.dumps([SCALE] * 60),
            json.dumps([SCALE | {"picks": [[1, 1]] * 90}]),
            "\ud800",
        ):
            for place in ("look", "keep"):
                answer = self.client.post(
                    f"{self.page}{place}/", {"rows": text.encode("utf-8", "replace").decode()}
                )
                self.assertEqual(answer.status_code, 422, text[:40])
        self.assertEqual(self.look(SCALE | {"text": "50 N"}, FACE).status_code, 200)
        stranger = Client()
        stranger.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(stranger.get(self.page).status_code, 404)
        self.assertEqual(self.keep(SCALE, browser=stranger).status_code, 404)
