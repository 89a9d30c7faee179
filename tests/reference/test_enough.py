"""Looking after each specimen: levels against the joint normal law, error and saving by simulation;
equivalence by simulation; scores by hand."""

import unittest

import numpy as np
from scipy import stats

from brunt_core.errors import InputError
from brunt_core.observations import Observation as O
from brunt_core.statistics.enough import _looks, _parted_all, enough
from brunt_core.statistics.equivalence import within
from brunt_core.statistics.looks import RESERVE, SPENT, level_at, levels_of_looks
from brunt_core.statistics.scores import agreement, scores
from brunt_core.statistics.summaries import summarise


def drawn(rng, gap, n, cv=(1.0, 1.0)):
    return {
        "A": [O.exact(v) for v in 50 + gap + cv[0] * rng.normal(0, 1, n)],
        "B": [O.exact(v) for v in 50 + cv[1] * rng.normal(0, 1, n)],
    }


class AllAtOnce(unittest.TestCase):
    def test_every_pair_at_once_is_each_pair_by_itself(self):
        """Exact readings are judged in one go; pair by pair, by summarise, comes to the same."""
        rng = np.random.default_rng(6)
        groups = {
            f"g{i}": [O.exact(v) for v in rng.normal(50 + 2 * (i % 3), 1.5, int(n))]
            for i, n in enumerate((5, 3, 2, 7, 1, 4))
        }
        planned = {k: len(v) + 2 for k, v in groups.items()}
        steps = {"g0": 1.0, "g3": 4.0}
        found = _parted_all(groups, planned, 0.003, steps)

        def first(name, n):
            return summarise(groups[name][:n], rounding=steps.get(name, 0.0))

        for (a, b), (at, p, level) in found.items():
            have = min(len(groups[a]), len(groups[b]))
            plan = max(min(planned[a], planned[b]), 2)
            n, q, lv = _looks(a, b, have, plan, alpha=0.003, first=first)
            self.assertEqual(at, n)
            self.assertAlmostEqual(p, q, places=12)
            self.assertAlmostEqual(level, lv, places=12)
        held = {"a": [O.exact(1.0), O.at_least(2.0)], "b": [O.exact(1.0)]}
        self.assertIsNone(_parted_all(held, planned, 0.05, {}))


class Looks(unittest.TestCase):
    def test_levels_spend_what_they_say(self):
        """The chance that any look is passed without a difference, by the joint normal law of scipy."""
        for n, alpha in ((3, 0.05), (5, 0.05), (5, 0.005)):
            levels = levels_of_looks(n, alpha)
            z = [stats.norm.isf(p / 2) for p in levels]
            counts = np.arange(2, n + 1)
            cov = np.sqrt(np.minimum.outer(counts, counts) / np.maximum.outer(counts, counts))
            law = stats.multivariate_normal(np.zeros(len(z)), cov, allow_singular=True, seed=1)
            inside = law.cdf(np.array(z), lower_limit=-np.array(z))
            self.assertAlmostEqual((1 - inside) / (alpha * SPENT), 1, delta=0.01)

    def test_beyond_the_plan_only_the_reserve_is_spent(self):
        beyond = sum(level_at(n, 5, 0.05) for n in range(6, 2000))
        self.assertLess(beyond, 0.05 * RESERVE)
        self.assertGreater(beyond, 0.05 * RESERVE * 0.99)
        self.assertEqual(level_at(1, 5, 0.05), 0.0)
        with self.assertRaisesRegex(InputError, "two specimens"):
            levels_of_looks(1, 0.05)

    def test_error_holds_and_specimens_are_saved(self):
        """5 % claimed over all looks, variation unlike too; a clear difference ends early."""
        rng = np.random.default_rng(3)
        plan = {"A": 6, "B": 6}
        false = sum(
            enough(drawn(rng, 0.0, 6, s), plan, of=[]).apart
            for s in ((1, 1), (1, 3))
            for _ in range(250)
        )
        self.assertLessEqual(false / 500, 0.07)
        rounds = [enough(drawn(rng, 6.0, 6), plan, of=[]).verdicts[0] for _ in range(60)]
        self.assertGreaterEqual(np.mean([v.state == "apart" for v in rounds]), 0.95)
        self.assertLess(np.mean([v.round for v in rounds]), 4.0)

    def test_predicted_chances_come_true(self):
        """Among pairs given a chance near two thirds, about so many are parted by the plan's rest."""
        rng = np.random.default_rng(11)
        said, came = [], []
        for _ in range(500):
            data = drawn(rng, rng.choice([0.0, 1.0, 2.0, 3.0]), 10)
            early = {k: v[:4] for k, v in data.items()}
            plan = {"A": 10, "B": 10}
            before = enough(early, plan, of=[]).verdicts[0]
            if before.state == "open" and before.chance is not None:
                said.append(before.chance)
                came.append(enough(data, plan, of=[]).verdicts[0].state == "apart")
        said, came = np.array(said), np.array(came)
        self.assertAlmostEqual(said.mean(), came.mean(), delta=0.08)
        self.assertGreater(came[said > 0.8].mean(), 0.75)
        self.assertLess(came[said < 0.2].mean(), 0.35)

    def test_the_predicted_chance_by_its_formula(self):
        """Worked out once more for each pair by itself, with scipy.stats' own t distribution."""
        rng = np.random.default_rng(23)
        groups = {
            name: [O.exact(v) for v in rng.normal(mean, 1.5, n)]
            for name, mean, n in (("A", 50, 4), ("B", 51, 3), ("C", 50.4, 6), ("D", 52, 2))
        }
        plan = {"A": 8, "B": 6, "C": 6, "D": 9}
        found = enough(groups, plan)
        alpha = 1 - 0.95 ** (1 / 6)
        seen = 0
        for verdict in found.verdicts:
            if verdict.state != "open":
                continue
            own = [np.array([o.anchor for o in groups[k]]) for k in (verdict.first, verdict.second)]
            then = [plan[verdict.first], plan[verdict.second]]

            def welch(errors, frees):
                below = sum(e**4 / f for e, f in zip(errors, frees, strict=True))
                return sum(e**2 for e in errors) ** 2 / below

            sds = [v.std(ddof=1) for v in own]
            now = [s / np.sqrt(len(v)) for s, v in zip(sds, own, strict=True)]
            later = [s / np.sqrt(n) for s, n in zip(sds, then, strict=True)]
            level = level_at(min(then), min(then), alpha)
            free = welch(later, [n - 1 for n in then])
            reach = stats.t.ppf(1 - level / 2, free) * np.hypot(*later)
            gap = own[0].mean() - own[1].mean()
            move = np.sqrt(np.hypot(*now) ** 2 - np.hypot(*later) ** 2)
            about = stats.t(welch(now, [len(v) - 1 for v in own]))
            expected = about.cdf((gap - reach) / move) + about.cdf((-gap - reach) / move)
            self.assertAlmostEqual(verdict.chance, expected, places=9)
            seen += 1
        self.assertGreaterEqual(seen, 4)
        gains = {step.condition: step.gain for step in found.next}
        self.assertLessEqual(max(gains.values()), 3)

    def test_what_to_test_next(self):
        close = {
            "A": [O.exact(v) for v in (60.0, 60.4, 59.8)],
            "B": [O.exact(v) for v in (57.0, 60.8, 55.5)],
            "C": [O.exact(v) for v in (20.0, 20.3, 19.9)],
        }
        found = enough(close, {k: 8 for k in close})
        self.assertEqual(found.next[0].condition, "B")
        self.assertIn(("A", "B"), [(v.first, v.second) for v in found.open])
        self.assertFalse(found.settled)
        few = enough({"A": [O.exact(1.0)], "B": []}, {"A": 5, "B": 5})
        self.assertEqual(few.verdicts[0].state, "few")
        done = enough({"A": [O.exact(1.0), O.exact(2.0)], "B": [O.exact(1.5), O.exact(1.6)]}, {})
        self.assertTrue(done.settled)

    def test_held_specimens_do_not_break_it(self):
        data = {"A": [O.at_least(60.0)] * 4, "B": [O.exact(40.0), O.exact(41.0), O.exact(40.5)]}
        self.assertEqual(enough(data, {"A": 4, "B": 4}).verdicts[0].state, "open")


class Alike(unittest.TestCase):
    def test_error_at_the_limit_is_five_per_cent(self):
        rng = np.random.default_rng(2)
        said = 0
        for _ in range(1500):
            a = summarise([O.exact(v) for v in rng.normal(55, 1, 8)])
            b = summarise([O.exact(v) for v in rng.normal(50, 1, 8)])
            said += bool(within(a, b, 0.10)[0])
        self.assertAlmostEqual(said / 1500, 0.05, delta=0.02)

    def test_against_two_one_sided_tests(self):
        """Of unlike means with the limit taken of the known mean: both tests by scipy's Welch."""
        a, b = [50.1, 50.6, 49.7, 50.3, 50.0], [50.2, 49.8, 50.4, 50.1, 49.9]
        limit = 0.02 * np.mean(b)
        low = stats.ttest_ind(np.array(a) + limit, b, equal_var=False, alternative="greater").pvalue
        high = stats.ttest_ind(np.array(a) - limit, b, equal_var=False, alternative="less").pvalue
        ours = within(*(summarise([O.exact(v) for v in g]) for g in (a, b)), 0.02)[0]
        self.assertEqual(ours, max(low, high) < 0.05)

    def test_nothing_to_judge_by(self):
        one = summarise([O.exact(5.0)])
        self.assertIsNone(within(one, one, 0.1)[0])
        with self.assertRaisesRegex(InputError, "0 and 100"):
            within(one, one, 1.5)


class Scores(unittest.TestCase):
    VALUES = {
        "A": {"pull": 60.0, "blow": 5.0, "price": 20.0},
        "B": {"pull": 40.0, "blow": 20.0, "price": 25.0},
        "C": {"pull": 39.0, "blow": 4.0, "price": 60.0},
    }
    BETTER = {"pull": "higher", "blow": "higher", "price": "lower"}

    def test_by_hand(self):
        found = {s.name: s for s in scores(self.VALUES, self.BETTER)}
        self.assertEqual({n: s.rank_sum for n, s in found.items()}, {"A": 4, "B": 5, "C": 9})
        self.assertEqual({n: s.won for n, s in found.items()}, {"A": 2, "B": 1, "C": 0})
        self.assertAlmostEqual(sum(s.leads for s in found.values()), 1.0)
        self.assertEqual(found["C"].leads, 0.0)
        only = scores(self.VALUES, self.BETTER, {"blow": 1.0})
        self.assertEqual(only[0].name, "B")

    def test_share_of_weightings_with_two_properties(self):
        """A leads where w > 1/3 of the first: two thirds of all weightings."""
        values = {"A": {"x": 1.0, "y": 0.5}, "B": {"x": 0.0, "y": 1.0}, "C": {"x": 0.0, "y": 0.0}}
        found = {s.name: s.leads for s in scores(values, {"x": "higher", "y": "higher"})}
        self.assertAlmostEqual(found["A"], 2 / 3, delta=0.01)

    def test_refusals_and_agreement(self):
        for values, better, weights, sentence in (
            (self.VALUES, {}, None, "needs a property"),
            (self.VALUES, self.BETTER, {"pull": -1.0}, "zero or more"),
            (self.VALUES, self.BETTER, {"none": 1.0}, "not all zero"),
            ({"A": {"pull": 1.0}, "B": {}}, {"pull": "higher"}, None, "two conditions"),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(InputError, sentence):
                scores(values, better, weights)
        self.assertIsNone(agreement([[1, 2]]))
        self.assertEqual(agreement([[1, 2, 3], [1, 2, 3], [1, 2, 3]]), 1.0)
