"""Unlike rigs in means, differences and ratios: GUM by hand, and the level held by simulation."""

import unittest
from math import hypot, log

import numpy as np
import scipy.stats

from brunt_core.computation import Instrument
from brunt_core.observations import Observation
from brunt_core.statistics.direction import rank_ratios
from brunt_core.statistics.equivalence import within
from brunt_core.statistics.ranking import rank, with_calibration
from brunt_core.statistics.ratios import Ratio, widened
from brunt_core.statistics.rigs import Rigs, quotients, rig_shares
from brunt_core.statistics.summaries import summarise

O = Observation  # noqa: E741


def exact(values):
    return [O.exact(float(v)) for v in values]


class Limits(unittest.TestCase):
    def test_a_limit_of_error_is_rectangular(self):
        """Half its width a gives the standard uncertainty a/√3; a step of the display d gives d/√12: JCGM 100, 4.3.7."""
        for value in (40.0, -40.0):
            one = Instrument("frame", relative=0.01).uncertainty(value)
            self.assertAlmostEqual(one, scipy.stats.uniform(-0.4, 0.8).std(), places=12)
        self.assertAlmostEqual(
            Instrument("dial", absolute=0.5).uncertainty(9.0),
            scipy.stats.uniform(-0.5, 1).std(),
            places=12,
        )
        self.assertAlmostEqual(
            Instrument("dial", resolution=0.2).uncertainty(9.0),
            scipy.stats.uniform(0, 0.2).std(),
            places=12,
        )


class Shares(unittest.TestCase):
    def test_mean_and_difference_by_the_law_of_propagation(self):
        """Σ (∂f/∂e_r)² u²(e_r), e_r the error of each rig (GUM 5.1.2 and F.1.2.3)."""
        rigs = Rigs(
            rig_shares({"A": [1, 1, 1, 2], "B": [1, 2, 2, 2], "C": []}), {1: 0.004, 2: 0.01}
        )
        self.assertAlmostEqual(rigs.of_mean("A"), hypot(0.75 * 0.004, 0.25 * 0.01))
        self.assertAlmostEqual(rigs.of_difference("A", "B"), hypot(0.5 * 0.004, 0.5 * 0.01))
        self.assertEqual((rigs.of_mean("C"), rigs.of_mean("D")), (0.0, 0.0))
        self.assertEqual(rigs.of_difference("B", "B"), 0.0)

    def test_one_rig_changes_nothing(self):
        groups = {"A": exact((50, 51, 50.4)), "B": exact((47, 48, 47.2))}
        one = Rigs({"A": {1: 1.0}, "B": {1: 1.0}}, {1: 0.01})
        self.assertEqual(rank(groups, rigs=one).pairs, rank(groups).pairs)
        self.assertEqual(rank(groups, rigs=Rigs({}, {})), rank(groups))

    def test_two_rigs_widen_the_difference_the_ratio_and_each_mean(self):
        groups = {"A": exact((50, 51, 50.4)), "B": exact((47, 48, 47.2))}
        two = Rigs({"A": {1: 1.0}, "B": {2: 1.0}}, {1: 0.02, 2: 0.03})
        plain, wide = rank(groups, "B"), rank(groups, "B", rigs=two)
        between = hypot(0.02, 0.03) * (plain.rows[0].summary.mean + plain.rows[1].summary.mean) / 2
        self.assertAlmostEqual(
            wide.pairs[0].standard_error, hypot(plain.pairs[0].standard_error, between)
        )
        self.assertEqual(wide.pairs[0].df, plain.pairs[0].df)
        self.assertGreater(wide.pairs[0].p, plain.pairs[0].p)
        self.assertTrue(plain.apart(0, 1))
        self.assertFalse(wide.apart(0, 1))
        self.assertLess(wide.rows[0].of_reference.low, plain.rows[0].of_reference.low)
        self.assertGreater(wide.rows[1].of_best.high, plain.rows[1].of_best.high)
        told = with_calibration(wide, {n: two.of_mean(n) for n in groups})
        grown = [r.summary.high - r.summary.mean for r in told.rows]
        was = [r.summary.high - r.summary.mean for r in plain.rows]
        self.assertAlmostEqual(
            grown[0], hypot(was[0], 1.959964 * 0.02 * plain.rows[0].summary.mean), 5
        )
        self.assertGreater(grown[1] - was[1], 0)

    def test_a_bound_on_another_rig(self):
        groups = {"A": [O.at_least(52.0)] * 3, "B": exact((48, 49, 48.4))}
        two = Rigs({"A": {1: 1.0}, "B": {2: 1.0}}, {1: 0.05, 2: 0.05})
        self.assertLess(rank(groups).pairs[0].p, rank(groups, rigs=two).pairs[0].p)

    def test_a_ratio_widened(self):
        wide = widened(Ratio(1.2, 1.1, 1.3), 0.02)
        self.assertAlmostEqual(log(1.2 / wide.low), hypot(log(1.2 / 1.1), 1.959964 * 0.02), 6)
        self.assertEqual(widened(Ratio(1.2, -0.1, 1.3), 0.02).low, 0.0)
        self.assertEqual(widened(Ratio(1.2), 0.02), Ratio(1.2))


class Quotients(unittest.TestCase):
    def test_what_falls_out_and_what_stays(self):
        """GUM F.1.2.3: of one rig nothing; of two both; half and half on one and the other, half of each."""
        known = {1: 0.004, 2: 0.01}
        flat = Rigs({"A": {1: 1.0}, "B": {1: 1.0}, "C": {1: 0.5, 2: 0.5}, "E": {1: 1.0}}, known)
        upright = Rigs({"A": {1: 1.0}, "B": {2: 1.0}, "C": {2: 1.0}, "D": {2: 1.0}}, known)
        found = quotients(upright, flat)
        self.assertEqual(set(found.shares), {"A", "B", "C"})
        self.assertEqual(found.of_mean("A"), 0.0)
        self.assertAlmostEqual(found.of_mean("B"), hypot(0.004, 0.01))
        self.assertAlmostEqual(found.of_mean("C"), hypot(0.002, 0.005))
        self.assertAlmostEqual(found.of_difference("A", "B"), hypot(0.004, 0.01))
        self.assertAlmostEqual(found.of_difference("B", "C"), hypot(0.002, 0.005))

    def test_a_rig_that_is_not_what_one_side_is_read_on(self):
        """Where a property does not rest on the rig's reading its calibration is no part of it."""
        found = quotients(Rigs({"A": {1: 1.0}}, {1: 0.01}), Rigs({"A": {1: 1.0}}, {1: 0.0}))
        self.assertAlmostEqual(found.of_mean("A"), 0.01)

    def test_intervals_of_upright_over_flat_hold(self):
        """Flat on one rig, upright on another, each off by 1 % (one sd); the true quotient is 0.6."""
        rng, held = np.random.default_rng(5), {True: 0, False: 0}
        rigs = quotients(Rigs({"A": {2: 1.0}}, {2: 0.01}), Rigs({"A": {1: 1.0}}, {1: 0.01}))
        for _ in range(1500):
            off = 1 + rng.normal(0, 0.01, 2)
            top, flat = (
                exact(o * rng.normal(m, 0.01 * m, 5)) for o, m in zip(off, (30, 50), strict=True)
            )
            for known in held:
                row = rank_ratios({"A": top}, {"A": flat}, rigs=rigs if known else None).rows[0]
                held[known] += row.summary.low <= 0.6 <= row.summary.high
        self.assertLess(held[False] / 1500, 0.8)
        self.assertGreater(held[True] / 1500, 0.94)
        self.assertLess(held[True] / 1500, 0.995)

    def test_alike_is_said_no_oftener_than_it_may(self):
        """Two that differ by just the limit, on two rigs: wrongly alike in 5 % at most, in more without."""
        rng, said = np.random.default_rng(8), {0.01: 0, 0.0: 0}
        for _ in range(1500):
            off = 1 + rng.normal(0, 0.01, 2)
            a, b = (
                summarise(exact(o * rng.normal(m, 0.4, 6)))
                for o, m in zip(off, (52.5, 50.0), strict=True)
            )
            for known in said:
                said[known] += within(a, b, 0.05, unlike=hypot(known, known))[0] is True
        self.assertLess(said[0.01] / 1500, 0.06)
        self.assertGreater(said[0.0] / 1500, 0.1)


class Level(unittest.TestCase):
    def wrong(self, known: float, rounds: int = 2000, n: int = 4) -> float:
        """How often two alike groups on two rigs, each off by 1 % (one sd), are significantly different."""
        rng = np.random.default_rng(41)
        rigs = Rigs({"A": {1: 1.0}, "B": {2: 1.0}}, {1: known, 2: known})
        apart = 0
        for _ in range(rounds):
            off = 1 + rng.normal(0, 0.01, 2)
            groups = {k: exact(off[i] * rng.normal(50, 0.4, n)) for i, k in enumerate("AB")}
            apart += rank(groups, rigs=rigs).apart(0, 1)
        return apart / rounds

    def test_it_holds_with_the_calibrations_and_does_not_without(self):
        self.assertGreater(self.wrong(0.0), 0.2)
        held = self.wrong(0.01)
        self.assertLess(held, 0.055)
        self.assertGreater(held, 0.005)
