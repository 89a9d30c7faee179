"""A gauge study and a certificate's figures against worked examples."""

import unittest

import numpy as np

from brunt_core.errors import InputError
from brunt_core.mechanics.calibration import CalibrationPoint, verdict
from brunt_core.statistics.gauge import gauge

# Ten parts, three appraisers, three trials: the worked example of the automotive measurement systems
# handbook (4th edition, 2010), numbers and results from memory: by analysis of variance EV 0.199933,
# AV 0.226838, interaction 0, GRR 0.302373.
_PARTS = {
    "A": (
        "0.29 -0.56 1.34 0.47 -0.80 0.02 0.59 -0.31 2.26 -1.36",
        "0.41 -0.68 1.17 0.50 -0.92 -0.11 0.75 -0.20 1.99 -1.25",
        "0.64 -0.58 1.27 0.64 -0.84 -0.21 0.66 -0.17 2.01 -1.31",
    ),
    "B": (
        "0.08 -0.47 1.19 0.01 -0.56 -0.20 0.47 -0.63 1.80 -1.68",
        "0.25 -1.22 0.94 1.03 -1.20 0.22 0.55 0.08 2.12 -1.62",
        "0.07 -0.68 1.34 0.20 -1.28 0.06 0.83 -0.34 2.19 -1.50",
    ),
    "C": (
        "0.04 -1.38 0.88 0.14 -1.46 -0.29 0.02 -0.46 1.77 -1.49",
        "-0.11 -1.13 1.09 0.20 -1.07 -0.67 0.01 -0.56 1.45 -1.77",
        "-0.15 -0.96 0.67 0.11 -1.45 -0.49 0.21 -0.49 1.87 -2.16",
    ),
}


class Study(unittest.TestCase):
    def rows(self):
        return [
            (float(x), str(part), who)
            for who, trials in _PARTS.items()
            for trial in trials
            for part, x in enumerate(trial.split())
        ]

    def test_the_handbook_s_example(self):
        values, parts, rigs = zip(*self.rows(), strict=True)
        found = gauge(values, parts, rigs)
        self.assertAlmostEqual(found.repeatability, 0.199933, places=5)
        self.assertAlmostEqual(found.reproducibility, 0.226838, places=5)
        self.assertAlmostEqual(found.combined, 0.302373, places=5)
        self.assertEqual((found.levels, found.n), ({"rig": 3}, 90))

    def test_against_a_mean_square_of_its_own(self):
        """The same by mean squares of a two-way analysis without interaction, worked with numpy."""
        y = np.array([[t.split() for t in trials] for trials in _PARTS.values()], float)
        operators, trials, parts = y.shape
        by_operator, by_part = y.mean((1, 2)), y.mean((0, 1))
        fit = by_operator[:, None, None] + by_part[None, None, :] - y.mean()
        rest = ((y - fit) ** 2).sum() / (y.size - operators - parts + 1)
        between = trials * parts * ((by_operator - y.mean()) ** 2).sum() / (operators - 1)
        values, names, rigs = zip(*self.rows(), strict=True)
        found = gauge(values, names, rigs)
        self.assertAlmostEqual(found.repeatability**2, rest, places=6)
        self.assertAlmostEqual(
            found.reproducibility**2, (between - rest) / (trials * parts), places=6
        )

    def test_simulated_rigs_are_found(self):
        """Four rigs with a variation of 2, two hands without any, specimens of 1: unequal numbers of each."""
        random, seen = np.random.default_rng(5), []
        for _ in range(30):
            off = random.normal(0, 2, 6)
            rows = [
                (
                    50 + 5 * c + off[r] + random.normal(),
                    f"c{c}",
                    f"rig {r}",
                    f"hand {(c + r + i) % 2}",
                )
                for c in range(3)
                for r in range(6)
                for i in range(1 + (c + r) % 3)
            ]
            found = gauge(*(list(x) for x in zip(*rows, strict=True)))
            seen.append((found.repeatability**2, found.parts.get("rig", 0.0) ** 2))
        within, between = np.mean(seen, axis=0)
        self.assertAlmostEqual(within, 1.0, delta=0.15)
        self.assertAlmostEqual(between, 4.0, delta=1.3)

    def test_one_rig_and_one_hand_say_nothing(self):
        with self.assertRaisesRegex(InputError, "nothing to compare"):
            gauge([1.0, 2.0, 3.0, 4.0], list("aabb"), ["x"] * 4, hands=["y"] * 4)


class Certificate(unittest.TestCase):
    def test_classes_by_indication(self):
        """ISO 7500-1:2018, table 2: ± 0.5, 1, 2, 3 % (from memory)."""
        for off, grade in (
            (0.004, 0.5),
            (0.005, 0.5),
            (-0.009, 1),
            (0.02, 2),
            (-0.03, 3),
            (0.031, None),
        ):
            told = verdict(
                [CalibrationPoint(200.0, 200.0 * (1 + off)), CalibrationPoint(1000.0, 1000.0)]
            )
            self.assertEqual(told.grade, grade, off)
            self.assertAlmostEqual(told.worst, abs(off))

    def test_its_own_uncertainty_widens_the_limit(self):
        told = verdict([CalibrationPoint(100.0, 100.5, 0.3), CalibrationPoint(10.0, 10.0, 0.2)])
        self.assertAlmostEqual(told.limit, 0.02)
        for bad in ([], [CalibrationPoint(0.0, 1.0)], [CalibrationPoint(1.0, 1.0, -1.0)]):
            with self.assertRaises(InputError):
                verdict(bad)
