"""Judgements compared by rank: the test against scipy, its level by simulation."""

import unittest

import numpy as np
from scipy import stats

from brunt_core.errors import InputError
from brunt_core.methods.judgement import scale_place, words_of_scale
from brunt_core.observations import Observation as O
from brunt_core.statistics.campaign_summary import campaign_summary
from brunt_core.statistics.ordinal import compare_ranks, rank_sum_p
from brunt_core.statistics.ranking import rank


class RankSum(unittest.TestCase):
    def test_without_ties_against_the_exact_test_of_scipy(self):
        """scipy.stats.mannwhitneyu, method exact."""
        rng = np.random.default_rng(3)
        for n, m in ((2, 2), (3, 3), (4, 6), (7, 7)):
            a, b = rng.normal(0, 1, n), rng.normal(0.8, 1, m)
            known = stats.mannwhitneyu(a, b, method="exact").pvalue
            self.assertAlmostEqual(rank_sum_p(a, b), known, places=9)

    def test_with_ties_against_a_permutation_test_of_scipy(self):
        """scipy.stats.permutation_test on the mean rank, every permutation."""
        rng = np.random.default_rng(4)
        for n, m in ((3, 4), (5, 5)):
            a, b = rng.integers(1, 5, n), rng.integers(2, 5, m)
            ranks = stats.rankdata([*a, *b])

            def off(x, y, middle=n * (n + m + 1) / 2):
                return abs(x.sum() - middle)

            known = stats.permutation_test(
                (ranks[:n], ranks[n:]), off, alternative="greater", n_resamples=np.inf
            ).pvalue
            self.assertAlmostEqual(rank_sum_p(a, b), known, places=9)

    def test_many_against_the_asymptotic_test_of_scipy(self):
        rng = np.random.default_rng(5)
        a, b = rng.integers(1, 6, 30), rng.integers(2, 7, 25)
        known = stats.mannwhitneyu(a, b, method="asymptotic").pvalue
        self.assertAlmostEqual(rank_sum_p(a, b) / known, 1, delta=1e-6)

    def test_the_family_holds_its_level(self):
        """Six equal groups of five on a scale of four, 200 times: at most 5.5 % with a difference."""
        rng = np.random.default_rng(6)
        wrong = sum(
            any(p.p < 0.05 for p in compare_ranks(rng.integers(1, 5, (6, 5)).tolist()))
            for _ in range(200)
        )
        self.assertLessEqual(wrong / 200, 0.055)

    def test_a_group_of_one_is_not_compared(self):
        self.assertEqual(compare_ranks([[1], [4, 4, 4]])[0].basis, "none")


class Scale(unittest.TestCase):
    def test_words_numbers_and_beginnings(self):
        scale = "snaps; bends, then tears; bends without breaking"
        for said, place in (
            ("snaps", 1),
            ("SNAPS", 1),
            ("2", 2),
            ("bends,", 2),
            ("bends without", 3),
        ):
            self.assertEqual(scale_place(said, scale), place)
        for said in ("bends", "4", "0", "", "breaks"):
            with self.assertRaisesRegex(InputError, "not on the scale"):
                scale_place(said, scale)
        for wrong in ("only", "", "a; A"):
            with self.assertRaises(InputError):
                words_of_scale(wrong)

    def test_the_headline_says_no_times(self):
        groups = {"A": [O.exact(4.0)] * 5, "B": [O.exact(1.0)] * 5, "C": [O.exact(2.0)] * 5}
        ranking = rank(groups, ordinal=True)
        said = " ".join(f"{f.strong} {f.rest}" for f in campaign_summary(ranking, ordinal=True))
        self.assertIn("A leads, ahead of C.", said)
        self.assertIn("by rank", said)
        self.assertNotIn("times", said)
        self.assertEqual([r.of_best for r in ranking.rows], [None] * 3)
