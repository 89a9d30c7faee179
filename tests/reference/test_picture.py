"""Measuring on a picture: values against shapely, uncertainties against picks varied at random."""

import unittest
from math import cos, degrees, pi, radians, sin

import numpy as np
import shapely

from brunt_core.errors import InputError
from brunt_core.mechanics.picture import PictureScale, angle_of, area_of, askew, length_of, scale_of


def varied(picks, random, pick):
    return [(x + random.normal(0, pick), y + random.normal(0, pick)) for x, y in picks]


class Values(unittest.TestCase):
    def test_lengths_and_areas_are_those_of_another_library(self):
        random = np.random.default_rng(2)
        for _ in range(40):
            n = random.integers(3, 12)
            turns = np.sort(random.uniform(0, 2 * pi, n))
            picks = [
                (400 + r * cos(t), 300 + r * sin(t))
                for t, r in zip(turns, random.uniform(80, 200, n), strict=True)
            ]
            shape = shapely.Polygon(picks)
            if not shape.is_simple or not shape.is_valid:
                continue
            scale = PictureScale(0.0001, 0.0)
            self.assertAlmostEqual(area_of(picks, scale).value, shape.area * 1e-8, places=14)
            line = shapely.LineString(picks)
            self.assertAlmostEqual(length_of(picks, scale).value, line.length * 1e-4, places=12)

    def test_angles_all_round_and_against_a_leaning_plumb(self):
        for wanted in range(0, 181, 15):
            for side in (1, -1):
                end = (500 + side * 200 * sin(radians(wanted)), 300 + 200 * cos(radians(wanted)))
                self.assertAlmostEqual(degrees(angle_of((500, 300), end).value), wanted, places=4)
        lean = radians(4)
        plumb = ((100.0, 100.0), (100 + 300 * sin(lean), 100 + 300 * cos(lean)))
        end = (500 + 200 * sin(radians(94)), 300 + 200 * cos(radians(94)))
        self.assertAlmostEqual(degrees(angle_of((500, 300), end, plumb).value), 90, places=6)

    def test_what_cannot_be_is_refused(self):
        scale = PictureScale(1.0, 0.0)
        for bad in (
            lambda: scale_of((1, 1), (1, 1), 0.1),
            lambda: scale_of((1, 1), (9, 9), 0.0),
            lambda: length_of([(1, 1)], scale),
            lambda: area_of([(0, 0), (1, 1)], scale),
            lambda: area_of([(0, 0), (10, 10), (10, 0), (0, 10)], scale),
            lambda: angle_of((1, 1), (1, 1)),
        ):
            self.assertRaises(InputError, bad)

    def test_scales_that_differ_say_that_the_camera_looked_askew(self):
        self.assertAlmostEqual(
            askew([PictureScale(1.0, 0), PictureScale(1.05, 0), PictureScale(1.02, 0)]), 0.05
        )
        self.assertEqual(askew([PictureScale(1.0, 0)]), 0.0)


class Uncertainty(unittest.TestCase):
    """What is said of the picks' uncertainty is what varied picks do, within a tenth."""

    def check(self, work, picks, said, pick):
        random = np.random.default_rng(7)
        seen = np.std([work(varied(picks, random, pick)) for _ in range(4000)])
        self.assertAlmostEqual(said / seen, 1.0, delta=0.08)

    def test_a_length_with_its_scale(self):
        picks, pick = [(100, 100), (600, 130), (200, 400), (390, 470), (700, 420)], 1.5

        def work(p):
            return length_of(p[2:], scale_of(p[0], p[1], 0.05, pick), pick).value

        said = length_of(picks[2:], scale_of(picks[0], picks[1], 0.05, pick), pick).uncertainty
        self.check(work, picks, said, pick)

    def test_an_angle_with_its_plumb_line(self):
        picks, pick = [(500, 300), (700, 420), (480, 100), (485, 640)], 1.0

        def work(p):
            return angle_of(p[0], p[1], (p[2], p[3]), pick).value

        said = angle_of(picks[0], picks[1], (picks[2], picks[3]), pick).uncertainty
        self.check(work, picks, said, pick)

    def test_an_area_with_its_scale(self):
        picks, pick = (
            [(100, 50), (700, 60), (300, 200), (520, 230), (560, 420), (410, 500), (280, 380)],
            2.0,
        )

        def work(p):
            return area_of(p[2:], scale_of(p[0], p[1], 0.06, pick), pick).value

        said = area_of(picks[2:], scale_of(picks[0], picks[1], 0.06, pick), pick).uncertainty
        self.check(work, picks, said, pick)
