"""Logs and lists of areas as instruments and people write them: read right, or refused."""

import unittest
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from brunt_core.errors import InputError
from brunt_core.feedstock.areas import areas_in
from brunt_core.quantities import parse
from brunt_core.treatments.logs import read_log


def masses(text: str):
    return read_log(text, ("mass", "masse"), "mass", "g", "h")


class Times(unittest.TestCase):
    def test_a_clock_runs_on_past_midnight_more_than_once(self):
        text = "time,mass\n22:00,1\n23:30,2\n00:10,3\n23:00,4\n01:00:30,5\n"
        hours = [r.time / 3600 for r in masses(text).rows]
        for found, wanted in zip(hours, (0, 1.5, 2 + 1 / 6, 25, 27 + 1 / 120), strict=True):
            self.assertAlmostEqual(found, wanted, places=6)

    def test_no_time_of_day_has_sixty_minutes(self):
        for cell in ("10:60", "9:15:75"):
            with self.assertRaisesRegex(InputError, f"Line 3: “{cell}” is not a time of day"):
                masses(f"time,mass\n8:00,1\n{cell},2\n")

    def test_dates_in_zones_are_moments(self):
        """The night of the change to summer time is an hour shorter than its clocks say."""
        text = "time,mass\n2026-03-29 01:30+01:00,1\n2026-03-29 03:30+02:00,2\n"
        log = masses(text)
        self.assertEqual(log.rows[1].time, 3600.0)
        self.assertEqual(log.began, datetime(2026, 3, 29, 0, 30, tzinfo=UTC))

    def test_dates_of_which_some_name_a_zone(self):
        with self.assertRaisesRegex(InputError, "Some dates have a time zone"):
            masses("time,mass\n2026-03-29 01:30,1\n2026-03-29 03:30+02:00,2\n")

    def test_a_date_that_may_be_read_two_ways(self):
        for cell in ("02/03/2026 10:45", "3.2.2026", "2026/3/2"):
            with self.assertRaisesRegex(InputError, "two ways; write dates as 2026-03-02"):
                masses(f"time,mass\n{cell},1\n{cell},1\n")

    def test_dates_and_hours_do_not_mix(self):
        with self.assertRaisesRegex(InputError, "Line 2: “2026-03-02 10:00” is not a time"):
            masses("time,mass\n2026-03-02 10:00,1\n2 h,2\n")

    def test_a_date_there_is_not(self):
        with self.assertRaisesRegex(InputError, "Line 3: “2026-02-30 10:00” is not a date"):
            masses("time,mass\n2026-02-28 10:00,1\n2026-02-30 10:00,2\n")

    def test_dates_out_of_order_are_put_in_order(self):
        log = masses("time,mass\n2026-03-02 10:00,2 g\n2026-03-01 10:00,1 g\n")
        self.assertEqual([(r.time, r.value) for r in log.rows], [(0.0, 0.001), (86400.0, 0.002)])
        self.assertEqual(log.began, datetime(2026, 3, 1, 10, 0))

    def test_one_weighing_written_twice_counts_once(self):
        self.assertEqual(len(masses("time (h),mass (g)\n0,12\n0,12\n1,13\n").rows), 2)

    @given(st.lists(st.integers(1, 2000), min_size=1, max_size=30))
    def test_clock_dates_and_numbers_tell_the_same(self, steps):
        """Whichever way the moments are written, the seconds between them are the same."""
        start, minutes = datetime(2026, 3, 2, 8, 0), [0]
        for step in steps:
            minutes.append(minutes[-1] + min(step, 1439))
        moments = [start + timedelta(minutes=m) for m in minutes]
        ways = (
            [f"{m}" for m in minutes],
            [f"{m:%H:%M}" for m in moments],
            [f"{m:%Y-%m-%d %H:%M}" for m in moments],
        )
        for cells in ways:
            text = "time (min),mass (g)\n" + "".join(f"{c},{i + 1}\n" for i, c in enumerate(cells))
            self.assertEqual([r.time for r in masses(text).rows], [60.0 * m for m in minutes])


class Heads(unittest.TestCase):
    def test_the_unit_of_the_head_counts(self):
        for head, factor in (
            ("mass (mg)", 1e-6),
            ("Masse [kg]", 1.0),
            ("mass / oz", 0.028349523125),
        ):
            log = masses(f"time (h);{head}\n0;2\n1;3\n")
            self.assertAlmostEqual(log.rows[0].value, 2 * factor, places=12)

    def test_a_word_in_brackets_is_never_passed_over(self):
        for text, word in (
            ("time (h),mass (stone)\n0,1\n1,2\n", "stone"),
            ("time (fortnights),mass (g)\n0,1\n1,2\n", "fortnights"),
        ):
            with self.assertRaisesRegex(InputError, f"“{word}” is not a unit"):
                masses(text)

    def test_a_unit_of_another_kind(self):
        with self.assertRaisesRegex(InputError, "Line 2: .* is a length; a mass is needed"):
            masses("time (h),mass (mm)\n0,1\n1,2\n")

    def test_a_bound_is_no_weighing(self):
        with self.assertRaisesRegex(InputError, "Line 3"):
            masses("time (h),mass (g)\n0,12\n1,>13\n")


class Areas(unittest.TestCase):
    def square_mm(self, text: str) -> list[float]:
        return [round(a * 1e6, 9) for a in areas_in(text)]

    def test_ways_of_writing_them(self):
        for text in (
            "no,area\n1,1.5\n2,4\n",
            "area (mm2)\n1,5\n4\n",
            "\ufeffArea [µm²]\n1500000\n4000000\n",
            "n;Area (um^2)\n1;1500000\n2;4000000\n",
            "area_cm2;n\n0,015;1\n0,04;2\n",
            "area,n\n1.5 mm²,1\n0.04 cm2,2\n",
        ):
            with self.subTest(text):
                self.assertEqual(self.square_mm(text), [1.5, 4.0])

    def test_what_cannot_be_an_area(self):
        for text, sentence in (
            ("no,area\n1,2\n2,-2\n", "Line 3: an area must be more than zero"),
            ("area\n0\n", "Line 2: an area must be more than zero"),
            ("area\nnan\n", "Line 2: .*Type an area"),
            ("area [acre]\n2\n", "“acre” is not a unit"),
            ("area\n", "no rows"),
            ("no,size\n1,2\n", "no column “area”"),
            ("no,area\n1,2 mm\n", "Line 2: .* is a length; an area is needed"),
        ):
            with self.subTest(text), self.assertRaisesRegex(InputError, sentence):
                areas_in(text)


class PlainPowers(unittest.TestCase):
    """Powers typed as plain digits name the same unit as those typed raised."""

    def test_the_same_unit(self):
        pairs = (
            ("area", "mm2", "mm²"),
            ("stress", "N/mm2", "N/mm²"),
            ("energy_per_area", "ft·lbf/in2", "ft·lbf/in²"),
            ("energy_per_area", "kgf·cm/cm2", "kgf·cm/cm²"),
            ("density", "lb/ft3", "lb/ft³"),
            ("second_moment", "in4", "in⁴"),
        )
        for dimension, plain, raised in pairs:
            with self.subTest(plain):
                one, other = (parse(f"7.5 {u}", dimension) for u in (plain, raised))
                self.assertEqual((one.si, one.unit), (other.si, other.unit))

    def test_a_digit_that_is_no_power(self):
        for text, dimension in (("5 mm5", "area"), ("5 m2", "length"), ("5 N2", "force")):
            with self.subTest(text), self.assertRaises(InputError):
                parse(text, dimension)
