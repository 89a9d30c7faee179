"""The rig's drawings: points that can be worked out by hand."""

import re
import unittest
from math import pi, radians
from types import SimpleNamespace

from brunt_core.methods.registry import method
from brunt_core.quantities.series import SeriesRow
from brunt_core.specimens.types import TYPES
from brunt_web.testing.course import Course
from brunt_web.testing.curve_drawing import CurveFlag, _part
from brunt_web.testing.templatetags import bench


def points(path: str) -> list[tuple[float, float]]:
    """The points of a path of straight lines."""
    return [(float(x), float(y)) for x, y in re.findall(r"(-?[\d.]+),(-?[\d.]+)", path)]


class Pendulum(unittest.TestCase):
    def test_angles_and_heights(self):
        """From 140° a hammer of 300 mm stands 300(1 − cos 140°) = 529.8 mm up; 90° is level with its pivot."""
        swing = bench.pendulum(
            {
                "start_angle": radians(140),
                "end_angle": radians(90),
                "free_end_angle": radians(138),
                "hammer_arm": 0.3,
            }
        )
        self.assertEqual(swing["start"]["height"], "530 mm")
        self.assertEqual((swing["end"]["x"], swing["end"]["y"]), (460.0, 190.0))
        self.assertEqual(swing["turn"], -90.0)
        self.assertEqual(points(swing["down"])[-1], points(swing["up"])[0])
        self.assertAlmostEqual(points(swing["beyond"])[-1][1], swing["free"]["y"], delta=0.1)

    def test_nothing_given_hangs_still(self):
        swing = bench.pendulum({})
        self.assertEqual((swing["turn"], swing["up"], swing["end"]), (0.0, "", None))


class Beams(unittest.TestCase):
    def test_three_point_and_cantilever(self):
        middle = points(bench.bent("three-point", 70, 330, 250, 40))
        self.assertEqual(max(y for _, y in middle), 290.0)
        self.assertEqual((middle[0], middle[-1]), ((70.0, 250.0), (330.0, 250.0)))
        end = points(bench.bent("cantilever", 90, 360, 155, 40))
        self.assertEqual(end[-1], (360.0, 195.0))

    def test_exaggeration_is_said(self):
        self.assertEqual(bench.sagging(0)["px"], 0.0)
        self.assertEqual(bench.sagging(0.006)["says"], "deflection drawn to scale")
        self.assertEqual(bench.sagging(0.0004)["says"], "deflection drawn 10 times its size")
        self.assertLessEqual(bench.sagging(0.5)["px"], 70.0)


class Rods(unittest.TestCase):
    def test_straight_lines_wind(self):
        straight = bench.twisted(64, 304, 200, 30, 0.0)
        self.assertTrue(all(len({y for _, y in points(p)}) == 1 for p in straight))
        wound = bench.twisted(64, 304, 200, 30, 2 * pi)
        self.assertTrue(any(len({y for _, y in points(p)}) > 5 for p in wound))


class Series(unittest.TestCase):
    def rows(self, *pairs):
        return [SeriesRow((t,), v, f"{t}: {v}") for t, v in pairs]

    def test_long_times_go_by_their_logarithm(self):
        drawn = bench.plotted(self.rows((60.0, 1.0), (600.0, 2.0), (6000.0, 3.0)), 200, 100)
        self.assertEqual([p["x"] for p in drawn["points"]], [0.0, 100.0, 200.0])
        self.assertEqual([p["y"] for p in drawn["points"]], [100.0, 50.0, 0.0])
        self.assertIn("logarithm", drawn["scale"])
        short = bench.plotted(self.rows((0.0, 1.0), (60.0, 1.5), (120.0, 1.2)), 200, 100)
        self.assertEqual([p["x"] for p in short["points"]], [0.0, 100.0, 200.0])
        self.assertEqual(bench.plotted((), 200, 100)["points"], [])

    def test_a_series_lies_among_what_is_due_and_its_siblings(self):
        course = Course([0.0, 60.0, 6000.0], {"K1-AAA": [(60.0, 2.0), (6000.0, 4.0)]})
        drawn = bench.plotted(self.rows((60.0, 1.0)), 200, 100, 0, course)
        self.assertEqual([d["time"] for d in drawn["dues"]], ["at once", "1 min", "1.7 h"])
        first, after, last = (d["x"] for d in drawn["dues"])
        self.assertTrue(0 == first < after < last == 200)
        self.assertEqual(drawn["points"][0]["x"], after)
        self.assertEqual(drawn["points"][0]["y"], 100.0)
        self.assertEqual(drawn["beside"], [("K1-AAA", f"M{after},66.7 L200.0,0.0")])
        empty = bench.plotted((), 200, 100, 0, course)
        self.assertEqual((empty["points"], len(empty["dues"])), ([], 3))

    def test_sag_grows_with_the_readings(self):
        self.assertEqual(bench.grown((), 40), 0.0)
        self.assertEqual(bench.grown(self.rows((0, 1.0), (1, 1.0)), 40), 12.0)
        self.assertEqual(bench.grown(self.rows((0, 1.0), (1, 2.5)), 40), 40.0)

    def test_hands_of_a_dial(self):
        half, full = bench.dialhand(50, 100), bench.dialhand(100, 100)
        self.assertLess(half["x"], full["x"])
        self.assertTrue(half["lost"].startswith("M"))


class Outlines(unittest.TestCase):
    def test_zones_cover_the_specimen_in_order(self):
        procedure = SimpleNamespace(
            geometry=TYPES["tension-1ba"], method=method("tension"), orientation="upright"
        )
        drawn = bench.bench_drawing(procedure)
        self.assertEqual([z["letter"] for z in drawn["zones"]], ["K", "F", "G", "R", "J"])
        self.assertEqual(len(drawn["halves"]), 5)
        self.assertTrue(all(a[2] == a[3] for a in drawn["layers"]))
        small = bench.small_outline(procedure)
        self.assertEqual([z["key"] for z in small["zones"]], [z["key"] for z in drawn["zones"]])

    def test_marks_on_a_curve_do_not_hide_one_another(self):
        places = {"peak": (100.0, 50.0), "break": (101.0, 50.0), "low": (10.0, 90.0)}
        flags = [CurveFlag(key=k, words=k, value="", x=x, y=y, mm=0.0, moved=False) for k, (x, y) in places.items()]  # fmt: skip
        _part(flags)
        self.assertEqual([f.hand for f in flags], [50.0, 23.0, 90.0])
