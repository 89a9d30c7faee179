"""Particles on drawn pictures whose areas are known by geometry, drawn four times finer and reduced."""

import unittest
from math import cos, hypot, pi, sin

import numpy as np
from PIL import Image, ImageDraw

from brunt_core.errors import InputError
from brunt_core.feedstock.particles import find_particles, of_areas, scale_between, spread_of

FINE, SCALE = 4, 5e-5
WIDTH, HEIGHT = 900, 700


class Sheet:
    """A drawn sheet of paper: shapes with their areas in pixels."""

    def __init__(self, paper=245, ink=40):
        self.image = Image.new("L", (WIDTH * FINE, HEIGHT * FINE), paper)
        self.draw = ImageDraw.Draw(self.image)
        self.ink, self.areas = ink, []

    def polygon(self, points):
        """A polygon; its area by the shoelace formula."""
        self.draw.polygon([(x * FINE, y * FINE) for x, y in points], fill=self.ink)
        turns = zip(points, points[1:] + points[:1], strict=True)
        self.areas.append(abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in turns)) / 2)

    def disc(self, x, y, r):
        """A disc, as a polygon of 200 sides."""
        self.polygon([(x + r * cos(a), y + r * sin(a)) for a in np.linspace(0, 2 * pi, 200)[:-1]])

    def pixels(self, noise=0.0, slope=0.0):
        """Grey values, with noise and light that falls off to one side."""
        small = self.image.resize((WIDTH, HEIGHT), Image.Resampling.BOX)
        grey = np.asarray(small, dtype=float)
        rng = np.random.default_rng(2)
        return grey + rng.normal(0, noise, grey.shape) + np.linspace(-slope, slope, WIDTH)


def worst(sheet, **how):
    """The greatest relative fault of an area, both sorted."""
    found = sorted(p.area / SCALE**2 for p in find_particles(sheet.pixels(**how), SCALE))
    true = sorted(sheet.areas)
    assert len(found) == len(true), (len(found), len(true))
    return max(abs(f / t - 1) for f, t in zip(found, true, strict=True))


class Drawn(unittest.TestCase):
    def discs(self, **paper):
        sheet = Sheet(**paper)
        for i, r in enumerate((14, 18, 22, 27, 33, 40)):
            for j in range(5):
                sheet.disc(80 + 130 * i + j, 80 + 130 * j, r + 0.37 * j)
        return sheet

    def test_areas_within_two_per_cent(self):
        self.assertLess(worst(self.discs()), 0.02)
        self.assertLess(worst(self.discs(), noise=8, slope=25), 0.02)

    def test_light_on_dark_too(self):
        self.assertLess(worst(self.discs(paper=30, ink=220), noise=4), 0.02)

    def test_flakes_of_any_shape(self):
        sheet = Sheet()
        sheet.polygon([(50, 50), (250, 70), (240, 110), (40, 92)])
        sheet.polygon([(400, 100), (500, 120), (480, 220), (390, 200)])
        sheet.polygon([(600, 300), (700, 300), (700, 335), (640, 335), (640, 400), (600, 400)])
        sheet.polygon([(200, 300), (330, 420), (310, 440), (180, 322)])
        sheet.polygon([(500, 500), (560, 520), (580, 600), (480, 590)])
        self.assertLess(worst(sheet, noise=5), 0.02)

    def test_touching_ones_are_parted(self):
        sheet = Sheet()
        for i in range(6):
            r, s, turn = 26 + 3 * i, 20 + 3 * i, 0.9 * i
            x, y = 150 + 280 * (i % 3), 170 + 300 * (i // 3)
            sheet.disc(x, y, r)
            sheet.disc(x + (r + s - 1) * cos(turn), y + (r + s - 1) * sin(turn), s)
        self.assertLess(worst(sheet, noise=5), 0.02)

    def test_length_and_width(self):
        sheet = Sheet()
        sheet.polygon([(100, 100), (300, 100), (300, 140), (100, 140)])
        one = find_particles(sheet.pixels(), SCALE)[0]
        self.assertAlmostEqual(one.length / SCALE / hypot(200, 40), 1, delta=0.01)
        self.assertAlmostEqual(one.width / SCALE / 40, 1, delta=0.03)
        xs, ys = zip(*one.outline, strict=True)
        self.assertAlmostEqual(min(xs), 99.5, delta=0.6)
        self.assertAlmostEqual(max(ys), 139.5, delta=0.6)

    def test_what_is_cut_by_the_edge_counts_apart(self):
        sheet = Sheet()
        sheet.disc(200, 200, 30)
        sheet.disc(5, 400, 30)
        found = find_particles(sheet.pixels(), SCALE)
        self.assertEqual(sorted(p.cut for p in found), [False, True])
        self.assertEqual(spread_of(found).count, 1)

    def test_a_large_picture_is_worked_out_smaller(self):
        sheet = self.discs()
        large = np.kron(sheet.pixels(), np.ones((3, 3)))
        found = sorted(p.area for p in find_particles(large, SCALE / 3))
        true = sorted(a * SCALE**2 for a in sheet.areas)
        self.assertEqual(len(found), len(true))
        self.assertLess(max(abs(f / t - 1) for f, t in zip(found, true, strict=True)), 0.02)


class Refused(unittest.TestCase):
    def test_pictures_with_nothing_on_them(self):
        rng = np.random.default_rng(1)
        for picture in (
            np.full((90, 90), 200.0),
            rng.normal(100, 10, (200, 200)),
            np.zeros((3, 3)),
        ):
            with self.assertRaises(InputError):
                find_particles(picture, SCALE)
        with self.assertRaisesRegex(InputError, "scale"):
            find_particles(Sheet().pixels(), 0.0)

    def test_a_scale_from_a_ruler(self):
        self.assertAlmostEqual(scale_between((10, 20), (410, 320), 0.05), 1e-4)
        with self.assertRaisesRegex(InputError, "too near"):
            scale_between((10, 10), (12, 10), 0.01)

    def test_areas_alone(self):
        spread = spread_of(of_areas([1e-6, 2e-6, 3e-6, 4e-6]), over=2e-3)
        wanted = np.percentile([1, 2, 3, 4], (50, 10, 90))
        for got, want in zip((spread.median, spread.p10, spread.p90), wanted, strict=True):
            self.assertAlmostEqual(got * 1e6, want)
        self.assertEqual(spread.share_over, 0.25)
        with self.assertRaisesRegex(InputError, "more than zero"):
            of_areas([1e-6, -1.0])
